//! A stretch as a picture: its wave, its figures. What stands in the recording beside its samples is nowhere in it.

use axum::extract::State as Ask;
use axum::response::Response;
use pukka_core::captured::captured_figures;
use pukka_core::kernel::format;
use pukka_core::traces::cut::StretchKind;
use pukka_core::traces::cut_anew;
use serde::Deserialize;

use super::super::publish::{drawn, signature, style};
use super::{ApiError, CutView, Path, Query, State, with};
use crate::captures::CaptureTrouble;
use crate::cards::{Pictured, Shape, Theme, trace_card};

/// A stretch to draw, and its looks.
#[derive(Debug, Clone, Deserialize, utoipa::IntoParams)]
#[into_params(parameter_in = Query)]
#[serde(deny_unknown_fields)]
pub struct PictureAsked {
    /// The channel, from 0.
    channel: usize,
    /// Kind of stretch.
    #[param(inline)]
    kind: StretchKind,
    /// Seconds from the start.
    from_s: f64,
    /// Behind its end.
    to_s: f64,
    /// Ohms; no watts when left out.
    #[serde(default)]
    load_ohm: Option<f64>,
    /// Shape.
    #[serde(default)]
    #[param(inline)]
    shape: Shape,
    /// Theme.
    #[serde(default)]
    #[param(inline)]
    theme: Theme,
    /// Length of the shorter side, pixels: 1080 or 2160; 1080 when left out.
    #[serde(default)]
    #[param(minimum = 1080, maximum = 2160)]
    lines: Option<u32>,
}

/// Columns of a drawn wave.
const COLUMNS: usize = 900;
/// Part of a stretch that is drawn on either side of it.
const AROUND: f64 = 0.12;

/// A stretch as a card: `trace.svg` or `trace.png`.
#[utoipa::path(get, operation_id = "getTracePicture", path = "/sessions/{id}/traces/{sha256}/pictures/{file}",
    params(("id" = String, Path), ("sha256" = String, Path), ("file" = String, Path), PictureAsked),
    responses((status = 200, content((Vec<u8> = "image/png"), (String = "image/svg+xml")))))]
pub async fn get(
    Ask(state): Ask<State>,
    Path((id, sha256, file)): Path<(String, String, String)>,
    Query(asked): Query<PictureAsked>,
) -> Result<Response, ApiError> {
    let style = style(asked.shape, asked.theme, asked.lines)?;
    let by = signature(&state).await?;
    let PictureAsked { channel, kind, from_s, to_s, load_ohm, .. } = asked;
    let cut = CutView { channel, kind, from_s, to_s };
    let card = with(&state, (&id, &sha256), move |opened| {
        let asked = opened.settings(load_ohm);
        let stretch = cut_anew(opened.source.as_mut(), &asked, &opened.known.levels, cut.cut()).map_err(CaptureTrouble::from)?;
        let recording = opened.known.recording;
        let room = AROUND * (stretch.to_s - stretch.from_s);
        let (from, to) = ((stretch.from_s - room).max(0.0), (stretch.to_s + room).min(recording.seconds()));
        let scale = asked.channels.get(channel).map_or(1.0, |own| own.scale);
        let piece = opened.known.peaks.piece as f64 / recording.rate_hz;
        let peaks = opened.known.peaks.channels.get(channel).map(Vec::as_slice).unwrap_or_default();
        let column = |n: usize| {
            let at = |part: f64| (((from + part * (to - from)) / piece).floor().max(0.0) as usize).min(peaks.len().saturating_sub(1));
            let (first, last) = (at(n as f64 / COLUMNS as f64), at((n + 1) as f64 / COLUMNS as f64));
            let own = peaks.get(first..=last).unwrap_or_default();
            let (low, high) =
                own.iter().fold((f32::INFINITY, f32::NEG_INFINITY), |(low, high), peak| (low.min(peak.low), high.max(peak.high)));
            (scale * f64::from(low), scale * f64::from(high))
        };
        let figures = captured_figures(&stretch, &asked, channel);
        let amplifier = opened.row.session.amplifier.name();
        let tone = stretch.frequency_hz.map(|hz| format!(" of {}", format::tone(hz))).unwrap_or_default();
        let load = load_ohm.map(|ohm| format!(" into {}", format::with_unit(&format::ohms(ohm), "Ω"))).unwrap_or_default();
        let what = match (stretch.kind, stretch.cycles) {
            (StretchKind::Burst, Some(cycles)) => format!("{cycles} cycles"),
            (StretchKind::Ramp | StretchKind::Steps, _) => "A rising level".into(),
            (StretchKind::Sweep, _) => "A sweep".into(),
            _ => "A steady tone".into(),
        };
        Ok(trace_card(
            &Pictured {
                title: format!("{what}{tone}{load}"),
                subtitle: format!("{amplifier}, as captured"),
                columns: (0..COLUMNS).map(column).collect(),
                span_s: (from, to),
                marked_s: (stretch.from_s, stretch.to_s),
                figures: figures.iter().map(|own| (own.name.clone(), own.figure.words_with_u())).collect(),
            },
            &by,
            style,
        ))
    });
    let card = card.await?;
    state
        .compute(move || {
            let (name, ending) = file.rsplit_once('.').unwrap_or((file.as_str(), ""));
            if card.name == name { drawn(&card, ending, &file) } else { Err(ApiError::not_found("picture", &file)) }
        })
        .await?
}
