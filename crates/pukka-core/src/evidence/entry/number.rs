//! Cuts a line into figures and gaps, a figure into numbers and units.

/// A unit letter of the entry line.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Unit {
    Watts,
    SupplyVolts,
    Amps,
    VoltsRms,
    VoltsPeak,
    VoltsPeakToPeak,
    Percent,
    Celsius,
    RestVolts,
    Efficiency,
    Level,
    Seconds,
    Cycles,
    Total,
}

impl Unit {
    /// The unit of a letter group, in any case.
    pub fn parse(letters: &str) -> Option<Self> {
        Some(match letters.to_lowercase().as_str() {
            "w" => Self::Watts,
            "v" => Self::SupplyVolts,
            "a" => Self::Amps,
            "vr" => Self::VoltsRms,
            "vp" => Self::VoltsPeak,
            "vpp" => Self::VoltsPeakToPeak,
            "%" => Self::Percent,
            "c" | "°c" => Self::Celsius,
            "r" => Self::RestVolts,
            "%e" => Self::Efficiency,
            "db" => Self::Level,
            "s" => Self::Seconds,
            "cy" => Self::Cycles,
            "t" => Self::Total,
            _ => return None,
        })
    }

    /// Whether it is of an output.
    pub const fn is_output(self) -> bool {
        matches!(self, Self::Watts | Self::VoltsRms | Self::VoltsPeak | Self::VoltsPeakToPeak)
    }

    /// The most that the bench can show, in this unit; beyond it a figure is a slip of the finger.
    pub const fn most(self) -> f64 {
        match self {
            Self::Watts | Self::Total => 100_000.0,
            Self::SupplyVolts => 60.0,
            Self::Amps => 5_000.0,
            Self::VoltsRms => 2_000.0,
            Self::VoltsPeak => 3_000.0,
            Self::VoltsPeakToPeak => 6_000.0,
            Self::Percent | Self::Efficiency => 100.0,
            Self::RestVolts => 60.0,
            Self::Celsius => 300.0,
            Self::Level => 200.0,
            Self::Seconds => 86_400.0,
            Self::Cycles => 1_000.0,
        }
    }

    /// Unit to show after a reading that was understood.
    pub const fn label(self) -> &'static str {
        match self {
            Self::Watts => "W",
            Self::SupplyVolts => "V supply",
            Self::Amps => "A",
            Self::VoltsRms => "V rms",
            Self::VoltsPeak => "V peak",
            Self::VoltsPeakToPeak => "V peak to peak",
            Self::Percent => "% distortion",
            Self::Celsius => "°C heatsink",
            Self::RestVolts => "V at rest",
            Self::Efficiency => "% efficiency, as read",
            Self::Level => "dB, level of the generator",
            Self::Seconds => "s held",
            Self::Cycles => "cycles",
            Self::Total => "W in total",
        }
    }

    /// Symbol and what it is, in words.
    pub const fn words(self) -> (&'static str, &'static str) {
        match self {
            Self::Watts => ("W", "watts"),
            Self::SupplyVolts => ("V", "supply volts"),
            Self::Amps => ("A", "amps"),
            Self::VoltsRms => ("V rms", "output volts rms"),
            Self::VoltsPeak => ("V peak", "output volts peak"),
            Self::VoltsPeakToPeak => ("V pp", "output volts peak to peak"),
            Self::Percent => ("%", "distortion"),
            Self::Celsius => ("°C", "heatsink"),
            Self::RestVolts => ("V", "volts at rest"),
            Self::Efficiency => ("%", "efficiency"),
            Self::Level => ("dB", "level"),
            Self::Seconds => ("s", "seconds held"),
            Self::Cycles => ("cycles", "counted cycles"),
            Self::Total => ("W", "watts in total"),
        }
    }
}

/// Number that the digits of one part say.
#[derive(Debug, Clone, PartialEq)]
pub enum Number {
    /// A reading.
    Plain(f64),
    /// Still being typed: `13.`, or nothing yet.
    Half(Option<f64>),
    /// `1,068`: a thousand and sixty-eight, or one and a bit.
    Either { thousands: f64, decimal: f64 },
    /// Not a number, and why.
    Not(&'static str),
}

/// A part of a figure: a number and the letters behind it; before it a name, behind it what other meters say.
#[derive(Debug, Clone, PartialEq)]
pub struct Part {
    pub number: Number,
    pub digits: String,
    pub letters: String,
    /// `front:` before it.
    pub name: Option<String>,
    /// `@m2` behind it.
    pub meter: Option<String>,
    /// `=76` behind it: what another meter says of the same.
    pub also: Vec<Part>,
    /// `>41.2` behind it: the last of the cycles whose first it is; of supply volts, those under load.
    pub last: Option<Box<Part>>,
    /// `~` before it: off a moving display.
    pub moving: bool,
    /// `x4` behind it: each of so many outputs.
    pub times: Option<u8>,
    /// `118..` before it: what a climbing reading started from.
    pub from: Option<Box<Part>>,
}

impl Part {
    /// Text that is written, but for its digits: the digits can be put otherwise.
    pub fn with_digits(&self, digits: &str) -> String {
        let name = self.name.as_ref().map(|name| format!("{name}:")).unwrap_or_default();
        let meter = self.meter.as_ref().map(|meter| format!("@{meter}")).unwrap_or_default();
        let also: String = self.also.iter().map(|also| format!("={}", also.with_digits(&also.digits))).collect();
        let last = self.last.as_ref().map(|last| format!(">{}", last.with_digits(&last.digits))).unwrap_or_default();
        let from = self.from.as_ref().map(|from| format!("{}..", from.with_digits(&from.digits))).unwrap_or_default();
        let times = self.times.map(|times| format!("x{times}")).unwrap_or_default();
        let moving = if self.moving { "~" } else { "" };
        format!("{name}{moving}{from}{digits}{}{times}{meter}{also}{last}", self.letters)
    }
}

/// A piece of the line.
#[derive(Debug, Clone, PartialEq)]
pub enum Piece {
    Gap(String),
    Figure { text: String, start: usize, parts: Vec<Part> },
}

const fn is_gap(c: char) -> bool {
    matches!(c, '*' | '/' | ';')
}

/// The spaces that set thousands apart in figures shown by this program.
const fn is_thin(c: char) -> bool {
    matches!(c, '\u{202f}' | '\u{a0}' | '\u{2009}')
}

fn splits(c: char) -> bool {
    (c.is_whitespace() && !is_thin(c)) || is_gap(c)
}

/// Cuts a line into figures and gaps. Letters that stand alone behind a bare number belong to it (`1068 w`).
pub fn pieces(line: &str) -> Vec<Piece> {
    let mut words = Vec::<(usize, &str)>::new();
    let mut start = None;
    for (at, c) in line.char_indices() {
        match (splits(c), start) {
            (true, Some(from)) => {
                words.push((from, &line[from..at]));
                start = None;
            }
            (false, None) => start = Some(at),
            _ => {}
        }
    }
    words.extend(start.map(|from| (from, &line[from..])));

    let mut spans = Vec::<(usize, usize)>::new();
    for (from, word) in words {
        let unit_alone = Unit::parse(word).is_some();
        match spans.last_mut() {
            Some((first, last))
                if unit_alone && line[*first..*last].ends_with(|c: char| c.is_ascii_digit()) && !line[*last..from].contains(is_gap) =>
            {
                *last = from + word.len();
            }
            _ => spans.push((from, from + word.len())),
        }
    }

    let mut pieces = Vec::new();
    let mut done = 0;
    let count = spans.len();
    for (i, (from, mut to)) in spans.into_iter().enumerate() {
        // "1068, 13.96": a comma before a gap sets figures apart.
        if i + 1 < count && line[from..to].ends_with(',') && to - from > 1 {
            to -= 1;
        }
        if from > done {
            pieces.push(Piece::Gap(line[done..from].to_owned()));
        }
        let text = line[from..to].to_owned();
        pieces.push(Piece::Figure { parts: text.split('+').map(part).collect(), text, start: from });
        done = to;
    }
    if done < line.len() {
        pieces.push(Piece::Gap(line[done..].to_owned()));
    }
    pieces
}

fn part(text: &str) -> Part {
    let text: String = text.chars().filter(|c| !is_thin(*c)).collect();
    let (name, rest) = match text.split_once(':') {
        Some((name, rest)) => (Some(name.to_owned()), rest.to_owned()),
        None => (None, text),
    };
    let (first, last) = match rest.split_once('>') {
        Some((first, last)) => (first, Some(Box::new(part(last)))),
        None => (rest.as_str(), None),
    };
    let mut read = first.split('=').map(climbing);
    let own = read.next().unwrap_or_else(|| bare(""));
    Part { name, also: read.collect(), last, ..own }
}

/// `118..121`: a reading that climbed; the later one is the reading.
fn climbing(text: &str) -> Part {
    let (moving, text) = text.strip_prefix('~').map_or((false, text), |text| (true, text));
    let read = match text.split_once("..") {
        Some((from, to)) => Part { from: Some(Box::new(bare(from))), ..bare(to) },
        None => bare(text),
    };
    Part { moving, ..read }
}

/// The unit letters of a figure, and how many outputs it stands for: `x4`, `wx4`, `x4w`.
fn repeated(letters: &str) -> (String, Option<u8>) {
    let lower = letters.to_lowercase();
    let Some((before, behind)) = lower.split_once('x') else { return (letters.to_owned(), None) };
    let end = behind.find(|c: char| !c.is_ascii_digit()).unwrap_or(behind.len());
    let (count, unit) = behind.split_at(end);
    match count.parse::<u8>() {
        Ok(times) if times > 0 && (before.is_empty() || unit.is_empty()) => (format!("{before}{unit}"), Some(times)),
        _ => (letters.to_owned(), None),
    }
}

/// A number, its letters and its meter.
fn bare(text: &str) -> Part {
    let (text, meter) = match text.split_once('@') {
        Some((text, meter)) => (text, Some(meter.to_owned())),
        None => (text, None),
    };
    let end = text.find(|c: char| !(c.is_ascii_digit() || matches!(c, '.' | ',' | '-' | '−'))).unwrap_or(text.len());
    let (digits, letters) = text.split_at(end);
    let (letters, times) = repeated(letters.trim());
    let below = Unit::parse(&letters) == Some(Unit::Level);
    Part {
        number: if below { level(digits) } else { number(digits) },
        digits: digits.to_owned(),
        letters,
        name: None,
        meter,
        also: Vec::new(),
        last: None,
        moving: false,
        times,
        from: None,
    }
}

/// A level may be below nothing: 0 dB is as loud as the generator goes.
fn level(digits: &str) -> Number {
    let plain = digits.replace('−', "-");
    match number(plain.strip_prefix('-').unwrap_or(&plain)) {
        Number::Plain(value) if plain.starts_with('-') => Number::Plain(-value),
        Number::Either { decimal, .. } => Number::Plain(if plain.starts_with('-') { -decimal } else { decimal }),
        other => other,
    }
}

fn number(digits: &str) -> Number {
    if digits.contains(['-', '−']) {
        return Number::Not("A reading cannot be negative.");
    }
    let marks = digits.matches(['.', ',']).count();
    if marks > 1 {
        return Number::Not("There are two decimal signs in this figure.");
    }
    if digits.is_empty() {
        return Number::Half(None);
    }
    let plain = digits.replace(',', ".");
    let Some((whole, decimals)) = plain.split_once('.') else {
        return finite(&plain);
    };
    if decimals.is_empty() {
        return Number::Half(whole.parse().ok());
    }
    let grouped = decimals.len() == 3 && (1..=3).contains(&whole.len()) && !whole.starts_with('0');
    match (finite(&plain), format!("{whole}{decimals}").parse()) {
        (Number::Plain(decimal), Ok(thousands)) if grouped => Number::Either { thousands, decimal },
        (number, _) => number,
    }
}

fn finite(text: &str) -> Number {
    text.parse::<f64>().ok().filter(|value| value.is_finite()).map_or(Number::Not("This is not a number."), Number::Plain)
}
