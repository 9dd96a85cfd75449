//! Lines with their placeholders filled.

use crate::instruments::{Feeding, Playing};
use crate::kernel::units::Level;

/// Values for the placeholders of a line.
#[derive(Debug, Clone, Copy, PartialEq, Default)]
pub struct Filling<'a> {
    /// `{hz}`.
    pub hz: f64,
    /// `{level}`: in the generator's own unit.
    pub level: f64,
    /// `{shape}`: the profile's own word.
    pub shape: &'a str,
    /// `{output}`, from 1.
    pub output: usize,
    /// `{ms}`.
    pub ms: u64,
}

/// A line with its placeholders filled.
#[must_use]
pub fn fill(line: &str, with: Filling) -> String {
    line.replace("{hz}", &plain(with.hz, 3))
        .replace("{level_db}", &plain(with.level, 3))
        .replace("{level}", &plain(with.level, 6))
        .replace("{shape}", with.shape)
        .replace("{output}", &with.output.to_string())
        .replace("{ms}", &with.ms.to_string())
}

impl Playing {
    /// The line that sets a level, of a tone.
    #[must_use]
    pub fn level_line(&self, level: Level, hz: f64) -> String {
        fill(&self.level, Filling { hz, level: self.unit.of(level, self.full_v), output: 1, ..Filling::default() })
    }

    /// The lines before a run.
    #[must_use]
    pub fn prepare_lines(&self, hz: f64, shape: &str) -> Vec<String> {
        self.prepare.iter().map(|line| fill(line, Filling { hz, shape, output: 1, ..Filling::default() })).collect()
    }

    /// The line that limits how long a level plays, where the generator can.
    #[must_use]
    pub fn limit_line(&self, ms: u64) -> Option<String> {
        self.limit.as_ref().map(|line| fill(line, Filling { ms, output: 1, ..Filling::default() }))
    }
}

impl Feeding {
    /// The lines that set volts and the current limit.
    #[must_use]
    pub fn set_lines(&self, volts: f64, amps: f64) -> Vec<String> {
        self.set.iter().map(|line| line.replace("{volts}", &plain(volts, 3)).replace("{amps}", &plain(amps, 3))).collect()
    }
}

/// A number as instruments take it: a point, so many decimals at the most.
fn plain(value: f64, decimals: usize) -> String {
    let text = format!("{value:.decimals$}");
    let text = text.trim_end_matches('0').trim_end_matches('.');
    if text.is_empty() || text == "-0" { "0".to_owned() } else { text.to_owned() }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn numbers_as_instruments_take_them() {
        for (value, text) in [(0.0, "0"), (-0.0001, "0"), (100.0, "100"), (-12.5, "-12.5"), (0.001, "0.001")] {
            assert_eq!(plain(value, 3), text);
        }
        let with = Filling { hz: 1_000.0, level: 0.022_387_2, shape: "SIN", output: 2, ms: 500 };
        assert_eq!(fill("FREQ {hz};FUNC {shape};X {output};VOLT {level};T {ms}", with), "FREQ 1000;FUNC SIN;X 2;VOLT 0.022387;T 500");
    }
}
