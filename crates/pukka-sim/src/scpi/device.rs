//! The instruments: each does messages on the bench, and has a status of its own.

use super::bench_port::control;
use super::fault::Fault;
use super::header::{channel, matches};
use super::message::{Message, messages};
use super::number::{self, AMPS, FREQUENCY, LEVEL, Number, VOLTS};
use super::{DATA_TYPE, ILLEGAL_PARAMETER, OUT_OF_RANGE, OVERLOAD, STALE, ScpiError, Status, UNDEFINED_HEADER};
use crate::bench::{Bench, Shape};
use crate::recorder::MOST_TICKS;

/// Kind of instrument.
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
    /// Power supply; it is there when the bench is fed by the mains.
    Supply,
    /// On the heatsink.
    Thermometer,
}

impl Role {
    /// Every one of them, in the order of their ports.
    pub const ALL: [Self; 7] =
        [Self::Generator, Self::Analyser, Self::Voltmeter, Self::Ammeter, Self::Bench, Self::Supply, Self::Thermometer];

    /// Word.
    #[must_use]
    pub const fn word(self) -> &'static str {
        match self {
            Self::Generator => "generator",
            Self::Analyser => "analyser",
            Self::Voltmeter => "voltmeter",
            Self::Ammeter => "ammeter",
            Self::Bench => "bench",
            Self::Supply => "supply",
            Self::Thermometer => "thermometer",
        }
    }

    pub(super) fn parse(word: &str) -> Option<Self> {
        Self::ALL.into_iter().find(|role| role.word().eq_ignore_ascii_case(word))
    }
}

/// An instrument: what it is, and its status.
#[derive(Debug, Clone)]
pub struct Instrument {
    role: Role,
    status: Status,
    /// Result of `INITiate`, for `FETCh?`.
    measured: Option<String>,
    /// Frozen readings that it goes on showing: by the question.
    frozen: Vec<(Message, String)>,
    /// The answer that it still owes, where it is late.
    owed: Option<String>,
}

/// The answer of a message, where it has one.
pub(super) type Answer = Result<Option<String>, ScpiError>;

impl Instrument {
    /// Just powered on.
    #[must_use]
    pub fn new(role: Role) -> Self {
        Self { role, status: Status::default(), measured: None, frozen: Vec::new(), owed: None }
    }

    /// Does a line: several messages with semicolons between; the answer to its queries, joined the same way.
    pub fn line(&mut self, bench: &mut Bench, faults: &mut Vec<(Role, Fault)>, line: &str) -> Option<String> {
        let mut answers = Vec::new();
        for message in messages(line) {
            self.status.waits = !answers.is_empty();
            answers.extend(self.message(bench, faults, &message));
        }
        self.status.waits = false;
        let answer = (!answers.is_empty()).then(|| answers.join(";"));
        if self.fault(faults) != Some(Fault::Late) {
            self.owed = None;
            return answer;
        }
        // Each question is answered with what was to be said to the one before.
        match answer {
            Some(answer) => self.owed.replace(answer),
            None => None,
        }
    }

    fn fault(&self, faults: &[(Role, Fault)]) -> Option<Fault> {
        faults.iter().find(|(role, _)| *role == self.role).map(|(_, fault)| *fault)
    }

    fn message(&mut self, bench: &mut Bench, faults: &mut Vec<(Role, Fault)>, message: &Message) -> Option<String> {
        let fault = self.fault(faults);
        if fault.is_some_and(|fault| fault.ignores(self.role, &message.header, &message.parameters)) {
            return None;
        }
        if let Some(answer) = self.status.common(&message.header, &message.parameters) {
            return answer;
        }
        let answer = self.answer(bench, faults, message, fault);
        match self.spoiled(message, answer, fault) {
            Ok(answer) => answer,
            Err(error) => {
                self.status.error(error);
                None
            }
        }
    }

    fn answer(&mut self, bench: &mut Bench, faults: &mut Vec<(Role, Fault)>, message: &Message, fault: Option<Fault>) -> Answer {
        let (header, parameters) = (message.header.as_str(), message.parameters.as_str());
        if let Some(answer) = self.status.registers(header, parameters) {
            return answer;
        }
        match header.to_ascii_uppercase().as_str() {
            "*IDN?" => {
                let number = Role::ALL.iter().position(|role| *role == self.role).map_or(0, |at| at + 1);
                return Ok(Some(format!("Ferry Lane,Stand-in {},SIM-{number},{}", self.role.word(), env!("CARGO_PKG_VERSION"))));
            }
            "*RST" => {
                self.reset(bench, faults);
                return Ok(None);
            }
            _ => {}
        }
        if matches("SYSTem:ERRor[:NEXT]?", header) {
            Ok(Some(self.status.next_error()))
        } else if matches("SYSTem:ERRor:ALL?", header) {
            Ok(Some(self.status.all_errors()))
        } else if matches("SYSTem:ERRor:COUNt?", header) {
            Ok(Some(self.status.error_count().to_string()))
        } else if matches("SYSTem:VERSion?", header) {
            Ok(Some("1999.0".into()))
        } else {
            match self.role {
                Role::Generator if fault == Some(Fault::RefuseLevel) && matches("[:SOURce]:LEVel", header) => Err(OUT_OF_RANGE),
                Role::Generator => generator(bench, header, parameters),
                Role::Supply => supply(bench, header, parameters),
                Role::Bench => control(bench, faults, header, parameters),
                _ => self.meter(bench, header, parameters),
            }
        }
    }

    /// As it was when it was switched on; what is in the error queue stays, as `*RST` has it.
    fn reset(&mut self, bench: &mut Bench, faults: &mut Vec<(Role, Fault)>) {
        self.measured = None;
        match self.role {
            Role::Generator => bench.generator = crate::bench::Generator::default(),
            Role::Supply => bench.supply.switch(false),
            Role::Bench => {
                faults.clear();
                bench.faults = crate::bench::Faults::default();
            }
            _ => {}
        }
    }

    /// A reading as a fault of this instrument leaves it.
    fn spoiled(&mut self, message: &Message, answer: Answer, fault: Option<Fault>) -> Answer {
        let Ok(Some(text)) = &answer else { return answer };
        let Ok(value) = text.parse::<f64>() else { return answer };
        if fault != Some(Fault::Freeze) {
            self.frozen.clear();
        }
        match fault {
            Some(Fault::Garbage) => Ok(Some("#?!".into())),
            Some(Fault::Overload) => Ok(Some(reading(OVERLOAD))),
            Some(Fault::Milli) => Ok(Some(reading(value * 1_000.0))),
            Some(Fault::Comma) => Ok(Some(text.replace('.', ","))),
            Some(Fault::Freeze) => {
                if let Some((_, held)) = self.frozen.iter().find(|(asked, _)| asked == message) {
                    return Ok(Some(held.clone()));
                }
                self.frozen.push((message.clone(), text.clone()));
                answer
            }
            _ => answer,
        }
    }

    /// Queries that only read: `MEASure`, and the same in two steps by `INITiate` and `FETCh?`, or in one by `READ?`.
    fn meter(&mut self, bench: &Bench, header: &str, parameters: &str) -> Answer {
        if matches("INITiate[:IMMediate]", header) {
            self.measured = self.usual(bench)?;
            Ok(None)
        } else if matches("FETCh?", header) {
            self.measured.clone().ok_or(STALE).map(Some)
        } else if matches("READ?", header) {
            self.measured = self.usual(bench)?;
            Ok(self.measured.clone())
        } else {
            measure(self.role, bench, header, parameters)
        }
    }

    /// Reading of a meter without being told what.
    fn usual(&self, bench: &Bench) -> Answer {
        let header = match self.role {
            Role::Voltmeter => "MEAS:VOLT?",
            Role::Ammeter => "MEAS:CURR?",
            Role::Thermometer => "MEAS:TEMP?",
            _ => "MEAS:POW?",
        };
        measure(self.role, bench, header, "")
    }
}

/// Reading of a meter for the quantity asked.
fn measure(role: Role, bench: &Bench, header: &str, parameters: &str) -> Answer {
    match role {
        Role::Analyser => analyser(bench, header, parameters),
        Role::Voltmeter if matches("MEASure[:SCALar]:VOLTage[:DC]?", header) => value(parameters, bench.reads_supply_v()),
        Role::Ammeter if matches("MEASure[:SCALar]:CURRent[:DC]?", header) => value(parameters, bench.reads_supply_a()),
        Role::Thermometer if matches("MEASure[:SCALar]:TEMPerature?", header) => value(parameters, bench.amplifier.heatsink_c),
        _ => Err(UNDEFINED_HEADER),
    }
}

pub(super) fn reading(value: f64) -> String {
    format!("{value:.6E}")
}

/// A reading whose query takes nothing.
fn value(parameters: &str, value: f64) -> Answer {
    number::none(parameters).map(|()| Some(reading(value)))
}

fn generator(bench: &mut Bench, header: &str, parameters: &str) -> Answer {
    let g = &mut bench.generator;
    if matches("[:SOURce]:FREQuency", header) {
        g.hz = FREQUENCY.read(parameters)?;
    } else if matches("[:SOURce]:FREQuency?", header) {
        return FREQUENCY.ask(g.hz, parameters).map(reading).map(Some);
    } else if matches("[:SOURce]:LEVel", header) {
        g.level_db = LEVEL.read(parameters)?;
    } else if matches("[:SOURce]:LEVel?", header) {
        return LEVEL.ask(g.level_db, parameters).map(reading).map(Some);
    } else if matches("[:SOURce]:FUNCtion", header) {
        g.shape = shape(number::one(parameters)?)?;
    } else if matches("[:SOURce]:FUNCtion?", header) {
        number::none(parameters)?;
        return Ok(Some(match g.shape {
            Shape::Sine => "SIN".into(),
            Shape::Burst => "BURS".into(),
            Shape::Cycles(count) => format!("CYCL{count}"),
        }));
    } else if matches("OUTPut[:STATe]", header) {
        g.on = number::switch(parameters)?;
    } else if matches("OUTPut[:STATe]?", header) {
        number::none(parameters)?;
        return Ok(Some(u8::from(g.on).to_string()));
    } else {
        return Err(UNDEFINED_HEADER);
    }
    Ok(None)
}

fn shape(word: &str) -> Result<Shape, ScpiError> {
    let word = word.to_ascii_uppercase();
    match word.as_str() {
        "SIN" | "SINUSOID" => Ok(Shape::Sine),
        "BURS" | "BURST" => Ok(Shape::Burst),
        _ => {
            let count = word.strip_prefix("CYCLES").or_else(|| word.strip_prefix("CYCL")).and_then(|count| count.parse().ok());
            count.filter(|count| (1..=200).contains(count)).map(Shape::Cycles).ok_or(ILLEGAL_PARAMETER)
        }
    }
}

fn analyser(bench: &Bench, header: &str, parameters: &str) -> Answer {
    let output = || {
        let list = number::list(parameters);
        if list.len() > 1 {
            return Err(super::PARAMETER_NOT_ALLOWED);
        }
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
    } else if matches("MEASure[:SCALar]:CAPTure?", header) {
        // A block of bytes is no line of text: the connection sends it itself, and only what is wrong comes here.
        capture_ms(Role::Analyser, &format!("{header} {parameters}")).transpose()?;
        Err(ILLEGAL_PARAMETER)
    } else {
        Err(UNDEFINED_HEADER)
    }
}

fn supply(bench: &mut Bench, header: &str, parameters: &str) -> Answer {
    let s = &mut bench.supply;
    if matches("[:SOURce]:VOLTage[:LEVel]", header) {
        s.set_v = VOLTS.read(parameters)?;
    } else if matches("[:SOURce]:VOLTage[:LEVel]?", header) {
        return VOLTS.ask(s.set_v, parameters).map(reading).map(Some);
    } else if matches("[:SOURce]:CURRent[:LEVel]", header) {
        s.set_a = AMPS.read(parameters)?;
    } else if matches("[:SOURce]:CURRent[:LEVel]?", header) {
        return AMPS.ask(s.set_a, parameters).map(reading).map(Some);
    } else if matches("OUTPut[:STATe]", header) {
        s.switch(number::switch(parameters)?);
    } else if matches("OUTPut[:STATe]?", header) {
        number::none(parameters)?;
        return Ok(Some(u8::from(s.is_on()).to_string()));
    } else if matches("MEASure[:SCALar]:VOLTage[:DC]?", header) {
        return value(parameters, bench.reads_supply_v());
    } else if matches("MEASure[:SCALar]:CURRent[:DC]?", header) {
        return value(parameters, bench.reads_supply_a());
    } else {
        return Err(UNDEFINED_HEADER);
    }
    s.apply();
    Ok(None)
}

/// The recording that a line asks for, in milliseconds: of the bench's own port, and of the analyser. Nothing of any other line.
#[must_use]
pub fn capture_ms(role: Role, line: &str) -> Option<Result<usize, ScpiError>> {
    let (header, parameters) = line.trim().split_once(char::is_whitespace).unwrap_or((line.trim(), ""));
    let asks = match role {
        Role::Bench => matches("SIMulation:CAPTure?", header),
        Role::Analyser => matches("MEASure[:SCALar]:CAPTure?", header),
        _ => false,
    };
    if !asks {
        return None;
    }
    let range = Number::plain(1.0, MOST_TICKS as f64);
    let asked = if parameters.trim().is_empty() { Ok(1_000.0_f64.min(range.most)) } else { range.read(parameters) };
    Some(asked.map(|ms| ms as usize))
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
        assert_eq!(ask(Role::Generator, &mut bench, "FREQ 20 kHz;LEV -10 DB"), (None, good.into()));
        assert_eq!(ask(Role::Generator, &mut bench, "FREQ? MAX;FREQ 40;OUTP 2;LEV? MIN").0.as_deref(), Some("2.000000E4;-1.200000E2"));
        assert_eq!(ask(Role::Generator, &mut bench, "LEV -12;*OPC?;*STB?").0.as_deref(), Some("1;16"), "an answer waits");
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
            (Role::Generator, "LEV -10 V", "-131"),
            (Role::Generator, "LEV -10,-20", "-108"),
            (Role::Generator, "SOUR:FREQ 40;OUTP ON", "-113"),
            (Role::Voltmeter, "FETC?", "-230"),
            (Role::Voltmeter, "MEAS:VOLT? 10", "-108"),
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
