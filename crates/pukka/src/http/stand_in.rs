//! The stand-in bench of the demo: which amplifier is on it, and what is wrong with it.

use axum::Json;
use axum::extract::State as Ask;
use axum::http::{StatusCode, header};
use axum::response::{IntoResponse as _, Response};
use pukka_core::kernel::problem::Problem;
use pukka_sim::character::{ALL, find};
use pukka_sim::recorder::MOST_TICKS;
use pukka_sim::scpi::Role;
use pukka_sim::serve::Running;
use pukka_store::StoreError;
use serde::{Deserialize, Serialize};

use super::body::Body;
use super::path::Query;
use super::writing::Writing;
use super::{ApiError, State};

/// An amplifier that can be put on it.
#[derive(Debug, Serialize, Deserialize, utoipa::ToSchema)]
pub struct StandInAmplifier {
    /// Short word for it.
    pub key: String,
    /// Name.
    pub name: String,
    /// Lesson.
    pub teaches: String,
    /// Number of outputs that it has.
    pub outputs: usize,
}

/// The stand-in bench as it stands.
#[derive(Debug, Serialize, Deserialize, utoipa::ToSchema)]
pub struct StandInView {
    /// There is none outside the demo.
    pub there: bool,
    /// Amplifiers that can be put on it.
    pub amplifiers: Vec<StandInAmplifier>,
    /// The one on it.
    pub amplifier: Option<String>,
    /// State: `ON`, `OVERCURRENT`, `OVERHEAT`, `FUSE`, `DEAD`.
    pub state: Option<String>,
    /// Heatsink, °C.
    pub heatsink_c: Option<f64>,
    /// Problems with it, whoever set it.
    pub faults: StandInFaults,
}

/// Problems with the stand-in bench.
#[derive(Debug, Default, Serialize, Deserialize, utoipa::ToSchema)]
pub struct StandInFaults {
    /// A charger is on the bank.
    pub charger_on: bool,
    /// The load switch stands one step lower than it says.
    pub load_switch_wrong: bool,
    /// The clamp is off by this factor; 1 for none.
    pub clamp_factor: f64,
    /// Faults of instruments, one an instrument: `voltmeter,GARBAGE`.
    pub instruments: Vec<String>,
}

/// Changes; what is left out stays.
#[derive(Debug, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct StandInChange {
    /// Puts another amplifier on it, cold.
    #[serde(default)]
    pub amplifier: Option<String>,
    /// A charger on the bank.
    #[serde(default)]
    pub charger_on: Option<bool>,
    /// The clamp is off by this factor; 1 for none.
    #[serde(default)]
    pub clamp_factor: Option<f64>,
    /// The load switch stands one step lower than it says.
    #[serde(default)]
    pub load_switch_wrong: Option<bool>,
    /// A fault of one instrument: `voltmeter,GARBAGE`; kinds are DROP, STALL, GARBAGE, MILLI, OVERLOAD, HALF,
    /// FREEZE, IGNORE-ZERO, IGNORE, REFUSE-LEVEL, LATE, COMMA, DEAF, NONE.
    #[serde(default)]
    pub fault: Option<String>,
    /// Takes every fault away first.
    #[serde(default)]
    pub clear: bool,
}

/// Does a line on the bench's own port.
pub(super) fn tell(stand_in: &Running, line: &str) -> Result<(), ApiError> {
    let answer = stand_in.ask(Role::Bench, &format!("*CLS;{line};:SYST:ERR?")).unwrap_or_default();
    if answer.starts_with("0,") {
        Ok(())
    } else {
        Err(ApiError::invalid(vec![Problem::new("stand-in", format!("It refused {line}: {answer}."))]))
    }
}

/// Whether the amplifier on it has so many outputs.
pub(super) fn drives(stand_in: &Running, outputs: usize) -> Result<(), ApiError> {
    let answer = stand_in.ask(Role::Bench, "SIM:AMPL?").unwrap_or_default();
    let there = ALL.iter().find(|character| answer.contains(&format!("\"{}\"", character.key)));
    match there {
        Some(on) if on.outputs.len() < outputs => Err(ApiError::new(
            StatusCode::CONFLICT,
            "cannot-start",
            format!(
                "This run drives {outputs} outputs, and the stand-in on the bench, {}, has {}: put another on it, under Set-up, Instruments.",
                on.name,
                on.outputs.len()
            ),
        )),
        _ => Ok(()),
    }
}

/// The stand-in bench.
#[utoipa::path(get, operation_id = "getStandIn", path = "/stand-in", responses((status = 200, body = StandInView)))]
pub async fn get(Ask(state): Ask<State>) -> Json<StandInView> {
    let amplifiers = ALL.iter().map(|character| StandInAmplifier {
        key: character.key.into(),
        name: character.name.into(),
        teaches: character.teaches.into(),
        outputs: character.outputs.len(),
    });
    let ask = |line: &str| state.stand_in.as_ref().and_then(|stand_in| stand_in.ask(Role::Bench, line));
    let key = |answer: String| answer.split(',').next().unwrap_or_default().trim_matches('"').to_owned();
    Json(StandInView {
        there: state.stand_in.is_some(),
        amplifiers: if state.stand_in.is_some() { amplifiers.collect() } else { Vec::new() },
        amplifier: ask("SIM:AMPL?").map(key),
        state: ask("SIM:STAT?"),
        heatsink_c: ask("SIM:TEMP?").and_then(|answer| answer.parse().ok()),
        faults: StandInFaults {
            charger_on: ask("SIM:CHAR?").is_some_and(|answer| answer == "1"),
            load_switch_wrong: ask("SIM:SWIT?").is_some_and(|answer| answer == "1"),
            clamp_factor: ask("SIM:CLAM?").and_then(|answer| answer.parse().ok()).unwrap_or(1.0),
            instruments: ask("SIM:FAUL?").map(|answer| quoted(&answer)).unwrap_or_default(),
        },
    })
}

/// The texts of a list of strings.
fn quoted(list: &str) -> Vec<String> {
    list.split('"').skip(1).step_by(2).map(str::to_owned).collect()
}

/// Length of the recording.
#[derive(Debug, Deserialize, utoipa::IntoParams)]
#[into_params(parameter_in = Query)]
pub struct HowMuch {
    /// The last milliseconds: 1 to 4000.
    #[serde(default = "one_second")]
    #[param(inline, minimum = 1, maximum = 4000)]
    ms: u32,
}

const fn one_second() -> u32 {
    1_000
}

/// Recording of the last moments: a WAV of floats, a channel an output (full scale 200 V), then supply volts (20 V) and amps (500 A).
#[utoipa::path(get, operation_id = "getStandInRecording", path = "/stand-in/recording.wav", params(HowMuch),
    responses((status = 200, body = Vec<u8>, content_type = "audio/wav")))]
pub async fn recording(Ask(state): Ask<State>, Query(HowMuch { ms }): Query<HowMuch>) -> Result<Response, ApiError> {
    let stand_in = state.stand_in.clone().ok_or_else(|| ApiError::not_found("stand-in bench", "demo"))?;
    let ms = (ms as usize).clamp(1, MOST_TICKS);
    let wav = tokio::task::spawn_blocking(move || stand_in.recording(ms)).await.map_err(|_| StoreError::Broken)?;
    let headers = [(header::CONTENT_TYPE, "audio/wav"), (header::CONTENT_DISPOSITION, "attachment; filename=\"stand-in.wav\"")];
    Ok((headers, wav).into_response())
}

/// Changes the stand-in bench.
#[utoipa::path(put, operation_id = "changeStandIn", path = "/stand-in", request_body = StandInChange,
    responses((status = 204)))]
pub async fn change(Ask(state): Ask<State>, _writing: Writing, body: Body<StandInChange>) -> Result<StatusCode, ApiError> {
    let stand_in = state.stand_in.as_ref().ok_or_else(|| ApiError::not_found("stand-in bench", "demo"))?;
    let StandInChange { amplifier, charger_on, clamp_factor, load_switch_wrong, fault, clear } = body.value;
    let on = |yes: bool| if yes { "ON" } else { "OFF" };
    let lines = [
        clear.then(|| Ok("SIM:FAUL:CLE".into())),
        amplifier.map(|key| find(&key).map(|c| format!("SIM:AMPL \"{}\"", c.key)).ok_or(key)),
        charger_on.map(|yes| Ok(format!("SIM:CHAR {}", on(yes)))),
        clamp_factor.map(|factor| Ok(format!("SIM:CLAM {factor}"))),
        load_switch_wrong.map(|yes| Ok(format!("SIM:SWIT {}", on(yes)))),
        fault.map(|fault| if fault.contains([';', '\n']) { Err(fault) } else { Ok(format!("SIM:FAUL {fault}")) }),
    ];
    for line in lines.into_iter().flatten() {
        let line = line.map_err(|word| ApiError::invalid(vec![Problem::new("stand-in", format!("“{word}” is not known."))]))?;
        tell(stand_in, &line)?;
    }
    Ok(StatusCode::NO_CONTENT)
}
