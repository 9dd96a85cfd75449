//! The result sheet: everything on one page, and as CSV.

use axum::Json;
use axum::extract::{Path, State as Ask};
use axum::http::header;
use axum::response::{IntoResponse, Response};
use pukka_core::format;
use pukka_core::plan::ladder::line_of;
use pukka_core::runs::figures;
use pukka_core::runs::figures::claim_of;
use pukka_core::session::{Mode, Run, Session, spoken};
use pukka_core::working::Figure;
use serde::{Deserialize, Serialize};

use super::bench;
use super::error::ProblemBody;
use super::verdict::{DrawnVerdict, drawn};
use super::{ApiError, State};

/// A line of the sheet's table.
#[derive(Debug, Serialize, Deserialize, utoipa::ToSchema)]
pub struct SheetRow {
    /// "4 Ω".
    pub load: String,
    /// Wiring, setting and tone.
    pub words: String,
    /// Mode.
    pub mode: String,
    /// Total power and its ±.
    pub power: Option<Figure>,
    /// Percent of the claim.
    pub of_claim: Option<Figure>,
    /// Supply under load.
    pub end_v: String,
    /// Supply current.
    pub current: String,
    /// Efficiency.
    pub efficiency: Option<Figure>,
    /// What is to be said of it.
    pub remark: String,
}

/// The result sheet.
#[derive(Debug, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Sheet {
    /// Make and model.
    pub name: String,
    /// Whose, class, fuses.
    pub subtitle: String,
    /// How it was measured.
    pub method: Vec<String>,
    /// Every run that stands.
    pub rows: Vec<SheetRow>,
    /// The verdict with its charts.
    pub verdict: DrawnVerdict,
}

/// The result sheet of a session.
#[utoipa::path(get, operation_id = "getSheet", path = "/sessions/{id}/sheet", params(("id" = String, Path)),
    responses((status = 200, body = Sheet), (status = 404, body = ProblemBody, content_type = "application/problem+json")))]
pub async fn get(Ask(state): Ask<State>, Path(id): Path<String>) -> Result<Json<Sheet>, ApiError> {
    let session = bench::session(&state, &id).await?.session;
    Ok(Json(Sheet {
        name: session.amplifier.name(),
        subtitle: session.amplifier.subtitle(),
        method: method(&session),
        rows: session.standing_runs().map(|run| row(&session, run)).collect(),
        verdict: drawn(&session, None),
    }))
}

fn method(session: &Session) -> Vec<String> {
    let percent = |ratio: f64| format::as_read(ratio * 100.0);
    let mut lines = vec![
        format!(
            "Certified: the most power with THD+N not above {} %, every output named driven.",
            percent(session.policy.thd_limit_ratio.get())
        ),
        format!("Clipping: the same tone past the limit{}. Dynamic: a burst.", driven_to(session)),
        format!(
            "Of repeats the {} is used. ± is the expanded uncertainty, k = 2.",
            match session.policy.repeats {
                pukka_core::session::Repeats::Best => "best",
                pukka_core::session::Repeats::First => "first",
                pukka_core::session::Repeats::Mean => "mean",
            }
        ),
    ];
    lines.extend(spoken(&session.gates).into_iter().map(|words| format!("Gate opened, {words}")));
    lines
}

/// Clipping runs that Pukka drove end at a limit of their own, and the sheet says so.
fn driven_to(session: &Session) -> String {
    let limit = session.standing_runs().filter(|run| run.mode == Mode::Clipping).find_map(|run| run.limit_ratio);
    limit.map_or_else(String::new, |limit| format!(", on to {} % where Pukka drove it", format::as_read(limit.get() * 100.0)))
}

fn row(session: &Session, run: &Run) -> SheetRow {
    let shown = figures(session, run).ok();
    let unit = |value: Option<String>, unit: &str| value.map(|text| format::with_unit(&text, unit)).unwrap_or_default();
    let real = run.load_measured_ohm.map(|load| format!(" ({} real)", format::ohms(load.get()))).unwrap_or_default();
    let remarks = [run.ungated.then(|| "past a gate, no reason given: not in the verdict".to_owned()), run.note.clone()];
    SheetRow {
        load: format!("{}{}Ω{real}", format::ohms(run.load_nominal_ohm.get()), format::THIN),
        words: pukka_core::plan::rungs::words(&pukka_core::plan::rungs::RungId::of(run)),
        mode: run.mode.word().into(),
        power: shown.as_ref().map(|f| f.total.clone()),
        of_claim: shown.as_ref().and_then(|f| f.against.clone()),
        end_v: unit(run.end_v.map(|v| format::volts(v.get())), "V"),
        current: unit(run.current_a.map(|a| format::amps(a.get())), "A"),
        efficiency: shown.and_then(|f| f.efficiency),
        remark: remarks.into_iter().flatten().collect::<Vec<_>>().join("; "),
    }
}

const HEADER: [&str; 25] = [
    "amplifier",
    "run",
    "time",
    "wiring",
    "setting",
    "load nominal (ohm)",
    "load measured (ohm)",
    "tone (Hz)",
    "mode",
    "power total (W)",
    "power expanded uncertainty (W)",
    "claim total (W)",
    "of claim (%)",
    "supply rest (V)",
    "supply end (V)",
    "sag (V)",
    "supply current (A)",
    "draw (W)",
    "heat (W)",
    "efficiency (%)",
    "distortion (%)",
    "heatsink (degC)",
    "as read",
    "in verdict",
    "note",
];

/// The runs of a session as CSV. Ref: RFC 4180.
#[utoipa::path(get, operation_id = "getSheetCsv", path = "/sessions/{id}/sheet.csv", params(("id" = String, Path)),
    responses((status = 200, body = String, content_type = "text/csv"), (status = 404, body = ProblemBody, content_type = "application/problem+json")))]
pub async fn csv(Ask(state): Ask<State>, Path(id): Path<String>) -> Result<Response, ApiError> {
    let session = bench::session(&state, &id).await?.session;
    let text = write_csv(&session).map_err(|_| pukka_store::StoreError::Broken)?;
    let name = crate::slug(&session.amplifier.name());
    let headers = [
        (header::CONTENT_TYPE, "text/csv; charset=utf-8".to_owned()),
        (header::CONTENT_DISPOSITION, format!("attachment; filename=\"{name}.csv\"")),
    ];
    Ok((headers, text).into_response())
}

fn write_csv(session: &Session) -> Result<Vec<u8>, csv::Error> {
    let mut writer = csv::WriterBuilder::new().terminator(csv::Terminator::CRLF).from_writer(Vec::new());
    writer.write_record(HEADER)?;
    for (i, run) in session.runs.iter().enumerate() {
        writer.write_record(csv_row(session, i, run))?;
    }
    writer.into_inner().map_err(|error| error.into_error().into())
}

fn csv_row(session: &Session, index: usize, run: &Run) -> Vec<String> {
    let shown = figures(session, run).ok();
    let number = |value: Option<f64>| value.map(|value| value.to_string()).unwrap_or_default();
    let percent = |ratio: Option<f64>| number(ratio.map(|ratio| round9(ratio * 100.0)));
    let of = |pick: fn(&pukka_core::runs::RunFigures) -> Option<f64>| number(shown.as_ref().and_then(pick).map(round9));
    let total = pukka_core::runs::total(session, run).ok();
    let claim_w = claim_of(session, run).and_then(pukka_core::claims::Claim::total_w);
    vec![
        inert(&session.amplifier.name()),
        (index + 1).to_string(),
        run.at.to_string(),
        run.wiring.words(),
        inert(run.setting.as_deref().unwrap_or_default()),
        number(Some(run.load_nominal_ohm.get())),
        number(run.load_measured_ohm.map(|load| load.get())),
        number(Some(run.tone_hz.get())),
        run.mode.word().into(),
        number(total.as_ref().map(|total| round9(total.total_w))),
        number(total.as_ref().map(|total| round9(total.expanded_w()))),
        number(claim_w),
        of(|f| f.against.as_ref().map(|figure| figure.value)),
        number(run.rest_v.map(|v| v.get())),
        number(run.end_v.map(|v| v.get())),
        of(|f| f.sag.as_ref().map(|figure| figure.value)),
        number(run.current_a.map(|a| a.get())),
        of(|f| f.input.as_ref().map(|figure| figure.value)),
        of(|f| f.heat.as_ref().map(|figure| figure.value)),
        of(|f| f.efficiency.as_ref().map(|figure| figure.value)),
        percent(run.thd_ratio.map(|thd| thd.get())),
        number(run.temperature_c.map(|c| c.get())),
        line_of(&Run { note: None, ..run.clone() }),
        if run.valid && !run.ungated { "yes" } else { "no" }.into(),
        inert(run.note.as_deref().unwrap_or_default()),
    ]
}

/// Takes the binary dust off a computed figure (0.6400000000000006), far below any meter.
fn round9(value: f64) -> f64 {
    (value * 1e9).round() / 1e9
}

/// A text that a spreadsheet would run as a formula is put behind an apostrophe.
fn inert(text: &str) -> String {
    if runs(text) { format!("'{text}") } else { text.to_owned() }
}

/// Whether a spreadsheet would run a text as a formula.
pub(super) fn runs(text: &str) -> bool {
    text.starts_with(['=', '+', '-', '@', '\t', '\r'])
}

#[cfg(test)]
mod tests {
    use pukka_core::session::examples::mono_1100;

    use super::*;

    #[test]
    fn csv_reads_back_and_cannot_run() {
        let mut session = mono_1100();
        session.runs[0].note = Some("=HYPERLINK(\"x\"), said \"he\"\nnext".into());
        let bytes = write_csv(&session).unwrap();
        let text = String::from_utf8(bytes.clone()).unwrap();
        assert!(text.starts_with("amplifier,run,time,") && text.contains("\r\n"), "{text}");
        let mut reader = csv::Reader::from_reader(bytes.as_slice());
        assert_eq!(reader.headers().unwrap().len(), HEADER.len());
        let rows: Vec<csv::StringRecord> = reader.records().collect::<Result<_, _>>().unwrap();
        assert_eq!(rows.len(), 9);
        assert_eq!(&rows[0][24], "'=HYPERLINK(\"x\"), said \"he\"\nnext");
        assert_eq!((&rows[6][9], &rows[6][15], &rows[6][19]), ("1068", "0.64", "61.399918133"), "1068/1739.416");
    }
}
