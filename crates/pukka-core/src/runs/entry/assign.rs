//! Gives each figure of a line its quantity, and says how it was read.

use super::number::{Number, Part, Piece, Unit};
use super::{Asked, Choice, Readings, Segment, SegmentKind};
use crate::format;
use crate::session::{Mode, OutputReading};
use crate::units::{Amps, Celsius, QuantityError, Ratio, Volts, VoltsPeak, VoltsPeakToPeak, VoltsRms, Watts};

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
    fn of(pieces: &[Piece]) -> Self {
        let lettered: Vec<Unit> = pieces
            .iter()
            .filter_map(|piece| match piece {
                Piece::Figure { parts, .. } => parts.iter().rev().find_map(|part| Unit::parse(&part.letters)),
                Piece::Gap(_) => None,
            })
            .collect();
        let taken = |slot: &Unit| lettered.iter().any(|unit| unit == slot || (unit.is_output() && *slot == Unit::Watts));
        let mut free = vec![Unit::Watts, Unit::SupplyVolts, Unit::Amps];
        free.retain(|slot| !taken(slot));
        free.reverse();
        Self { free }
    }

    fn next(&mut self) -> Option<Unit> {
        self.free.pop()
    }
}

/// Reads the pieces; `open_end` says that the line may go on behind the last of them.
pub fn assign(line: &str, pieces: &[Piece], open_end: bool, asked: Asked) -> (Vec<Segment>, Readings) {
    let mut readings = Readings::default();
    let mut slots = Slots::of(pieces);
    let mut segments = Vec::with_capacity(pieces.len());
    for (i, piece) in pieces.iter().enumerate() {
        let segment = match piece {
            Piece::Gap(text) => Segment { text: text.clone(), kind: SegmentKind::Gap, says: String::new(), choices: Vec::new() },
            Piece::Figure { text, start, parts } => {
                let last = open_end && i + 1 == pieces.len();
                let place = Place { line, start: *start, length: text.len(), last };
                match take(parts, &place, &mut slots, &mut readings, asked) {
                    Ok(says) => Segment { text: text.clone(), kind: SegmentKind::Reading, says, choices: Vec::new() },
                    Err(refusal) => Segment { text: text.clone(), kind: refusal.kind, says: refusal.says, choices: refusal.choices },
                }
            }
        };
        segments.push(segment);
    }
    (segments, readings)
}

struct Place<'a> {
    line: &'a str,
    start: usize,
    length: usize,
    /// It is the last thing on the line, so it may be half typed.
    last: bool,
}

fn take(parts: &[Part], place: &Place, slots: &mut Slots, readings: &mut Readings, asked: Asked) -> Result<String, Refusal> {
    let unit = unit_of(parts, slots)?;
    if parts.len() > 1 && !unit.is_output() {
        return Err(Refusal::wrong("Only outputs are joined by a +: there is one supply."));
    }
    let mut values = Vec::with_capacity(parts.len());
    let mut half = None;
    for (i, part) in parts.iter().enumerate() {
        match one(part, unit, place) {
            Ok(value) => values.push(value),
            Err(refusal) if refusal.kind == SegmentKind::Unclear => return Err(with_choices(refusal, parts, i, unit, place)),
            Err(refusal) if refusal.kind == SegmentKind::Pending && i + 1 == parts.len() => {
                values.extend(half_value(part, unit));
                half = Some(refusal);
            }
            Err(refusal) => return Err(refusal),
        }
    }
    store(&values, unit, readings, asked)?;
    let shown: Vec<String> = values.iter().map(|value| format::as_read(*value)).collect();
    match half {
        Some(refusal) => Err(refusal),
        None => Ok(format::with_unit(&shown.join(" + "), unit.label())),
    }
}

/// The unit of a figure: its letters, the same for all parts, else the next slot.
fn unit_of(parts: &[Part], slots: &mut Slots) -> Result<Unit, Refusal> {
    let mut unit = None;
    for part in parts.iter().filter(|part| !part.letters.is_empty()) {
        let own = Unit::parse(&part.letters).ok_or_else(|| unknown_letters(part))?;
        if unit.is_some_and(|other| other != own) {
            return Err(Refusal::wrong("Outputs joined by a + are read in one unit."));
        }
        unit = Some(own);
    }
    unit.or_else(|| slots.next()).ok_or_else(|| Refusal::wrong("Watts, volts and amps are there already: give this figure its letter."))
}

fn unknown_letters(part: &Part) -> Refusal {
    if part.digits.is_empty() {
        return Refusal::wrong(format!("“{}” is not a figure. A note goes behind a #.", part.letters));
    }
    Refusal::wrong(format!("“{}” is no unit here: w, v, a, vr, vp, vpp, % or c.", part.letters))
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
    if value == 0.0 && unit != Unit::Celsius {
        return Err(Refusal::wrong(format!("0 {symbol} is no reading of {what}.")));
    }
    if value > unit.most() {
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
        let joined: Vec<String> = parts
            .iter()
            .enumerate()
            .map(|(i, part)| format!("{}{}", if i == index { digits.as_str() } else { part.digits.as_str() }, part.letters))
            .collect();
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

fn store(values: &[f64], unit: Unit, readings: &mut Readings, asked: Asked) -> Result<(), Refusal> {
    if unit.is_output() {
        return store_outputs(values, unit, readings, asked);
    }
    let Some(value) = values.first().copied() else {
        return Ok(());
    };
    let twice = |there: bool| if there { Err(Refusal::wrong(format!("There are two readings of {}.", unit.words().1))) } else { Ok(()) };
    match unit {
        Unit::SupplyVolts => {
            twice(readings.end_v.is_some())?;
            readings.end_v = Some(Volts::new(value)?);
        }
        Unit::Amps => {
            twice(readings.current_a.is_some())?;
            readings.current_a = Some(Amps::new(value)?);
        }
        Unit::Percent => {
            twice(readings.thd_ratio.is_some())?;
            readings.thd_ratio = Some(Ratio::new(value / 100.0)?);
        }
        _ => {
            twice(readings.temperature_c.is_some())?;
            readings.temperature_c = Some(Celsius::new(value)?);
        }
    }
    Ok(())
}

fn store_outputs(values: &[f64], unit: Unit, readings: &mut Readings, asked: Asked) -> Result<(), Refusal> {
    if asked.mode == Mode::Clipping && matches!(unit, Unit::VoltsPeak | Unit::VoltsPeakToPeak) {
        return Err(Refusal::wrong(crate::runs::NoTotal::PeakOfClipped.to_string()));
    }
    if !readings.outputs.is_empty() {
        return Err(Refusal::wrong("The outputs are there already: join them by a +."));
    }
    let outputs = usize::from(asked.outputs);
    if values.len() > outputs {
        let there = if outputs == 1 { "one output".to_owned() } else { format!("{} outputs", format::count(outputs)) };
        return Err(Refusal::wrong(format!("{} readings for {there}.", values.len())));
    }
    readings.outputs = values.iter().enumerate().map(|(i, value)| output(*value, unit, i)).collect::<Result<_, _>>()?;
    Ok(())
}

fn output(value: f64, unit: Unit, index: usize) -> Result<OutputReading, Refusal> {
    let mut reading = OutputReading { name: Some((index + 1).to_string()), ..OutputReading::default() };
    match unit {
        Unit::VoltsRms => reading.volts_rms = Some(VoltsRms::new(value)?),
        Unit::VoltsPeak => reading.volts_peak = Some(VoltsPeak::new(value)?),
        Unit::VoltsPeakToPeak => reading.volts_pp = Some(VoltsPeakToPeak::new(value)?),
        _ => reading.power_w = Some(Watts::new(value)?),
    }
    Ok(reading)
}
