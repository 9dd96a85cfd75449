//! The bench's own port: which amplifier is on it, what feeds it, and what is wrong.

use super::device::{Answer, Role, capture_ms, reading};
use super::fault::{FAULTS, Fault};
use super::header::matches;
use super::number::{self, Number};
use super::{ILLEGAL_PARAMETER, MISSING_PARAMETER, UNDEFINED_HEADER};
use crate::amplifier::State;
use crate::bench::{Bench, Filter};
use crate::character::{ALL, find};
use crate::supply::{Supply, SupplyKind};

pub(super) fn control(bench: &mut Bench, faults: &mut Vec<(Role, Fault)>, header: &str, parameters: &str) -> Answer {
    let text = number::string(parameters);
    if matches("SIMulation:AMPLifier", header) {
        bench.change(find(text).ok_or(ILLEGAL_PARAMETER)?);
    } else if matches("SIMulation:AMPLifier?", header) {
        let character = bench.amplifier.character;
        return Ok(Some(format!("\"{}\",\"{}\",{}", character.key, character.name, character.outputs.len())));
    } else if matches("SIMulation:CATalog?", header) {
        return Ok(Some(ALL.iter().map(|character| format!("\"{}\"", character.key)).collect::<Vec<_>>().join(",")));
    } else if matches("SIMulation:LOAD", header) {
        bench.load_ohm = Number::plain(0.1, 1_000.0).read(parameters)?;
    } else if matches("SIMulation:LOAD?", header) {
        return Ok(Some(reading(bench.load_ohm)));
    } else if matches("SIMulation:CHARger", header) {
        bench.supply.charger = number::switch(parameters)?;
    } else if matches("SIMulation:CHARger?", header) {
        return Ok(Some(u8::from(bench.supply.charger).to_string()));
    } else if matches("SIMulation:SUPPly", header) {
        let list = number::list(parameters);
        let word = list.first().ok_or(MISSING_PARAMETER)?.to_ascii_uppercase();
        bench.supply = Supply::new(match (word.as_str(), &list[1..]) {
            ("BANK", []) => SupplyKind::bank(),
            ("MAINS", [volts, amps]) => SupplyKind::mains(Number::plain(6.0, 20.0).read(volts)?, Number::plain(1.0, 1_000.0).read(amps)?),
            ("MAINS", [] | [_]) => return Err(MISSING_PARAMETER),
            ("BANK" | "MAINS", _) => return Err(super::PARAMETER_NOT_ALLOWED),
            _ => return Err(ILLEGAL_PARAMETER),
        });
    } else if matches("SIMulation:FILTer", header) {
        let list = number::list(parameters);
        let hz = |text: &str| Number::plain(10.0, 20_000.0).read(text);
        bench.filter = match (list.first().ok_or(MISSING_PARAMETER)?.to_ascii_uppercase().as_str(), &list[1..]) {
            ("OFF", []) => None,
            ("LOW", [at]) => Some(Filter::LowPass(hz(at)?)),
            ("HIGH", [at]) => Some(Filter::HighPass(hz(at)?)),
            _ => return Err(ILLEGAL_PARAMETER),
        };
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
        bench.advance(Number::plain(1.0, 600_000.0).read(parameters)? as u64);
    } else if matches("SIMulation:CLAMp", header) {
        bench.faults.clamp_factor = Some(Number::plain(0.01, 100.0).read(parameters)?).filter(|factor| (factor - 1.0).abs() > 1e-9);
    } else if matches("SIMulation:SWITch", header) {
        bench.faults.load_switch = number::switch(parameters)?;
    } else if matches("SIMulation:CLAMp?", header) {
        return Ok(Some(reading(bench.faults.clamp_factor.unwrap_or(1.0))));
    } else if matches("SIMulation:SWITch?", header) {
        return Ok(Some(u8::from(bench.faults.load_switch).to_string()));
    } else if matches("SIMulation:FAULt", header) {
        let list = number::list(parameters);
        let [role, fault] = list.as_slice() else { return Err(MISSING_PARAMETER) };
        let role = Role::parse(role).ok_or(ILLEGAL_PARAMETER)?;
        let fault = if fault.eq_ignore_ascii_case("NONE") { None } else { Some(Fault::parse(fault).ok_or(ILLEGAL_PARAMETER)?) };
        faults.retain(|(known, _)| *known != role);
        faults.extend(fault.map(|fault| (role, fault)));
    } else if matches("SIMulation:FAULt?", header) {
        let said = |(role, fault): &(Role, Fault)| format!("\"{},{}\"", role.word(), fault.word());
        return Ok(Some(faults.iter().map(said).collect::<Vec<_>>().join(",")));
    } else if matches("SIMulation:FAULt:CLEar", header) {
        faults.clear();
        bench.faults.load_switch = false;
        bench.faults.clamp_factor = None;
        bench.supply.charger = false;
    } else if matches("SIMulation:FAULt:CATalog?", header) {
        return Ok(Some(FAULTS.map(|(word, _)| format!("\"{word}\"")).join(",")));
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
