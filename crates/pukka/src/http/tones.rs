//! Test tones as WAV: to save, and to play in the browser.

use axum::body::Body;
use axum::extract::State as Ask;
use axum::http::header;
use axum::response::{IntoResponse, Response};
use futures_util::stream;
use pukka_core::kernel::problem::Problem;
use pukka_core::tones::{Depth, MOST_SECONDS, RATES, Shape, Sides, Tone, WavPieces};
use serde::Deserialize;

use super::body::sound;
use super::path::Query;
use super::{ApiError, State};

/// The tone.
#[derive(Debug, Deserialize, utoipa::IntoParams)]
#[into_params(parameter_in = Query)]
pub struct WantedTone {
    /// Frequency, hertz.
    hz: f64,
    /// Peak against full scale, dBFS.
    level: f64,
    /// `sine`, `burst`, `counted` or `steps`.
    shape: String,
    /// Of counted cycles: how many.
    cycles: Option<u32>,
    /// Of steps: levels below that of the tone, decibels, with commas between.
    levels: Option<String>,
    /// Length of a file; of steps, of each of them.
    seconds: Option<f64>,
    /// Sampling rate, hertz.
    rate: Option<u32>,
    /// 16 or 24 bit.
    bits: Option<u16>,
    /// `one` channel, or two `against` one another, the right one upside down: for bridged and strapped outputs.
    sides: Option<String>,
    /// To be played over and over: the end joins the start.
    #[serde(default, rename = "loop")]
    looped: bool,
}

const USUAL_SECONDS: f64 = 60.0;
const USUAL_STEP_S: f64 = 5.0;

fn tone(wanted: &WantedTone) -> Result<Tone, Vec<Problem>> {
    let refused = |path: &str, says: &str| vec![Problem::new(path, says)];
    let shape = match wanted.shape.as_str() {
        "sine" => Shape::Sine,
        "burst" => Shape::Burst,
        "counted" => Shape::Counted { cycles: wanted.cycles.unwrap_or(20) },
        "steps" => {
            let text = wanted.levels.as_deref().unwrap_or("-5,-4,-3,-2,-1,0");
            let levels_db: Result<Vec<f64>, _> = text.split(',').map(|level| level.trim().replace('−', "-").parse()).collect();
            let levels_db = levels_db.map_err(|_| refused("levels", "Levels are numbers with commas between: -5,-4,-3."))?;
            Shape::Steps { levels_db, seconds: wanted.seconds.unwrap_or(USUAL_STEP_S) }
        }
        other => return Err(refused("shape", &format!("“{other}” is no shape: sine, burst, counted or steps."))),
    };
    let tone = Tone { hz: wanted.hz, level_dbfs: wanted.level, shape };
    let problems = tone.check();
    if problems.is_empty() { Ok(tone) } else { Err(problems) }
}

/// A test tone as a WAV file.
#[utoipa::path(get, operation_id = "getTone", path = "/tones.wav", params(WantedTone),
    responses((status = 200, content_type = "audio/wav", body = Vec<u8>)))]
pub async fn wav_file(Ask(state): Ask<State>, Query(wanted): Query<WantedTone>) -> Result<Response, ApiError> {
    let tone = tone(&wanted).map_err(ApiError::invalid)?;
    let rate = wanted.rate.unwrap_or(48_000);
    let seconds = wanted.seconds.unwrap_or(USUAL_SECONDS);
    let depth = match wanted.bits {
        None | Some(16) => Some(Depth::Sixteen),
        Some(24) => Some(Depth::TwentyFour),
        Some(_) => None,
    };
    let mut problems = Vec::new();
    if !RATES.contains(&rate) {
        problems.push(Problem::new("rate", "Rates are 44100, 48000 and 96000 Hz."));
    }
    if !(seconds > 0.0 && seconds <= MOST_SECONDS) {
        problems.push(Problem::new("seconds", "A tone lasts more than 0 s, and 600 s at the most."));
    }
    let sides = match wanted.sides.as_deref() {
        None | Some("one") => Sides::One,
        Some("against") => Sides::Against,
        Some(other) => {
            problems.push(Problem::new("sides", format!("“{other}” is neither one nor against.")));
            Sides::One
        }
    };
    let Some(depth) = depth.filter(|_| problems.is_empty()) else {
        if problems.is_empty() {
            problems.push(Problem::new("bits", "A sample has 16 or 24 bits."));
        }
        return Err(ApiError::invalid(problems));
    };
    sound(problems)?;
    let name = match sides {
        Sides::One => tone.words(),
        Sides::Against => format!("{}, one side against the other", tone.words()),
    };
    let file = name.chars().map(|c| if c.is_ascii_alphanumeric() || c == '-' { c } else { '-' }).collect::<String>();
    let pieces = WavPieces::new(tone, seconds, rate, depth, sides, wanted.looped);
    let headers = [
        (header::CONTENT_TYPE, "audio/wav".to_owned()),
        (header::CONTENT_LENGTH, pieces.bytes().to_string()),
        (header::CONTENT_DISPOSITION, format!("inline; filename=\"{file}.wav\"")),
    ];
    // Made as it is sent: ten minutes of it are not held at once, and many at once take turns.
    let body = stream::unfold((pieces, state), |(mut pieces, state)| async move {
        let made = state.compute(move || pieces.next().map(|piece| (piece, pieces))).await;
        made.ok().flatten().map(|(piece, pieces)| (Ok::<_, std::convert::Infallible>(piece), (pieces, state)))
    });
    Ok((headers, Body::from_stream(body)).into_response())
}
