//! What a trace says, and what it looks like.

use axum::Json;
use axum::extract::State as Ask;
use axum::http::header;
use axum::response::{IntoResponse, Response};
use pukka_core::captured::{CornerSaid, NamedFigure, Onset, captured_figures, corners_said, onset};
use pukka_core::kernel::problem::Problem;
use pukka_core::record::session::TraceChannel;
use pukka_core::traces::distortion::Tools;
use pukka_core::traces::look::{SPECTRUM_SAMPLES, Spectrum, TwoCycles, cycles, spectrum};
use pukka_core::traces::report::Stretch;
use pukka_core::traces::scale::by_meter;
use pukka_core::traces::{ChannelKind, ChannelSetting, TraceReport, cut_anew, read_by};
use serde::{Deserialize, Serialize};

use super::super::body::{Body, sound};
use super::{ApiError, CutView, Opened, Path, Query, State, with};
use crate::captures::CaptureTrouble;

/// Load that watts are reckoned with.
#[derive(Debug, Deserialize, utoipa::IntoParams)]
#[into_params(parameter_in = Query)]
#[serde(deny_unknown_fields)]
pub struct AtLoad {
    /// Ohms; no watts when left out.
    #[serde(default)]
    #[param(minimum = 0.1, maximum = 64)]
    load_ohm: Option<f64>,
}

/// A trace, read.
#[derive(Debug, Serialize, Deserialize, utoipa::ToSchema)]
pub struct TraceView {
    /// Name of its file.
    pub name: String,
    /// Form of the file: "wav", "csv".
    pub form: String,
    /// Length of the file.
    pub bytes: u64,
    /// Meaning of its channels.
    pub channels: Vec<TraceChannel>,
    /// Samples of a piece of its wave.
    pub piece: usize,
    /// Pieces of its wave.
    pub pieces: usize,
    /// Distortion that a clean tone has at most.
    pub limit_ratio: f64,
    /// Stretches and doubts.
    pub report: TraceReport,
}

fn load(load_ohm: Option<f64>) -> Result<Option<f64>, ApiError> {
    let odd = load_ohm.is_some_and(|ohm| !(0.1..=64.0).contains(&ohm));
    sound(odd.then(|| Problem::new("load_ohm", "Between 0.1 and 64 Ω.")).into_iter().collect())?;
    Ok(load_ohm)
}

/// A trace with its stretches and doubts. It is passed over once; a long one takes seconds, and whoever leaves ends that.
#[utoipa::path(get, operation_id = "getTrace", path = "/sessions/{id}/traces/{sha256}",
    params(("id" = String, Path), ("sha256" = String, Path), AtLoad), responses((status = 200, body = TraceView)))]
pub async fn get(
    Ask(state): Ask<State>,
    Path((id, sha256)): Path<(String, String)>,
    Query(AtLoad { load_ohm }): Query<AtLoad>,
) -> Result<Json<TraceView>, ApiError> {
    let load_ohm = load(load_ohm)?;
    let made = with(&state, (&id, &sha256), move |opened| {
        let asked = opened.settings(load_ohm);
        let report = read_by(opened.source.as_mut(), &asked, &opened.known.levels).map_err(CaptureTrouble::from)?;
        let Opened { trace, known, .. } = opened;
        Ok(TraceView {
            name: trace.name.clone(),
            form: known.form.ending().into(),
            bytes: known.bytes,
            channels: trace.channels.clone(),
            piece: known.peaks.piece,
            pieces: known.peaks.channels.first().map_or(0, Vec::len),
            limit_ratio: asked.limit_ratio,
            report,
        })
    });
    Ok(Json(made.await?))
}

fn binary(bytes: Vec<u8>) -> Response {
    let headers = [(header::CONTENT_TYPE, "application/octet-stream"), (header::CACHE_CONTROL, "private, max-age=31536000, immutable")];
    (headers, bytes).into_response()
}

/// The wave for a screen: little-endian floats, channel behind channel; of each piece its lowest and its highest sample and its rms,
/// in the unit of the file.
#[utoipa::path(get, operation_id = "getTraceWave", path = "/sessions/{id}/traces/{sha256}/wave",
    params(("id" = String, Path), ("sha256" = String, Path)), responses((status = 200, content_type = "application/octet-stream", body = Vec<u8>)))]
pub async fn wave(Ask(state): Ask<State>, Path((id, sha256)): Path<(String, String)>) -> Result<Response, ApiError> {
    let made = with(&state, (&id, &sha256), |opened| {
        let all = opened.known.peaks.channels.iter().flatten().flat_map(|peak| [peak.low, peak.high, peak.rms]);
        Ok(all.flat_map(f32::to_le_bytes).collect::<Vec<u8>>())
    });
    Ok(binary(made.await?))
}

/// Samples that are wanted.
#[derive(Debug, Clone, Copy, Deserialize, utoipa::IntoParams)]
#[into_params(parameter_in = Query)]
#[serde(deny_unknown_fields)]
pub struct SamplesAsked {
    /// First sample.
    from: u64,
    /// Samples of each channel: 262,144 at the most.
    #[param(minimum = 1, maximum = 262_144)]
    frames: usize,
}

const MOST_SAMPLES: usize = 262_144;

/// Samples of every channel as little-endian floats, channel behind channel, in the unit of the file; fewer where it ends.
#[utoipa::path(get, operation_id = "getTraceSamples", path = "/sessions/{id}/traces/{sha256}/samples",
    params(("id" = String, Path), ("sha256" = String, Path), SamplesAsked),
    responses((status = 200, content_type = "application/octet-stream", body = Vec<u8>)))]
pub async fn samples(
    Ask(state): Ask<State>,
    Path((id, sha256)): Path<(String, String)>,
    Query(asked): Query<SamplesAsked>,
) -> Result<Response, ApiError> {
    let odd = !(1..=MOST_SAMPLES).contains(&asked.frames);
    sound(odd.then(|| Problem::new("frames", format!("Between 1 and {MOST_SAMPLES} samples."))).into_iter().collect())?;
    let made = with(&state, (&id, &sha256), move |opened| {
        let mut bytes = Vec::new();
        for channel in 0..opened.known.recording.channels {
            let samples = opened.source.window(channel, asked.from, asked.frames).map_err(CaptureTrouble::from)?;
            bytes.extend(samples.into_iter().flat_map(|sample| (sample as f32).to_le_bytes()));
        }
        Ok(bytes)
    });
    Ok(binary(made.await?))
}

/// A stretch to look at, and the load it was driven into.
#[derive(Debug, Clone, Copy, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct StretchAsked {
    /// The stretch.
    pub cut: CutView,
    /// Ohms; no watts when left out.
    #[serde(default)]
    pub load_ohm: Option<f64>,
}

/// A stretch, seen from near.
#[derive(Debug, Serialize, Deserialize, utoipa::ToSchema)]
pub struct StretchView {
    /// Its figures as data.
    pub stretch: Stretch,
    /// Its figures as shown, each with its working.
    pub figures: Vec<NamedFigure>,
    /// Spectrum of its middle.
    pub spectrum: Spectrum,
    /// Two cycles of its middle beside a pure sine; nothing of a sweep, of silence, or of too few cycles.
    pub cycles: Option<TwoCycles>,
    /// Where clipping begins, as far as it shows.
    pub onset: Option<Onset>,
    /// What its corners say of the filters that the amplifier is said to have.
    pub corners: Vec<CornerSaid>,
}

/// A stretch as it was cut, or between ends that somebody moved: figures, spectrum, one cycle, onset, corners.
#[utoipa::path(post, operation_id = "lookAtStretch", path = "/sessions/{id}/traces/{sha256}/stretches",
    params(("id" = String, Path), ("sha256" = String, Path)), request_body = StretchAsked, responses((status = 200, body = StretchView)))]
pub async fn stretch(
    Ask(state): Ask<State>,
    Path((id, sha256)): Path<(String, String)>,
    body: Body<StretchAsked>,
) -> Result<Json<StretchView>, ApiError> {
    let StretchAsked { cut, load_ohm } = body.value;
    let load_ohm = load(load_ohm)?;
    let made = with(&state, (&id, &sha256), move |opened| looked(opened, cut, load_ohm));
    Ok(Json(made.await?))
}

pub(super) fn looked(opened: &mut Opened, cut: CutView, load_ohm: Option<f64>) -> Result<StretchView, ApiError> {
    let asked = opened.settings(load_ohm);
    let Opened { row, source, known, .. } = opened;
    let stretch = cut_anew(source.as_mut(), &asked, &known.levels, cut.cut()).map_err(CaptureTrouble::from)?;
    let rate_hz = known.recording.rate_hz;
    let (from, to) = ((stretch.from_s * rate_hz).round() as u64, (stretch.to_s * rate_hz).round() as u64);
    let frames = usize::try_from(to.saturating_sub(from)).unwrap_or_default();
    let seen = frames.min(SPECTRUM_SAMPLES);
    let scale = asked.channels.get(cut.channel).map_or(1.0, |own| own.scale);
    let start = from + (frames - seen) as u64 / 2;
    let samples: Vec<f64> =
        source.window(cut.channel, start, seen).map_err(CaptureTrouble::from)?.into_iter().map(|sample| sample * scale).collect();
    let mut tools = Tools::default();
    let response = stretch.response.as_ref();
    Ok(StretchView {
        figures: captured_figures(&stretch, &asked, cut.channel),
        spectrum: spectrum(&mut tools.transforms, &samples, rate_hz, stretch.frequency_hz),
        cycles: stretch.frequency_hz.and_then(|hz| cycles(&tools.fine, &samples, rate_hz, hz)),
        onset: onset(&stretch),
        corners: response.map(|response| corners_said(&row.session.amplifier, response)).unwrap_or_default(),
        stretch,
    })
}

/// A meter's reading over a stretch.
#[derive(Debug, Clone, Copy, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(deny_unknown_fields)]
pub struct MeterRead {
    /// The channel, from 0.
    pub channel: usize,
    /// What it is a channel of: true rms of an output, the mean of a supply.
    pub kind: ChannelKind,
    /// What the meter read.
    pub reading: f64,
    /// Seconds from the start.
    pub from_s: f64,
    /// Behind its end.
    pub to_s: f64,
}

/// A scale that follows from it.
#[derive(Debug, Serialize, Deserialize, utoipa::ToSchema)]
pub struct ScaleFound {
    /// Units per unit of the file.
    pub scale: f64,
    /// How far the scale that was set is off it, as a ratio.
    pub off_ratio: f64,
}

/// The scale of a channel by what a meter read over a stretch. Nothing is changed.
#[utoipa::path(post, operation_id = "findScale", path = "/sessions/{id}/traces/{sha256}/scales",
    params(("id" = String, Path), ("sha256" = String, Path)), request_body = MeterRead, responses((status = 200, body = ScaleFound)))]
pub async fn scale(
    Ask(state): Ask<State>,
    Path((id, sha256)): Path<(String, String)>,
    body: Body<MeterRead>,
) -> Result<Json<ScaleFound>, ApiError> {
    let MeterRead { channel, kind, reading, from_s, to_s } = body.value;
    let odd = !(reading.is_finite() && reading > 0.0);
    sound(odd.then(|| Problem::new("reading", "A meter reads more than 0 here.")).into_iter().collect())?;
    let made = with(&state, (&id, &sha256), move |opened| {
        let set = opened.settings(None).channels.get(channel).map_or(ChannelSetting::default().scale, |own| own.scale);
        let scale = by_meter(opened.source.as_mut(), channel, kind, reading, (from_s, to_s)).map_err(CaptureTrouble::from)?;
        Ok(ScaleFound { scale, off_ratio: set / scale - 1.0 })
    });
    Ok(Json(made.await?))
}
