//! The CSV of an oscilloscope.

use std::fs::File;
use std::io::{BufRead as _, BufReader, Read as _, Seek as _, SeekFrom};
use std::ops::ControlFlow;
use std::path::{Path, PathBuf};

use pukka_waves::{Recording, Source, SourceError};

use crate::CaptureError;
use crate::layout::{Layout, is_overflow, layout, number};

/// Rows from one place that is remembered to the next.
const EVERY: u64 = 65_536;
/// Lines that the layout is worked out from.
const LOOKED_AT: usize = 256;
/// Most that a step of time may be off.
const OFF: f64 = 1e-3;
/// A step longer than so many is a gap.
const GAP: f64 = 1.5;
/// Rates that are read.
const RATES_HZ: std::ops::RangeInclusive<f64> = 100.0..=1e10;
/// A line longer than this is none of figures.
const MOST_BYTES: usize = 10_000;

/// A CSV, checked whole when it is opened and read piece by piece after that.
#[derive(Debug, Clone)]
pub struct CsvFile {
    path: PathBuf,
    layout: Layout,
    recording: Recording,
    /// Start of the first row: byte, and lines before it.
    begins: (u64, u64),
    /// Starts of rows at even distances: byte and line.
    places: Vec<(u64, u64)>,
    /// The window that was read last.
    kept: (u64, Vec<Vec<f64>>),
}

struct Row {
    line: u64,
    time: Option<f64>,
    values: Vec<f64>,
}

fn at_line(line: u64, column: Option<usize>, says: impl Into<String>) -> CaptureError {
    CaptureError::AtLine { line, column, says: says.into() }
}

/// A line as text: a file that is not UTF-8 is read as Latin-1, which figures are the same in.
fn text(bytes: &[u8]) -> String {
    let bytes = bytes.strip_prefix(b"\xEF\xBB\xBF").unwrap_or(bytes);
    let line = std::str::from_utf8(bytes).map_or_else(|_| bytes.iter().map(|byte| char::from(*byte)).collect(), str::to_owned);
    line.trim_end_matches(['\r', '\n']).to_owned()
}

/// The first lines of a file as they stand, and where the line behind the header begins.
fn first_lines(path: &Path) -> Result<Vec<(u64, String)>, CaptureError> {
    let mut reader = BufReader::new(File::open(path)?);
    let (mut lines, mut at) = (Vec::new(), 0u64);
    while lines.len() < LOOKED_AT {
        let mut bytes = Vec::new();
        // A line without an end does not fill the memory.
        let read = (&mut reader).take(MOST_BYTES as u64 + 1).read_until(b'\n', &mut bytes)?;
        if read == 0 {
            break;
        }
        if bytes.len() > MOST_BYTES {
            return Err(too_long(lines.len() as u64 + 1, bytes.len()));
        }
        lines.push((at, text(&bytes)));
        at += read as u64;
    }
    Ok(lines)
}

fn too_long(line: u64, bytes: usize) -> CaptureError {
    at_line(line, None, format!("{bytes} bytes and more in one line are no row of figures."))
}

/// Rows from a place on: a byte, and the lines before it.
struct Rows {
    reader: csv::Reader<File>,
    place: (u64, u64),
    record: csv::ByteRecord,
}

impl Rows {
    fn open(path: &Path, separator: u8, place: (u64, u64)) -> Result<Self, CaptureError> {
        let mut file = File::open(path)?;
        file.seek(SeekFrom::Start(place.0))?;
        // Quotes are no more than signs around a figure: one that never ends would swallow the file.
        let mut build = csv::ReaderBuilder::new();
        build.delimiter(separator).has_headers(false).flexible(true).quoting(false).buffer_capacity(1 << 18);
        Ok(Self { reader: build.from_reader(file), place, record: csv::ByteRecord::new() })
    }

    /// The next row that is not empty: its line, where it begins, and its fields.
    fn next(&mut self) -> Result<Option<(u64, u64, Vec<String>)>, CaptureError> {
        loop {
            let read = self.reader.read_byte_record(&mut self.record);
            if !read.map_err(|why| CaptureError::Io(why.to_string()))? {
                return Ok(None);
            }
            let (at, line) = self.record.position().map_or((0, 1), |position| (position.byte(), position.line()));
            let (at, line) = (self.place.0 + at, self.place.1 + line);
            if self.record.as_slice().len() > MOST_BYTES {
                return Err(too_long(line, self.record.as_slice().len()));
            }
            if self.record.iter().any(|field| !field.trim_ascii().is_empty()) {
                return Ok(Some((line, at, self.record.iter().map(text).collect())));
            }
        }
    }
}

impl CsvFile {
    /// Opens a CSV and reads it once: every figure is looked at, and the time from row to row.
    ///
    /// # Errors
    /// [`CaptureError::AtLine`] with what cannot be, and where.
    pub fn open(path: &Path) -> Result<Self, CaptureError> {
        let first = first_lines(path)?;
        let lines: Vec<String> = first.iter().map(|(_, line)| line.clone()).collect();
        let layout = layout(&lines)?;
        let begins = (first.get(layout.header_lines as usize).map_or(0, |(at, _)| *at), layout.header_lines);
        let recording = Recording { rate_hz: 1.0, frames: 0, channels: layout.channels.len(), full_scale: None, bits: None };
        let mut opened = Self { path: path.to_owned(), layout, recording, begins, places: Vec::new(), kept: (0, Vec::new()) };
        opened.check()?;
        Ok(opened)
    }

    fn row(&self, line: u64, fields: &[String]) -> Result<Row, CaptureError> {
        let read = |column: usize| -> Result<f64, CaptureError> {
            let Some(field) = fields.get(column) else {
                return Err(at_line(line, Some(column + 1), format!("The row ends before its column {}.", column + 1)));
            };
            if is_overflow(field) {
                return Err(at_line(
                    line,
                    Some(column + 1),
                    format!("“{}” is an overflow, no sample: turn the scope's range up.", field.trim()),
                ));
            }
            let value = number(field, self.layout.comma).filter(|value| value.is_finite());
            value.ok_or_else(|| {
                let shown: String = field.trim().chars().take(30).collect();
                at_line(
                    line,
                    Some(column + 1),
                    if shown.is_empty() { "A sample is missing.".to_owned() } else { format!("“{shown}” is no number.") },
                )
            })
        };
        let time = self.layout.time.map(|(column, unit)| read(column).map(|value| value * unit)).transpose()?;
        let values = self.layout.channels.iter().map(|(column, unit)| read(*column).map(|value| value * unit)).collect::<Result<_, _>>()?;
        Ok(Row { line, time, values })
    }

    /// The rows from a remembered place on.
    fn rows(&self, place: (u64, u64), each: &mut dyn FnMut(Row, u64) -> ControlFlow<()>) -> Result<(), CaptureError> {
        let mut rows = Rows::open(&self.path, self.layout.separator, place)?;
        while let Some((line, at, fields)) = rows.next()? {
            if each(self.row(line, &fields)?, at).is_break() {
                break;
            }
        }
        Ok(())
    }

    fn check(&mut self) -> Result<(), CaptureError> {
        let (mut frames, mut places) = (0u64, Vec::new());
        let (mut first, mut last): (Option<f64>, Option<(u64, f64)>) = (None, None);
        let mut steps = Steps::default();
        self.rows(self.begins, &mut |row, at| {
            if frames % EVERY == 0 {
                places.push((at, row.line - 1));
            }
            frames += 1;
            if let Some(time) = row.time {
                first.get_or_insert(time);
                steps.add(last.map(|(_, before)| time - before));
                last = Some((row.line, time));
            }
            ControlFlow::Continue(())
        })?;
        let step_s = match (first, last) {
            (Some(first), Some((line, last))) if frames > 1 => {
                let mean = (last - first) / (frames - 1) as f64;
                let digit = self.first_digit(&places)?;
                let usual = steps.usual(mean, digit);
                if usual <= 0.0 {
                    return Err(at_line(line, None, "Time does not rise from row to row."));
                }
                self.even(usual)?;
                // Over the whole of it the step is known better than from one row to the next.
                if (mean / usual - 1.0).abs() < OFF { mean } else { usual }
            }
            _ => self
                .layout
                .step_s
                .ok_or_else(|| at_line(self.layout.header_lines + 1, None, "One row alone tells no time from sample to sample."))?,
        };
        let rate_hz = 1.0 / step_s;
        if !RATES_HZ.contains(&rate_hz) {
            return Err(at_line(
                self.layout.header_lines + 1,
                None,
                format!("{rate_hz:.0} samples a second cannot be: is the unit of time right?"),
            ));
        }
        self.places = places;
        self.recording = Recording { rate_hz, frames, ..self.recording };
        Ok(())
    }

    /// Whether time steps evenly: within a thousandth, and half of its last digit.
    fn even(&self, usual: f64) -> Result<(), CaptureError> {
        let mut before: Option<f64> = None;
        let mut wrong = None;
        let mut rows = Rows::open(&self.path, self.layout.separator, self.begins)?;
        while let Some((line, _, fields)) = rows.next()? {
            let Some(time) = self.row(line, &fields)?.time else { continue };
            if let Some(before) = before {
                let step = time - before;
                let digits = self.last_digit(&fields);
                if (step - usual).abs() > OFF * usual + digits {
                    let gap = step > GAP * usual;
                    let says = if gap {
                        format!(
                            "Time jumps by {step:.6e} s where it steps by {usual:.6e} s: about {:.0} samples are missing.",
                            step / usual - 1.0
                        )
                    } else {
                        format!("Time steps by {step:.6e} s, and by {usual:.6e} s elsewhere: a recording steps evenly.")
                    };
                    wrong = Some(at_line(line, self.layout.time.map(|(column, _)| column + 1), says));
                    break;
                }
            }
            before = Some(time);
        }
        wrong.map_or(Ok(()), Err)
    }

    /// Size of one step of the last printed digit of a time, in seconds: two rounded times are off by it at most.
    fn last_digit(&self, fields: &[String]) -> f64 {
        let Some((column, unit)) = self.layout.time else { return 0.0 };
        let field = fields.get(column).map(String::as_str).unwrap_or_default().trim().trim_matches('"');
        let (digits, exponent) =
            field.split_once(['e', 'E']).map_or((field, 0), |(digits, exponent)| (digits, exponent.parse().unwrap_or(0)));
        let decimals = digits.rsplit_once(if self.layout.comma { ',' } else { '.' }).map_or(0, |(_, behind)| behind.len());
        unit * 10f64.powi(exponent - i32::try_from(decimals).unwrap_or(0))
    }

    /// A step of the last digit of the first time.
    fn first_digit(&self, places: &[(u64, u64)]) -> Result<f64, CaptureError> {
        let Some(place) = places.first() else { return Ok(0.0) };
        let mut rows = Rows::open(&self.path, self.layout.separator, *place)?;
        Ok(rows.next()?.map_or(0.0, |(_, _, fields)| self.last_digit(&fields)))
    }

    fn read_window(&self, from: u64, frames: usize) -> Result<Vec<Vec<f64>>, CaptureError> {
        let place = (from / EVERY) as usize;
        let mut at = place as u64 * EVERY;
        let mut found: Vec<Vec<f64>> = vec![Vec::with_capacity(frames); self.recording.channels];
        let Some(start) = self.places.get(place) else { return Ok(found) };
        self.rows(*start, &mut |row, _| {
            if at >= from {
                found.iter_mut().zip(row.values).for_each(|(own, value)| own.push(value));
            }
            at += 1;
            if at >= from + frames as u64 { ControlFlow::Break(()) } else { ControlFlow::Continue(()) }
        })?;
        Ok(found)
    }
}

/// The step from row to row that most have: the middle of the first thousand.
#[derive(Default)]
struct Steps(Vec<f64>);

impl Steps {
    fn add(&mut self, step: Option<f64>) {
        if self.0.len() < 1_000 {
            self.0.extend(step);
        }
    }

    /// Printed times are rounded, so that the mean is the better one; unless steps are off by more than rounding does.
    fn usual(&self, mean: f64, digit: f64) -> f64 {
        if self.0.iter().all(|step| (step - mean).abs() <= OFF * mean.abs() + digit) {
            return mean;
        }
        let mut sorted = self.0.clone();
        sorted.sort_by(f64::total_cmp);
        sorted.get(sorted.len() / 2).copied().unwrap_or(mean)
    }
}

impl Source for CsvFile {
    fn recording(&self) -> Recording {
        self.recording
    }

    fn blocks(&mut self, from: u64, each: &mut dyn FnMut(&[Vec<f32>]) -> ControlFlow<()>) -> Result<(), SourceError> {
        let Some(start) = self.places.get((from / EVERY) as usize).copied() else { return Ok(()) };
        let mut before = from % EVERY;
        let mut block: Vec<Vec<f32>> = vec![Vec::with_capacity(EVERY as usize); self.recording.channels];
        let mut stopped = false;
        let read = self.rows(start, &mut |row, _| {
            if before > 0 {
                before -= 1;
                return ControlFlow::Continue(());
            }
            block.iter_mut().zip(row.values).for_each(|(own, value)| own.push(value as f32));
            if block[0].len() as u64 == EVERY {
                stopped = each(&block).is_break();
                block.iter_mut().for_each(Vec::clear);
            }
            if stopped { ControlFlow::Break(()) } else { ControlFlow::Continue(()) }
        });
        read.map_err(|why| SourceError::Unreadable(why.to_string()))?;
        if !stopped && !block[0].is_empty() {
            stopped = each(&block).is_break();
        }
        if stopped { Err(SourceError::Stopped) } else { Ok(()) }
    }

    fn window(&mut self, channel: usize, from: u64, frames: usize) -> Result<Vec<f64>, SourceError> {
        let there = usize::try_from(self.recording.frames.saturating_sub(from)).unwrap_or(usize::MAX);
        let frames = frames.min(there);
        let length = self.kept.1.first().map_or(0, Vec::len) as u64;
        if !(self.kept.0 <= from && from + frames as u64 <= self.kept.0 + length) {
            let window = self.read_window(from, frames.max(16_384.min(there))).map_err(|why| SourceError::Unreadable(why.to_string()))?;
            self.kept = (from, window);
        }
        let start = (from - self.kept.0) as usize;
        let samples = self.kept.1.get(channel).map_or(&[][..], Vec::as_slice);
        Ok(samples.get(start..(start + frames).min(samples.len())).unwrap_or_default().to_vec())
    }

    fn again(&self) -> Option<Box<dyn Source>> {
        Some(Box::new(self.clone()))
    }
}
