//! The runs of a session as CSV. Ref: RFC 4180.

use pukka_core::evidence::figures;
use pukka_core::evidence::figures::{claim_of, numbers};
use pukka_core::plan::run_line::line_of;
use pukka_core::record::session::{Burst, Run, Session};

use crate::data::{Column, Kind};

/// Columns, in order.
pub const COLUMNS: [Column; 27] = [
    Column::new("amplifier", Kind::Text, "Make and model."),
    Column::new("run", Kind::Integer, "Place in the session's list of runs, from 1."),
    Column::new("time", Kind::DateTime, "Time of the run. RFC 3339."),
    Column::new("wiring", Kind::Text, "Outputs driven, and how they are wired."),
    Column::new("setting", Kind::Text, "Setting of the amplifier, where it has several."),
    Column::new("load nominal (ohm)", Kind::Number, "Load as it is called."),
    Column::new("load measured (ohm)", Kind::Number, "Load as it was measured; empty where it was not."),
    Column::new("tone (Hz)", Kind::Number, "Test frequency."),
    Column::new(
        "mode",
        Kind::Text,
        "certified: most power with THD+N at the limit or less; clipping: the same tone past it; dynamic: a burst.",
    ),
    Column::new("burst", Kind::Text, "Kind of burst, of dynamic runs."),
    Column::new("power total (W)", Kind::Number, "Power of all outputs together: P = V² / R of each, or as a wattmeter read it."),
    Column::new("power bound", Kind::Text, "\"at least\" where the reading is only a lower bound."),
    Column::new("power expanded uncertainty (W)", Kind::Number, "Half-width at k = 2. JCGM 100:2008."),
    Column::new("claim total (W)", Kind::Number, "The maker's claim at this place, all outputs together."),
    Column::new("of claim (%)", Kind::Number, "Power as read over the claim."),
    Column::new("supply rest (V)", Kind::Number, "Supply before the run."),
    Column::new("supply end (V)", Kind::Number, "Supply under load, at the moment of the reading."),
    Column::new("sag (V)", Kind::Number, "Rest less end."),
    Column::new("supply current (A)", Kind::Number, "Current from the supply."),
    Column::new("draw (W)", Kind::Number, "Power from the supply: V · I."),
    Column::new("heat (W)", Kind::Number, "Draw less output; empty for bursts."),
    Column::new("efficiency (%)", Kind::Number, "Output over draw; empty for bursts."),
    Column::new("distortion (%)", Kind::Number, "THD+N at the reading."),
    Column::new("heatsink (degC)", Kind::Number, "Temperature of the heatsink."),
    Column::new("as read", Kind::Text, "The readings as a line that can be typed again."),
    Column::new("in verdict", Kind::YesNo, "yes where the run counts: it stands, and no gate was passed without a reason."),
    Column::new("note", Kind::Text, "A note."),
];

/// Writes them, one line a run, also those that were taken back.
///
/// # Errors
/// When a line cannot be written.
pub fn write(session: &Session) -> Result<Vec<u8>, ::csv::Error> {
    let mut writer = ::csv::WriterBuilder::new().terminator(csv::Terminator::CRLF).from_writer(Vec::new());
    writer.write_record(COLUMNS.iter().map(|column| column.name))?;
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
#[must_use]
pub fn round9(value: f64) -> f64 {
    (value * 1e9).round() / 1e9
}

/// A text that a spreadsheet would run as a formula is put behind an apostrophe.
#[must_use]
pub fn inert(text: &str) -> String {
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
        assert_eq!(reader.headers().unwrap().len(), COLUMNS.len());
        let rows: Vec<::csv::StringRecord> = reader.records().collect::<Result<_, _>>().unwrap();
        assert_eq!(rows.len(), 9);
        assert_eq!(&rows[0][26], "'=HYPERLINK(\"x\"), said \"he\"\nnext");
        assert_eq!((&rows[6][10], &rows[6][17], &rows[6][21]), ("1068", "0.64", "61.399918133"), "1068/1739.416");
    }
}
