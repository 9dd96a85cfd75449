//! What can be wrong with an instrument, as it happens on benches.

use super::Role;

/// Something wrong with one instrument.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Fault {
    /// Hangs up and takes no connection.
    Drop,
    /// Does what it is told and answers nothing.
    Stall,
    /// Answers what is no number.
    Garbage,
    /// Numbers are thousandths: milliamperes for amperes.
    Milli,
    /// Past its range.
    Overload,
    /// Answers half a line and stops.
    Half,
    /// Shows the same readings without end.
    Freeze,
    /// Takes every level but none that takes it away, and does not switch its output off.
    IgnoreZero,
    /// Answers, and does nothing that it is told.
    Ignore,
    /// Refuses every level: −222.
    RefuseLevel,
    /// Answers each question with the answer to the one before.
    Late,
    /// Writes a comma where numbers have a point.
    Comma,
    /// Hears nothing: it does nothing and answers nothing.
    Deaf,
}

/// Every fault, with its word.
pub const FAULTS: [(&str, Fault); 13] = [
    ("DROP", Fault::Drop),
    ("STALL", Fault::Stall),
    ("GARBAGE", Fault::Garbage),
    ("MILLI", Fault::Milli),
    ("OVERLOAD", Fault::Overload),
    ("HALF", Fault::Half),
    ("FREEZE", Fault::Freeze),
    ("IGNORE-ZERO", Fault::IgnoreZero),
    ("IGNORE", Fault::Ignore),
    ("REFUSE-LEVEL", Fault::RefuseLevel),
    ("LATE", Fault::Late),
    ("COMMA", Fault::Comma),
    ("DEAF", Fault::Deaf),
];

/// Level from which downwards one that ignores zero does not follow, dB.
const ZERO_DB: f64 = -60.0;

impl Fault {
    /// The fault of a word.
    #[must_use]
    pub fn parse(word: &str) -> Option<Self> {
        // As it was called first.
        let word = if word.eq_ignore_ascii_case("UNITS") { "MILLI" } else { word };
        FAULTS.iter().find(|(known, _)| known.eq_ignore_ascii_case(word)).map(|(_, fault)| *fault)
    }

    /// Word.
    #[must_use]
    pub fn word(self) -> &'static str {
        FAULTS.iter().find(|(_, fault)| *fault == self).map_or("NONE", |(word, _)| word)
    }

    /// Whether a command is not done under it.
    #[must_use]
    pub fn ignores(self, role: Role, header: &str, parameters: &str) -> bool {
        let command = !header.ends_with('?') && !header.starts_with('*');
        match self {
            Self::Deaf => true,
            Self::Ignore => command,
            Self::IgnoreZero if role == Role::Generator && command => {
                let level = super::matches("[:SOURce]:LEVel", header);
                let off = super::matches("OUTPut[:STATe]", header) && super::number::switch(parameters) == Ok(false);
                off || (level && super::number::LEVEL.read(parameters).is_ok_and(|level| level < ZERO_DB))
            }
            _ => false,
        }
    }
}
