//! How the CSV of an oscilloscope is laid out: its separator, its headers, its units, where its time is.

use crate::CaptureError;

/// Separator of the columns, form of the numbers, and meaning of the columns.
#[derive(Debug, Clone, PartialEq)]
pub struct Layout {
    /// Between columns.
    pub separator: u8,
    /// Numbers have a decimal comma.
    pub comma: bool,
    /// Lines before the first row of numbers.
    pub header_lines: u64,
    /// The column that is time, with its unit in seconds.
    pub time: Option<(usize, f64)>,
    /// The columns that are channels, each with its unit.
    pub channels: Vec<(usize, f64)>,
    /// Seconds from row to row, where the header says it.
    pub step_s: Option<f64>,
}

/// Most lines of a header.
const MOST_HEADER: usize = 200;
/// Channels at most.
const MOST_CHANNELS: usize = 8;

fn at_line(line: u64, column: Option<usize>, says: impl Into<String>) -> CaptureError {
    CaptureError::AtLine { line, column, says: says.into() }
}

/// A number as a scope writes it; nothing where it is none.
pub fn number(text: &str, comma: bool) -> Option<f64> {
    let text = text.trim().trim_matches('"').trim();
    if text.is_empty() || text.bytes().any(|b| b.is_ascii_alphabetic() && !matches!(b, b'e' | b'E')) {
        return None;
    }
    if comma { text.replace(',', ".").parse().ok() } else { text.parse().ok() }
}

/// Text that a scope writes where its input was past the screen.
pub fn is_overflow(text: &str) -> bool {
    let word = text.trim().trim_matches('"').trim_start_matches(['-', '+']).to_ascii_lowercase();
    matches!(word.as_str(), "inf" | "infinity" | "nan" | "ol" | "over" | "overflow" | "clip" | "clipped" | "∞" | "****" | "---")
        || word.parse::<f64>().is_ok_and(|value| value >= 1e30)
}

/// Works out the layout from the first lines of a file.
///
/// # Errors
/// [`CaptureError::AtLine`] where it cannot be.
pub fn layout(lines: &[String]) -> Result<Layout, CaptureError> {
    let separators = |line: &String| [b';', b'\t', b','].into_iter().find(|sign| line.as_bytes().contains(sign));
    // A semicolon or a tab separates wherever it stands in a row of figures; a comma only where neither does.
    let row_like = |line: &&String| {
        line.bytes().filter(u8::is_ascii_digit).count() >= 2 && !line.bytes().any(|b| b.is_ascii_alphabetic() && !matches!(b, b'e' | b'E'))
    };
    let (separator, comma) = lines
        .iter()
        .filter(row_like)
        .find_map(|line| separators(line).map(|sign| (sign, sign != b',' && line.contains(','))))
        .unwrap_or((b',', false));
    let fields = |line: &String| -> Vec<String> {
        line.split(char::from(separator)).map(|field| field.trim().trim_matches('"').to_owned()).collect()
    };
    let numbers = |line: &String| {
        let fields = fields(line);
        let filled: Vec<&String> = fields.iter().filter(|field| !field.is_empty()).collect();
        !filled.is_empty()
            && filled.iter().all(|field| number(field, comma).is_some() || is_overflow(field))
            && filled.iter().any(|field| number(field, comma).is_some())
    };
    let columns_of = |line: &String| fields(line).iter().rposition(|field| !field.is_empty()).map_or(0, |last| last + 1);
    // A lone figure may be a line of the header: rows of one kind follow one another.
    let first = (0..lines.len()).find(|i| {
        let next = lines.get(i + 1..(i + 3).min(lines.len())).unwrap_or_default();
        numbers(&lines[*i])
            && next.iter().filter(|line| !line.trim().is_empty()).all(|line| numbers(line) && columns_of(line) == columns_of(&lines[*i]))
    });
    let Some(first) = first.filter(|first| *first < MOST_HEADER) else {
        return Err(at_line(lines.len().max(1) as u64, None, "There is no row of figures up to here."));
    };
    let columns = columns_of(&lines[first]);
    let header: Vec<Vec<String>> = lines[..first].iter().map(fields).collect();
    let names = header.iter().rev().find(|row| row.len() >= columns && row.iter().any(|field| is_name(field))).cloned().unwrap_or_default();
    let units = units(&header, columns)?;
    let step_s = lines[..first].iter().find_map(|line| step(line, separator, comma));
    let named_time = (0..columns).find(|i| names.get(*i).is_some_and(|name| is_time(name)));
    let time_column =
        named_time.or_else(|| (step_s.is_none() && columns > 1 && rises_evenly(&lines[first..], &fields, comma)).then_some(0));
    let time = time_column.map(|i| (i, units[i].unwrap_or(1.0)));
    let channels: Vec<(usize, f64)> = (0..columns).filter(|i| Some(*i) != time_column).map(|i| (i, units[i].unwrap_or(1.0))).collect();
    let line = first as u64 + 1;
    if channels.is_empty() || channels.len() > MOST_CHANNELS {
        return Err(at_line(line, None, format!("{} columns of samples: 1 to {MOST_CHANNELS} are read.", channels.len())));
    }
    if time.is_none() && step_s.is_none() {
        return Err(at_line(line, None, "There is no column of time, and no header names the time from sample to sample."));
    }
    Ok(Layout { separator, comma, header_lines: first as u64, time, channels, step_s })
}

fn is_name(field: &str) -> bool {
    field.chars().any(char::is_alphabetic)
}

fn is_time(name: &str) -> bool {
    let name = name.to_lowercase();
    let word = name.split(['(', '[', ' ', '/']).next().unwrap_or_default();
    matches!(word, "time" | "t" | "seconds" | "second" | "zeit" | "tiempo" | "tempo" | "x" | "x-axis" | "s")
}

/// Units in seconds, volts, amps: as a row of their own, or in brackets behind the names.
fn units(header: &[Vec<String>], columns: usize) -> Result<Vec<Option<f64>>, CaptureError> {
    let mut found = vec![None; columns];
    for (n, row) in header.iter().enumerate().filter(|(_, row)| row.len() >= columns && columns > 0) {
        let bare = row.iter().take(columns).all(|field| field.is_empty() || unit(field.trim_matches(['(', ')', '[', ']'])).is_some());
        for (i, field) in row.iter().take(columns).enumerate() {
            let inside = field.rsplit_once(['(', '[']).and_then(|(_, rest)| rest.split([')', ']']).next()).map(str::trim);
            let text = if bare { Some(field.trim_matches(['(', ')', '[', ']'])) } else { inside };
            let Some(text) = text.filter(|text| !text.is_empty()) else { continue };
            match unit(text) {
                Some(value) => found[i] = Some(value),
                None if !bare && text.chars().count() <= 4 && text.chars().all(char::is_alphabetic) => {
                    let says = format!("“{text}” is no unit that is read: s, ms, us, ns; V, mV, kV; A, mA.");
                    return Err(at_line(n as u64 + 1, Some(i + 1), says));
                }
                None => {}
            }
        }
    }
    Ok(found)
}

fn unit(text: &str) -> Option<f64> {
    Some(match text.trim() {
        "s" | "S" | "sec" | "second" | "seconds" | "Second" | "Seconds" | "V" | "v" | "volt" | "volts" | "Volt" | "Volts" | "A" | "amp"
        | "amps" | "Amp" => 1.0,
        "ms" | "mS" | "mV" | "mA" => 1e-3,
        "us" | "µs" | "μs" | "uS" | "uV" | "µV" | "μV" | "uA" => 1e-6,
        "ns" | "nS" => 1e-9,
        "kV" | "kA" => 1e3,
        _ => return None,
    })
}

/// Seconds from sample to sample that a line of the header names: an interval, or a rate.
fn step(line: &str, separator: u8, comma: bool) -> Option<f64> {
    let lower = line.to_lowercase();
    let interval = ["interval", "increment", "sample period", "sampling period", "delta t", "xincr", "timestep", "time step"];
    let rate = ["sample rate", "sampling rate", "samplerate", "sampling frequency", "sample frequency"];
    let by_rate = rate.iter().any(|word| lower.contains(word));
    if !by_rate && !interval.iter().any(|word| lower.contains(word)) {
        return None;
    }
    let pieces: Vec<&str> = line
        .split([char::from(separator), ':', '=', ' '])
        .map(|piece| piece.trim().trim_matches('"'))
        .filter(|piece| !piece.is_empty())
        .collect();
    for (i, piece) in pieces.iter().enumerate() {
        let digits = piece.trim_end_matches(|c: char| c.is_alphabetic() || c == '/' || c == 'µ' || c == 'μ');
        let digits = if number(piece, comma).is_some() { piece } else { digits };
        let Some(value) = number(digits, comma).filter(|value| *value > 0.0) else { continue };
        let behind = piece.strip_prefix(digits).filter(|rest| !rest.is_empty()).or_else(|| pieces.get(i + 1).copied()).unwrap_or_default();
        if by_rate {
            let lower = behind.to_lowercase();
            let times = match lower.chars().next() {
                Some('k') => 1e3,
                Some('m') => 1e6,
                Some('g') => 1e9,
                _ => 1.0,
            };
            return Some(1.0 / (value * times));
        }
        return Some(value * unit(behind).unwrap_or(1.0));
    }
    None
}

/// Whether the first column rises by the same step from row to row.
fn rises_evenly(rows: &[String], fields: &dyn Fn(&String) -> Vec<String>, comma: bool) -> bool {
    let first: Vec<f64> = rows.iter().take(6).filter_map(|row| number(fields(row).first()?, comma)).collect();
    let steps: Vec<f64> = first.windows(2).map(|pair| pair[1] - pair[0]).collect();
    steps.len() >= 2 && steps.iter().all(|step| *step > 0.0 && (step / steps[0] - 1.0).abs() < 0.3)
}
