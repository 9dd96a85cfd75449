//! The runs of a session as CSV. Ref: RFC 4180.

use pukka_core::evidence::figures;
use pukka_core::evidence::figures::{claim_of, numbers};
use pukka_core::plan::ladder::line_of;
use pukka_core::record::session::{Burst, Run, Session};

const HEADER: [&str; 27] = [
    "amplifier",
    "run",
    "time",
    "wiring",
    "setting",
    "load nominal (ohm)",
    "load measured (ohm)",
    "tone (Hz)",
    "mode",
    "burst",
    "power total (W)",
    "power bound",
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

/// Writes them, one line a run, also those that were taken back.
///
/// # Errors
/// When a line cannot be written.
pub fn write(session: &Session) -> Result<Vec<u8>, ::csv::Error> {
    let mut writer = ::csv::WriterBuilder::new().terminator(csv::Terminator::CRLF).from_writer(Vec::new());
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
    let of = |pick: fn(&pukka_core::evidence::RunFigures) -> Option<f64>| number(shown.as_ref().and_then(pick).map(round9));
    let read = numbers(session, run);
    let (end_v, current_a) = read.supply_shown(run);
    let total = read.total.as_ref().ok();
    let claim_w = claim_of(session, run).and_then(pukka_core::record::claims::Claim::total_w);
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
        run.burst().map(Burst::words).unwrap_or_default(),
        number(total.map(|total| round9(total.total_w))),
        total.filter(|total| total.at_least).map(|_| "at least").unwrap_or_default().into(),
        number(total.map(|total| round9(total.expanded_w()))),
        number(claim_w),
        of(|f| f.against.as_ref().map(|figure| figure.value)),
        number(run.rest_v.map(|v| v.get())),
        number(end_v.map(|v| round9(v.get()))),
        of(|f| f.sag.as_ref().map(|figure| figure.value)),
        number(current_a.map(|a| round9(a.get()))),
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
    if runs_as_formula(text) { format!("'{text}") } else { text.to_owned() }
}

/// Whether a spreadsheet would run a text as a formula.
#[must_use]
pub fn runs_as_formula(text: &str) -> bool {
    text.starts_with(['=', '+', '-', '@', '\t', '\r'])
}

#[cfg(test)]
mod tests {
    use pukka_core::record::session::examples::mono_1100;

    use super::*;

    #[test]
    fn csv_reads_back_and_cannot_run() {
        let mut session = mono_1100();
        session.runs[0].note = Some("=HYPERLINK(\"x\"), said \"he\"\nnext".into());
        let bytes = write(&session).unwrap();
        let text = String::from_utf8(bytes.clone()).unwrap();
        assert!(text.starts_with("amplifier,run,time,") && text.contains("\r\n"), "{text}");
        let mut reader = ::csv::Reader::from_reader(bytes.as_slice());
        assert_eq!(reader.headers().unwrap().len(), HEADER.len());
        let rows: Vec<::csv::StringRecord> = reader.records().collect::<Result<_, _>>().unwrap();
        assert_eq!(rows.len(), 9);
        assert_eq!(&rows[0][26], "'=HYPERLINK(\"x\"), said \"he\"\nnext");
        assert_eq!((&rows[6][10], &rows[6][17], &rows[6][21]), ("1068", "0.64", "61.399918133"), "1068/1739.416");
    }
}
