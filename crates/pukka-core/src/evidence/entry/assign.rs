//! Gives each figure of a line its quantity, and says how it was read.

use crate::evidence::entry::number::{Number, Part, Piece, Unit};
use crate::evidence::entry::{Choice, EntryContext, Readings, Segment, SegmentKind};
use crate::kernel::format;
use crate::kernel::units::{Amps, Celsius, Level, QuantityError, Ratio, Volts, VoltsPeak, VoltsPeakToPeak, VoltsRms, Watts};
use crate::record::session::{Cycles, Mode, OutputReading, ReadingName, SecondReading, SupplyReading};

/// The word for a charger that was on.
const CHARGER: &str = "chg";

/// Name of the reading that a unit stands for, where it may be off a moving display.
const fn name_of(unit: Unit) -> Option<ReadingName> {
    Some(match unit {
        Unit::Watts | Unit::Total => ReadingName::Power,
        Unit::VoltsRms => ReadingName::VoltsRms,
        Unit::VoltsPeak => ReadingName::VoltsPeak,
        Unit::VoltsPeakToPeak => ReadingName::VoltsPeakToPeak,
        Unit::SupplyVolts => ReadingName::EndVolts,
        Unit::Amps => ReadingName::Current,
        _ => return None,
    })
}

/// A figure that could not be taken.
struct Refusal {
    kind: SegmentKind,
    says: String,
    choices: Vec<Choice>,
}

impl Refusal {
    fn wrong(says: impl Into<String>) -> Self {
        Self { kind: SegmentKind::Wrong, says: says.into(), choices: Vec::new() }
    }

    fn pending(says: impl Into<String>) -> Self {
        Self { kind: SegmentKind::Pending, says: says.into(), choices: Vec::new() }
    }
}

impl From<QuantityError> for Refusal {
    fn from(error: QuantityError) -> Self {
        Self::wrong(error.to_string())
    }
}

/// The slots that figures without a letter fill, in the order the eye reads meters.
struct Slots {
    free: Vec<Unit>,
}

impl Slots {
    fn of(pieces: &[Piece], order: &[Unit]) -> Self {
        let lettered: Vec<Unit> = pieces
            .iter()
            .filter_map(|piece| match piece {
                Piece::Figure { parts, .. } => parts.iter().rev().flat_map(lettered).find_map(|part| Unit::parse(&part.letters)),
                Piece::Gap(_) => None,
            })
            .collect();
        let taken =
            |slot: &Unit| lettered.iter().any(|unit| unit == slot || ((unit.is_output() || *unit == Unit::Total) && *slot == Unit::Watts));
        let mut free = order.to_vec();
        free.retain(|slot| !taken(slot));
        free.reverse();
        Self { free }
    }

    fn next(&mut self) -> Option<Unit> {
        self.free.pop()
    }
}

/// A stretch of the line, and how its bare figures are taken.
pub struct Stretch<'a> {
    /// The whole line.
    pub line: &'a str,
    /// Start of the stretch.
    pub start: usize,
    /// Figures and gaps.
    pub pieces: &'a [Piece],
    /// The line may go on behind it.
    pub open_end: bool,
    /// Units of bare figures, in this order.
    pub order: &'a [Unit],
}

/// Reads a stretch.
pub fn assign(stretch: &Stretch, asked: EntryContext) -> (Vec<Segment>, Readings) {
    let mut readings = Readings::default();
    let mut slots = Slots::of(stretch.pieces, stretch.order);
    let mut segments = Vec::with_capacity(stretch.pieces.len());
    for (i, piece) in stretch.pieces.iter().enumerate() {
        let segment = match piece {
            Piece::Gap(text) => Segment { text: text.clone(), kind: SegmentKind::Gap, says: String::new(), choices: Vec::new() },
            Piece::Figure { text, start, parts } => {
                let last = stretch.open_end && i + 1 == stretch.pieces.len();
                let place = Place { line: stretch.line, start: stretch.start + start, length: text.len(), last };
                let each = each_or_volts(&stretch.pieces[..i], parts, &place, asked);
                match each.map_or_else(|| take(parts, &place, &mut slots, &mut readings, asked), Err) {
                    Ok(says) => Segment { text: text.clone(), kind: SegmentKind::Reading, says, choices: Vec::new() },
                    Err(refusal) => Segment { text: text.clone(), kind: refusal.kind, says: refusal.says, choices: refusal.choices },
                }
            }
        };
        segments.push(segment);
    }
    (segments, readings)
}

/// `57*4` on four outputs: 57 W at each of them, or 57 W at 4 V of supply? It asks.
fn each_or_volts(before: &[Piece], parts: &[Part], place: &Place, asked: EntryContext) -> Option<Refusal> {
    let [Piece::Figure { text, start, parts: first }, Piece::Gap(gap)] = before else { return None };
    let plain = |parts: &[Part]| match parts {
        [Part { number: Number::Plain(value), letters, name: None, times: None, .. }] if letters.is_empty() => Some(*value),
        _ => None,
    };
    let (watts, times) = (plain(first)?, plain(parts)?);
    if gap.trim() != "*" || asked.wiring.outputs() < 2 || times != f64::from(asked.wiring.outputs()) {
        return None;
    }
    let from = place.start - gap.len() - text.len();
    debug_assert!(from >= *start, "the first figure stands before");
    let line = |put: String| format!("{}{put}{}", &place.line[..from], &place.line[place.start + place.length..]);
    let (watts, outputs) = (format::as_read(watts), asked.wiring.outputs());
    let choices = vec![
        Choice { label: format!("{watts} W at each of {outputs}"), line: line(format!("{text}x{outputs}")) },
        Choice { label: format!("{watts} W, {outputs} V supply"), line: line(format!("{text} {outputs}v")) },
    ];
    Some(Refusal {
        kind: SegmentKind::Unclear,
        says: format!("{watts} W at each of {outputs} outputs, or a supply of {outputs} V?"),
        choices,
    })
}

#[derive(Clone, Copy)]
struct Place<'a> {
    line: &'a str,
    start: usize,
    length: usize,
    /// The last thing on the line, so it may be half typed.
    last: bool,
}

/// A part whose numbers were all understood.
#[derive(Clone)]
struct Token<'p> {
    part: &'p Part,
    value: f64,
    also: Vec<(f64, Option<&'p str>)>,
    /// Another quantity of the same output: its volts beside its watts.
    beside: Vec<(f64, Unit)>,
    last: Option<f64>,
    /// Value that a climbing reading started from.
    from: Option<f64>,
    /// Of several outputs read at once, which one: from 1.
    nth: Option<u16>,
}

impl Token<'_> {
    /// Name; several outputs of one name are counted: rear1, rear2.
    fn name(&self) -> Option<String> {
        let nth = self.nth.map(|nth| nth.to_string()).unwrap_or_default();
        self.part.name.as_ref().map(|name| format!("{name}{nth}"))
    }
}

/// A reading of several outputs at once, an output each.
fn several(token: Token<'_>) -> Vec<Token<'_>> {
    match token.part.times {
        None | Some(1) => vec![token],
        Some(times) => (1..=u16::from(times)).map(|nth| Token { nth: Some(nth), ..token.clone() }).collect(),
    }
}

fn take(parts: &[Part], place: &Place, slots: &mut Slots, readings: &mut Readings, asked: EntryContext) -> Result<String, Refusal> {
    if let [Part { digits, letters, .. }] = parts
        && digits.is_empty()
        && letters.eq_ignore_ascii_case(CHARGER)
    {
        readings.charger_on = Some(true);
        return Ok("a charger was on".into());
    }
    let unit = unit_of(parts, slots)?;
    if parts.len() > 1 && !unit.is_output() {
        return Err(Refusal::wrong("Only outputs are joined with +; there is one supply."));
    }
    let mut taken = Vec::with_capacity(parts.len());
    let mut half = None;
    for (i, part) in parts.iter().enumerate() {
        match one(part, unit, place) {
            Ok(value) => {
                let end = place.last && i + 1 == parts.len();
                let inner = Place { last: end, ..*place };
                let token = around(part, value, unit, &inner, asked)?;
                taken.extend(several(token));
            }
            Err(refusal) if refusal.kind == SegmentKind::Unclear => return Err(with_choices(refusal, parts, i, unit, place)),
            Err(refusal) if refusal.kind == SegmentKind::Pending && i + 1 == parts.len() => {
                taken.extend(half_value(part, unit).map(|value| Token {
                    part,
                    value,
                    also: Vec::new(),
                    beside: Vec::new(),
                    last: None,
                    from: None,
                    nth: None,
                }));
                half = Some(refusal);
            }
            Err(refusal) => return Err(refusal),
        }
    }
    store(&taken, unit, readings, asked)?;
    let shown: Vec<String> = taken.iter().map(words).collect();
    match half {
        Some(refusal) => Err(refusal),
        None => Ok(format::with_unit(&shown.join(" + "), unit.label())),
    }
}

/// Text around a number: a name, meters, what other meters say, the last of its cycles.
fn around<'p>(part: &'p Part, value: f64, unit: Unit, place: &Place, asked: EntryContext) -> Result<Token<'p>, Refusal> {
    let pending = |says: &str| if place.last { Refusal::pending(says) } else { Refusal::wrong(says) };
    if let Some(name) = &part.name {
        if !unit.is_output() {
            return Err(Refusal::wrong("Only outputs have names."));
        }
        if name.is_empty() || name.chars().count() > 20 {
            return Err(Refusal::wrong("The name of an output has 1 to 20 letters."));
        }
    }
    let metered = unit.is_output() || matches!(unit, Unit::SupplyVolts | Unit::Amps);
    if !metered && (part.meter.is_some() || !part.also.is_empty()) {
        return Err(Refusal::wrong("Only outputs, supply volts and amps have a second meter."));
    }
    for meter in part.also.iter().map(|also| &also.meter).chain([&part.meter]).flatten() {
        if meter.is_empty() {
            return Err(pending("Which meter? Put its id after the @."));
        }
        if !asked.meters.iter().any(|known| known.id == *meter) {
            return Err(pending(&format!("There is no meter “{meter}” on this bench.")));
        }
    }
    if part.times.is_some() && !unit.is_output() {
        return Err(Refusal::wrong("Only outputs can have several readings."));
    }
    let from = match &part.from {
        None => None,
        Some(_) if unit != Unit::Watts => return Err(Refusal::wrong("Only watts climb: 118..121.")),
        Some(from) => Some(inner(from, unit, place)?),
    };
    let mut also = Vec::with_capacity(part.also.len());
    let mut beside = Vec::new();
    for second in &part.also {
        if let Some(own) = Unit::parse(&second.letters).filter(|own| *own != unit && own.is_output() && unit.is_output()) {
            if beside.iter().any(|(_, other)| *other == own) {
                return Err(Refusal::wrong("Two meters on the volts: type the volts first, the watts behind them."));
            }
            beside.push((inner(second, own, place)?, own));
            continue;
        }
        if !second.letters.is_empty() && Unit::parse(&second.letters) != Some(unit) && !second.digits.is_empty() {
            return Err(Refusal::wrong("Meters joined with = read the same quantity in the same unit."));
        }
        also.push((inner(second, unit, place)?, second.meter.as_deref()));
    }
    let last = match &part.last {
        None => None,
        Some(last) if unit == Unit::SupplyVolts => Some(inner(last, unit, place)?),
        Some(_) if !unit.is_output() => return Err(Refusal::wrong("Only an output has a first and a last cycle.")),
        Some(_) if asked.mode != Mode::Dynamic => return Err(Refusal::wrong("First and last cycle belong to a burst, a dynamic run.")),
        Some(last) => Some(inner(last, unit, place)?),
    };
    // The higher one is the reading, whichever way round they were typed.
    let (value, from) = from.map_or((value, None), |from| (value.max(from), Some(value.min(from))));
    Ok(Token { part, value, also, beside, last, from, nth: None })
}

/// A number behind a = or a >: it cannot be asked about there, so it is read with its sign as a decimal sign unless that cannot be.
fn inner(part: &Part, unit: Unit, place: &Place) -> Result<f64, Refusal> {
    match one(part, unit, place) {
        Err(refusal) if refusal.kind == SegmentKind::Unclear => {
            Err(Refusal::wrong(format!("{} Write it without the sign, or with a fourth decimal.", refusal.says)))
        }
        other => other,
    }
}

fn words(taken: &Token) -> String {
    let mut words = format::as_read(taken.value);
    if taken.part.moving {
        words = format!("about {words}");
    }
    if let Some(from) = taken.from {
        words = format!("{words}, climbed from {},", format::as_read(from));
    }
    for (value, unit) in &taken.beside {
        words = format!("{words}, with {}", format::with_unit(&format::as_read(*value), unit.label()));
    }
    if let Some(name) = taken.name() {
        words = format!("{name} {words}");
    }
    if let Some(meter) = &taken.part.meter {
        words = format!("{words} on {meter}");
    }
    for (value, meter) in &taken.also {
        let on = meter.map(|meter| format!(" on {meter}")).unwrap_or_default();
        words = format!("{words}, other meter {}{on}", format::as_read(*value));
    }
    taken.last.map_or(words.clone(), |last| format!("{words} first, {} last cycle,", format::as_read(last)))
}

/// The unit of a figure: its letters, the same for all parts, else the next slot.
fn unit_of(parts: &[Part], slots: &mut Slots) -> Result<Unit, Refusal> {
    let mut unit = None;
    for part in parts {
        // "84=83w": the letters behind the last one stand for the whole part.
        let Some(letters) = lettered(part).next() else { continue };
        let own = Unit::parse(&letters.letters).ok_or_else(|| unknown_letters(letters))?;
        if unit.is_some_and(|other| other != own) {
            return Err(Refusal::wrong("Outputs joined with + are read in the same unit."));
        }
        unit = Some(own);
    }
    let unit = unit
        .or_else(|| slots.next())
        .ok_or_else(|| Refusal::wrong("Watts, volts and amps are already entered: give this figure a letter."))?;
    // Of an output read twice over, volts rms count before volts peak: what counts has to be the same at all of them.
    let mut counting = parts.iter().map(|part| counting(part, unit));
    let first = counting.next();
    if counting.any(|other| Some(other) != first) {
        return Err(Refusal::wrong("Outputs joined with + are read in the same unit."));
    }
    Ok(unit)
}

/// The unit of a part that its power is made from: where several quantities were read, the first of watts, volts rms, peak, peak to
/// peak.
fn counting(part: &Part, unit: Unit) -> Unit {
    const ORDER: [Unit; 4] = [Unit::Watts, Unit::VoltsRms, Unit::VoltsPeak, Unit::VoltsPeakToPeak];
    let own: Vec<Unit> = lettered(part).filter_map(|read| Unit::parse(&read.letters)).chain([unit]).collect();
    ORDER.into_iter().find(|one| own.contains(one)).filter(|_| unit.is_output()).unwrap_or(unit)
}

/// The parts of a part that carry letters: its own number's, or those behind a = or a >.
fn lettered(part: &Part) -> impl Iterator<Item = &Part> {
    let behind = part.also.iter().chain(part.last.as_deref());
    std::iter::once(part).chain(behind).filter(|part| !part.letters.is_empty())
}

fn unknown_letters(part: &Part) -> Refusal {
    if part.digits.is_empty() {
        return Refusal::wrong(format!("“{}” is not a figure. Put a note after a #.", part.letters));
    }
    Refusal::wrong(format!("“{}” is not a unit here: w, v, a, r, vr, vp, vpp, %, %e, c, db, cy, s or t.", part.letters))
}

/// The value of one part in its unit.
fn one(part: &Part, unit: Unit, place: &Place) -> Result<f64, Refusal> {
    let half = |says: String| if place.last { Refusal::pending(says) } else { Refusal::wrong(says) };
    let value = match &part.number {
        Number::Plain(value) => *value,
        Number::Either { thousands, decimal } => match (*thousands <= unit.most(), *decimal <= unit.most()) {
            (true, true) => {
                let (symbol, _) = unit.words();
                let says = format!(
                    "{} {symbol} or {} {symbol}? A {} before three digits can be either.",
                    format::as_read(*thousands),
                    format::as_read(*decimal),
                    if part.digits.contains(',') { "comma" } else { "point" }
                );
                return Err(Refusal { kind: SegmentKind::Unclear, says, choices: Vec::new() });
            }
            (false, true) => *decimal,
            _ => *thousands,
        },
        Number::Half(None) if part.letters.is_empty() => return Err(half("A figure is missing here.".into())),
        Number::Half(None) => return Err(Refusal::wrong(format!("“{}” has no figure before it.", part.letters))),
        Number::Half(Some(_)) => return Err(half(format!("“{}” is half a figure.", part.digits))),
        Number::Not(why) => return Err(Refusal::wrong(*why)),
    };
    let (symbol, what) = unit.words();
    if value == 0.0 && !matches!(unit, Unit::Celsius | Unit::Level) {
        return Err(Refusal::wrong(format!("0 {symbol} is not a reading of {what}.")));
    }
    if value.abs() > unit.most() {
        let most = format::as_read(unit.most());
        return Err(Refusal::wrong(format!("{} {symbol} is too much for {what}: {most} at most.", format::as_read(value))));
    }
    Ok(value)
}

fn half_value(part: &Part, unit: Unit) -> Option<f64> {
    match part.number {
        Number::Half(Some(value)) if value > 0.0 && value <= unit.most() => Some(value),
        _ => None,
    }
}

/// The two lines that the reviewer can choose from.
fn with_choices(mut refusal: Refusal, parts: &[Part], index: usize, unit: Unit, place: &Place) -> Refusal {
    let Some(Number::Either { thousands, decimal }) = parts.get(index).map(|part| part.number.clone()) else {
        return refusal;
    };
    let (symbol, _) = unit.words();
    let line_with = |digits: String| {
        let joined: Vec<String> =
            parts.iter().enumerate().map(|(i, part)| part.with_digits(if i == index { &digits } else { &part.digits })).collect();
        format!("{}{}{}", &place.line[..place.start], joined.join("+"), &place.line[place.start + place.length..])
    };
    let digits = parts.get(index).map_or("", |part| part.digits.as_str());
    refusal.choices = vec![
        Choice { label: format!("{} {symbol}", format::as_read(thousands)), line: line_with(digits.replace(['.', ','], "")) },
        // A fourth decimal says that the sign is a decimal sign.
        Choice { label: format!("{} {symbol}", format::as_read(decimal)), line: line_with(format!("{digits}0")) },
    ];
    refusal
}

fn store(taken: &[Token], unit: Unit, readings: &mut Readings, asked: EntryContext) -> Result<(), Refusal> {
    if taken.iter().any(|token| token.part.moving) {
        readings
            .approximate
            .push(name_of(unit).ok_or_else(|| Refusal::wrong("Only outputs, volts and amps are read off a moving display."))?);
    }
    readings.climbed_from_w = taken.iter().find_map(|token| token.from).map(Watts::new).transpose()?.or(readings.climbed_from_w);
    if unit.is_output() {
        return store_outputs(taken, unit, readings, asked);
    }
    let Some(Token { value, also, last, .. }) = taken.first() else {
        return Ok(());
    };
    let value = *value;
    match unit {
        Unit::Total if !readings.outputs.is_empty() || readings.cycles.is_some() => {
            Err(Refusal::wrong("The outputs are already entered: a total stands alone."))
        }
        Unit::Total => once(&mut readings.total_power_w, Watts::new(value)?, unit),
        Unit::SupplyVolts => {
            // From rest to under load.
            let end = match last {
                Some(end) => {
                    once(&mut readings.rest_v, Volts::new(value)?, Unit::RestVolts)?;
                    *end
                }
                None => value,
            };
            once(&mut readings.end_v, Volts::new(end)?, unit)?;
            for (value, meter) in also {
                readings.supply_also.push(SupplyReading {
                    end_v: Some(Volts::new(*value)?),
                    current_a: None,
                    meter: meter.map(str::to_owned),
                });
            }
            Ok(())
        }
        Unit::Amps => {
            once(&mut readings.current_a, Amps::new(value)?, unit)?;
            for (value, meter) in also {
                readings.supply_also.push(SupplyReading {
                    end_v: None,
                    current_a: Some(Amps::new(*value)?),
                    meter: meter.map(str::to_owned),
                });
            }
            Ok(())
        }
        Unit::Percent => once(&mut readings.thd_ratio, Ratio::new(value / 100.0)?, unit),
        Unit::Efficiency => once(&mut readings.efficiency_ratio, Ratio::new(value / 100.0)?, unit),
        Unit::RestVolts => once(&mut readings.rest_v, Volts::new(value)?, unit),
        Unit::Level => once(&mut readings.level_db, Level::new(value)?, unit),
        Unit::Seconds => once(&mut readings.seconds, value, unit),
        Unit::Cycles if asked.mode != Mode::Dynamic => Err(Refusal::wrong("Counted cycles belong to a burst, a dynamic run.")),
        Unit::Cycles if value.fract() != 0.0 => Err(Refusal::wrong("Cycles are counted in whole numbers.")),
        Unit::Cycles => once(&mut readings.cycle_count, value as u32, unit),
        _ => once(&mut readings.temperature_c, Celsius::new(value)?, unit),
    }
}

fn once<T>(place: &mut Option<T>, value: T, unit: Unit) -> Result<(), Refusal> {
    if place.is_some() {
        return Err(Refusal::wrong(format!("There are two readings of {}.", unit.words().1)));
    }
    *place = Some(value);
    Ok(())
}

fn store_outputs(taken: &[Token], unit: Unit, readings: &mut Readings, asked: EntryContext) -> Result<(), Refusal> {
    if asked.mode == Mode::Clipping && matches!(unit, Unit::VoltsPeak | Unit::VoltsPeakToPeak) {
        return Err(Refusal::wrong(crate::evidence::NoTotal::PeakOfClipped.to_string()));
    }
    if !readings.outputs.is_empty() || readings.cycles.is_some() || readings.total_power_w.is_some() {
        return Err(Refusal::wrong("The outputs are already entered: join them with +."));
    }
    if let [Token { value, last: Some(last), .. }] = taken {
        let end = |value: f64| reading(value, unit, None);
        readings.cycles = Some(Cycles { count: 0, first: end(*value)?, last: Some(end(*last)?) });
        return Ok(());
    }
    if taken.iter().any(|one| one.last.is_some()) {
        return Err(Refusal::wrong("Counted cycles are read at one output."));
    }
    let outputs = usize::from(asked.wiring.outputs());
    if taken.len() > outputs {
        let there = if outputs == 1 { "one output".to_owned() } else { format!("{} outputs", format::count(outputs)) };
        return Err(Refusal::wrong(format!("{} readings for {there}.", taken.len())));
    }
    let names: Vec<String> = taken.iter().enumerate().map(|(i, one)| one.name().unwrap_or_else(|| (i + 1).to_string())).collect();
    if let Some(twice) = names.iter().enumerate().find(|(i, name)| names[..*i].contains(name)) {
        return Err(Refusal::wrong(format!("There are two outputs “{}”.", twice.1)));
    }
    readings.outputs = taken.iter().zip(names).map(|(one, name)| output(one, unit, name)).collect::<Result<_, _>>()?;
    Ok(())
}

fn output(taken: &Token, unit: Unit, name: String) -> Result<OutputReading, Refusal> {
    let mut own = reading(taken.value, unit, Some(name))?;
    own.meter.clone_from(&taken.part.meter);
    for (value, unit) in &taken.beside {
        let OutputReading { power_w, volts_rms, volts_peak, volts_pp, .. } = reading(*value, *unit, None)?;
        own.power_w = own.power_w.or(power_w);
        own.volts_rms = own.volts_rms.or(volts_rms);
        own.volts_peak = own.volts_peak.or(volts_peak);
        own.volts_pp = own.volts_pp.or(volts_pp);
    }
    for (value, meter) in &taken.also {
        let OutputReading { power_w, volts_rms, volts_peak, volts_pp, .. } = reading(*value, unit, None)?;
        own.also.push(SecondReading { power_w, volts_rms, volts_peak, volts_pp, meter: meter.map(str::to_owned) });
    }
    Ok(own)
}

fn reading(value: f64, unit: Unit, name: Option<String>) -> Result<OutputReading, Refusal> {
    let mut reading = OutputReading { name, ..OutputReading::default() };
    match unit {
        Unit::VoltsRms => reading.volts_rms = Some(VoltsRms::new(value)?),
        Unit::VoltsPeak => reading.volts_peak = Some(VoltsPeak::new(value)?),
        Unit::VoltsPeakToPeak => reading.volts_pp = Some(VoltsPeakToPeak::new(value)?),
        _ => reading.power_w = Some(Watts::new(value)?),
    }
    Ok(reading)
}
