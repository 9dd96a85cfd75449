//! The four instruments, and a fifth port for the bench itself.

use super::header::{channel, matches};
use super::{DATA_TYPE, ILLEGAL_PARAMETER, MISSING_PARAMETER, OUT_OF_RANGE, OVERLOAD, ScpiError, Status, UNDEFINED_HEADER};
use crate::amplifier::State;
use crate::bench::{Bench, Shape};
use crate::character::{ALL, find};
use crate::recorder::MOST_TICKS;
use crate::supply::{Supply, SupplyKind};

/// What an instrument is.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash)]
pub enum Role {
    /// Signal generator.
    Generator,
    /// Power and distortion analyser.
    Analyser,
    /// Supply voltmeter.
    Voltmeter,
    /// Clamp or shunt ammeter.
    Ammeter,
    /// The bench: which amplifier, which load, what is wrong.
    Bench,
}

impl Role {
    /// All of them, in the order of their ports.
    pub const ALL: [Self; 5] = [Self::Generator, Self::Analyser, Self::Voltmeter, Self::Ammeter, Self::Bench];

    /// Its word.
    #[must_use]
    pub const fn word(self) -> &'static str {
        match self {
            Self::Generator => "generator",
            Self::Analyser => "analyser",
            Self::Voltmeter => "voltmeter",
            Self::Ammeter => "ammeter",
            Self::Bench => "bench",
        }
    }

    fn parse(word: &str) -> Option<Self> {
        Self::ALL.into_iter().find(|role| role.word().eq_ignore_ascii_case(word))
    }
}

/// Something wrong with one instrument's answers.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Fault {
    /// It hangs up and takes no connection.
    Drop,
    /// It answers nothing.
    Stall,
    /// It answers what is no number.
    Garbage,
    /// Its numbers are in another unit: a thousand times as large.
    Units,
    /// It is past its range.
    Overload,
    /// It answers half a line and stops.
    Half,
}

impl Fault {
    fn parse(word: &str) -> Option<Self> {
        Some(match word.to_ascii_uppercase().as_str() {
            "DROP" => Self::Drop,
            "STALL" => Self::Stall,
            "GARBAGE" => Self::Garbage,
            "UNITS" => Self::Units,
            "OVERLOAD" => Self::Overload,
            "HALF" => Self::Half,
            _ => return None,
        })
    }
}

/// An instrument: what it is, and its status.
#[derive(Debug, Clone)]
pub struct Instrument {
    role: Role,
    status: Status,
}

type Answer = Result<Option<String>, ScpiError>;

impl Instrument {
    /// Just powered on.
    #[must_use]
    pub fn new(role: Role) -> Self {
        Self { role, status: Status::default() }
    }

    /// Does a line: several messages with semicolons between; the answer to its queries, joined the same way.
    pub fn line(&mut self, bench: &mut Bench, faults: &mut Vec<(Role, Fault)>, line: &str) -> Option<String> {
        let answers: Vec<String> =
            line.split(';').map(str::trim).filter(|one| !one.is_empty()).filter_map(|one| self.message(bench, faults, one)).collect();
        (!answers.is_empty()).then(|| answers.join(";"))
    }

    fn message(&mut self, bench: &mut Bench, faults: &mut Vec<(Role, Fault)>, message: &str) -> Option<String> {
        let (header, parameters) = message.split_once(char::is_whitespace).unwrap_or((message, ""));
        if let Some(answer) = self.status.common(header, parameters) {
            return answer;
        }
        let answer = match header.to_ascii_uppercase().as_str() {
            "*IDN?" => {
                Ok(Some(format!("Ferry Lane,Stand-in {},SIM-{},{}", self.role.word(), self.role as u8 + 1, env!("CARGO_PKG_VERSION"))))
            }
            "*RST" => {
                if self.role == Role::Generator {
                    bench.generator.on = false;
                    bench.generator.level_db = -120.0;
                }
                Ok(None)
            }
            _ if matches("SYSTem:ERRor[:NEXT]?", header) => Ok(Some(self.status.next_error())),
            _ if matches("SYSTem:VERSion?", header) => Ok(Some("1999.0".into())),
            _ => match self.role {
                Role::Generator => generator(bench, header, parameters),
                Role::Analyser => analyser(bench, header, parameters),
                Role::Voltmeter => voltmeter(bench, header),
                Role::Ammeter => ammeter(bench, header),
                Role::Bench => control(bench, faults, header, parameters),
            },
        };
        let shown = self.spoiled(answer, faults);
        match shown {
            Ok(answer) => answer,
            Err(error) => {
                self.status.error(error);
                None
            }
        }
    }

    /// A reading as a fault of this instrument leaves it.
    fn spoiled(&self, answer: Answer, faults: &[(Role, Fault)]) -> Answer {
        let Ok(Some(text)) = &answer else { return answer };
        let Ok(value) = text.parse::<f64>() else { return answer };
        match faults.iter().find(|(role, _)| *role == self.role).map(|(_, fault)| fault) {
            Some(Fault::Garbage) => Ok(Some("#?!".into())),
            Some(Fault::Overload) => Ok(Some(reading(OVERLOAD))),
            Some(Fault::Units) => Ok(Some(reading(value * 1_000.0))),
            _ => answer,
        }
    }
}

fn reading(value: f64) -> String {
    format!("{value:.6E}")
}

fn number(parameters: &str) -> Result<f64, ScpiError> {
    let text = parameters.trim();
    if text.is_empty() {
        return Err(MISSING_PARAMETER);
    }
    // A unit behind the number is allowed: "1 kHz" is not, "40 HZ" and "-6 DB" are.
    let digits = text.trim_end_matches(|c: char| c.is_ascii_alphabetic() && !matches!(c, 'e' | 'E')).trim();
    digits.parse().map_err(|_| DATA_TYPE)
}

fn within(value: f64, low: f64, high: f64) -> Result<f64, ScpiError> {
    if value >= low && value <= high { Ok(value) } else { Err(OUT_OF_RANGE) }
}

fn switch(parameters: &str) -> Result<bool, ScpiError> {
    match parameters.trim().to_ascii_uppercase().as_str() {
        "" => Err(MISSING_PARAMETER),
        "ON" | "1" => Ok(true),
        "OFF" | "0" => Ok(false),
        _ => Err(ILLEGAL_PARAMETER),
    }
}

fn generator(bench: &mut Bench, header: &str, parameters: &str) -> Answer {
    let g = &mut bench.generator;
    if matches("[:SOURce]:FREQuency", header) {
        g.hz = within(number(parameters)?, 10.0, 20_000.0)?;
    } else if matches("[:SOURce]:FREQuency?", header) {
        return Ok(Some(reading(g.hz)));
    } else if matches("[:SOURce]:LEVel", header) {
        g.level_db = within(number(parameters)?, -120.0, 10.0)?;
    } else if matches("[:SOURce]:LEVel?", header) {
        return Ok(Some(reading(g.level_db)));
    } else if matches("[:SOURce]:FUNCtion", header) {
        g.shape = match parameters.trim().to_ascii_uppercase().as_str() {
            "" => return Err(MISSING_PARAMETER),
            "SIN" | "SINUSOID" => Shape::Sine,
            "BURS" | "BURST" => Shape::Burst,
            _ => return Err(ILLEGAL_PARAMETER),
        };
    } else if matches("[:SOURce]:FUNCtion?", header) {
        return Ok(Some(if g.shape == Shape::Sine { "SIN" } else { "BURS" }.into()));
    } else if matches("OUTPut[:STATe]", header) {
        g.on = switch(parameters)?;
    } else if matches("OUTPut[:STATe]?", header) {
        return Ok(Some(u8::from(g.on).to_string()));
    } else {
        return Err(UNDEFINED_HEADER);
    }
    Ok(None)
}

fn analyser(bench: &Bench, header: &str, parameters: &str) -> Answer {
    let output = || {
        let output = channel(parameters).map_err(|()| DATA_TYPE)?;
        if output < bench.amplifier.outputs.len() { Ok(output) } else { Err(OUT_OF_RANGE) }
    };
    if matches("MEASure[:SCALar]:POWer[:AC]?", header) {
        Ok(Some(reading(bench.reads_power_w(output()?))))
    } else if matches("MEASure[:SCALar]:POWer:BURSt?", header) {
        Ok(Some(reading(bench.reads_burst_w(output()?))))
    } else if matches("MEASure[:SCALar]:VOLTage[:AC]?", header) {
        Ok(Some(reading(bench.reads_volts_rms(output()?))))
    } else if matches("MEASure[:SCALar]:DISTortion[:THDN]?", header) {
        // In percent, as such instruments have it.
        Ok(Some(reading(100.0 * bench.reads_distortion(output()?))))
    } else {
        Err(UNDEFINED_HEADER)
    }
}

fn voltmeter(bench: &Bench, header: &str) -> Answer {
    if matches("MEASure[:SCALar]:VOLTage[:DC]?", header) { Ok(Some(reading(bench.reads_supply_v()))) } else { Err(UNDEFINED_HEADER) }
}

fn ammeter(bench: &Bench, header: &str) -> Answer {
    if matches("MEASure[:SCALar]:CURRent[:DC]?", header) { Ok(Some(reading(bench.reads_supply_a()))) } else { Err(UNDEFINED_HEADER) }
}

/// The recording that a line asks the bench's own port for, in milliseconds; nothing of any other line.
#[must_use]
pub fn capture_ms(role: Role, line: &str) -> Option<Result<usize, ScpiError>> {
    let (header, parameters) = line.trim().split_once(char::is_whitespace).unwrap_or((line.trim(), ""));
    if role != Role::Bench || !matches("SIMulation:CAPTure?", header) {
        return None;
    }
    let asked = if parameters.trim().is_empty() { Ok(1_000.0) } else { number(parameters) };
    Some(asked.and_then(|ms| within(ms, 1.0, MOST_TICKS as f64)).map(|ms| ms as usize))
}

fn control(bench: &mut Bench, faults: &mut Vec<(Role, Fault)>, header: &str, parameters: &str) -> Answer {
    let text = parameters.trim().trim_matches('"');
    if matches("SIMulation:AMPLifier", header) {
        bench.change(find(text).ok_or(ILLEGAL_PARAMETER)?);
    } else if matches("SIMulation:AMPLifier?", header) {
        let character = bench.amplifier.character;
        return Ok(Some(format!("\"{}\",\"{}\",{}", character.key, character.name, character.outputs.len())));
    } else if matches("SIMulation:CATalog?", header) {
        return Ok(Some(ALL.iter().map(|character| format!("\"{}\"", character.key)).collect::<Vec<_>>().join(",")));
    } else if matches("SIMulation:LOAD", header) {
        bench.load_ohm = within(number(parameters)?, 0.1, 1_000.0)?;
    } else if matches("SIMulation:LOAD?", header) {
        return Ok(Some(reading(bench.load_ohm)));
    } else if matches("SIMulation:CHARger", header) {
        bench.supply.charger = switch(parameters)?;
    } else if matches("SIMulation:SUPPly", header) {
        let (word, rest) = text.split_once(',').unwrap_or((text, ""));
        bench.supply = Supply::new(match word.trim().to_ascii_uppercase().as_str() {
            "" => return Err(MISSING_PARAMETER),
            "BANK" => SupplyKind::bank(),
            "MAINS" => {
                let (volts, amps) = rest.split_once(',').ok_or(MISSING_PARAMETER)?;
                SupplyKind::mains(within(number(volts)?, 6.0, 20.0)?, within(number(amps)?, 1.0, 1_000.0)?)
            }
            _ => return Err(ILLEGAL_PARAMETER),
        });
    } else if matches("SIMulation:STATe?", header) {
        return Ok(Some(state_word(bench.amplifier.state).into()));
    } else if matches("SIMulation:TEMPerature?", header) {
        return Ok(Some(reading(bench.amplifier.heatsink_c)));
    } else if matches("SIMulation:TICK?", header) {
        return Ok(Some(bench.ticks().to_string()));
    } else if matches("SIMulation:CAPTure?", header) {
        // A block of bytes is no line of text: the connection sends it itself, and only what is wrong comes here.
        capture_ms(Role::Bench, &format!("{header} {parameters}")).transpose()?;
        return Err(ILLEGAL_PARAMETER);
    } else if matches("SIMulation:STEP", header) {
        bench.advance(within(number(parameters)?, 1.0, 600_000.0)? as u64);
    } else if matches("SIMulation:CLAMp", header) {
        bench.faults.clamp_factor = Some(within(number(parameters)?, 0.01, 100.0)?).filter(|factor| (factor - 1.0).abs() > 1e-9);
    } else if matches("SIMulation:SWITch", header) {
        bench.faults.load_switch = switch(parameters)?;
    } else if matches("SIMulation:FAULt", header) {
        let (role, fault) = text.split_once(',').ok_or(MISSING_PARAMETER)?;
        let role = Role::parse(role.trim()).ok_or(ILLEGAL_PARAMETER)?;
        faults.retain(|(known, _)| *known != role);
        if !fault.trim().eq_ignore_ascii_case("NONE") {
            faults.push((role, Fault::parse(fault.trim()).ok_or(ILLEGAL_PARAMETER)?));
        }
    } else {
        return Err(UNDEFINED_HEADER);
    }
    Ok(None)
}

const fn state_word(state: State) -> &'static str {
    match state {
        State::On => "ON",
        State::OverCurrent => "OVERCURRENT",
        State::OverHeat => "OVERHEAT",
        State::FuseOpen => "FUSE",
        State::Dead => "DEAD",
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn ask(role: Role, bench: &mut Bench, line: &str) -> (Option<String>, String) {
        let mut instrument = Instrument::new(role);
        let answer = instrument.line(bench, &mut Vec::new(), line);
        (answer, instrument.line(bench, &mut Vec::new(), "SYST:ERR?").unwrap())
    }

    #[test]
    fn a_session_as_an_ordinary_client_has_it() {
        let mut bench = Bench::new(1);
        let good = "0,\"No error\"";
        assert_eq!(ask(Role::Generator, &mut bench, "*IDN?").0.unwrap().split(',').count(), 4);
        assert_eq!(ask(Role::Generator, &mut bench, "SOUR:FREQ 40;LEV -12 DB;:OUTP ON"), (None, good.into()));
        assert_eq!(ask(Role::Generator, &mut bench, "FREQ?;OUTP?").0.as_deref(), Some("4.000000E1;1"));
        bench.advance(600);
        let watts: f64 = ask(Role::Analyser, &mut bench, "MEAS:POW? (@1)").0.unwrap().parse().unwrap();
        assert!(watts > 10.0, "{watts}");
        let distortion: f64 = ask(Role::Analyser, &mut bench, "MEAS:DIST?").0.unwrap().parse().unwrap();
        assert!(distortion > 0.0 && distortion < 1.0, "{distortion} %");
        assert!(ask(Role::Voltmeter, &mut bench, "MEASURE:VOLTAGE:DC?").0.unwrap().parse::<f64>().unwrap() > 14.0);
        assert!(ask(Role::Ammeter, &mut bench, "meas:curr?").0.unwrap().parse::<f64>().unwrap() > 1.0);
        assert_eq!(ask(Role::Generator, &mut bench, "*RST;OUTP?").0.as_deref(), Some("0"));
    }

    #[test]
    fn what_is_wrong_goes_into_the_queue() {
        let mut bench = Bench::new(1);
        for (role, line, error) in [
            (Role::Voltmeter, "MEAS:CURR?", "-113"),
            (Role::Generator, "FREQ", "-109"),
            (Role::Generator, "FREQ loud", "-104"),
            (Role::Generator, "LEV 40", "-222"),
            (Role::Generator, "OUTP MAYBE", "-224"),
            (Role::Analyser, "MEAS:POW? (@9)", "-222"),
            (Role::Bench, "SIM:AMPL \"nobody\"", "-224"),
            (Role::Bench, "SIM:SUPP MAINS", "-109"),
            (Role::Bench, "SIM:SUPP COAL", "-224"),
        ] {
            let (answer, queue) = ask(role, &mut bench, line);
            assert!(answer.is_none() && queue.starts_with(error), "{line}: {answer:?} {queue}");
        }
    }

    #[test]
    fn a_supply_with_a_limit_in_place_of_the_bank() {
        let mut bench = Bench::new(1);
        assert_eq!(ask(Role::Bench, &mut bench, "SIM:SUPP MAINS,13.8,20").1, "0,\"No error\"");
        ask(Role::Generator, &mut bench, "LEV 0;OUTP ON");
        bench.advance(1_500);
        let volts: f64 = ask(Role::Voltmeter, &mut bench, "MEAS:VOLT?").0.unwrap().parse().unwrap();
        assert!(volts < 13.0, "it folds at its limit: {volts}");
    }

    #[test]
    fn faults_spoil_the_readings_of_one_instrument() {
        let mut bench = Bench::new(1);
        bench.advance(100);
        let mut faults = Vec::new();
        let mut control = Instrument::new(Role::Bench);
        let mut meter = Instrument::new(Role::Voltmeter);
        let mut with = |bench: &mut Bench, fault: &str| {
            control.line(bench, &mut faults, &format!("SIM:FAULT voltmeter,{fault}"));
            meter.line(bench, &mut faults, "MEAS:VOLT?").unwrap()
        };
        assert_eq!(with(&mut bench, "GARBAGE"), "#?!");
        assert_eq!(with(&mut bench, "OVERLOAD").parse::<f64>().unwrap(), OVERLOAD);
        assert!(with(&mut bench, "UNITS").parse::<f64>().unwrap() > 10_000.0);
        assert!(with(&mut bench, "NONE").parse::<f64>().unwrap() < 20.0);
    }
}
