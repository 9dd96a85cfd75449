//! Every run that stands, along the ladder.

use serde::{Deserialize, Serialize};

use crate::evidence::choose::Exponents;
use crate::evidence::figures::{claim_of, figures_among, numbers};
use crate::evidence::floor::is_run_below;
use crate::evidence::rungs::{RungId, runs_along, words};
use crate::kernel::format;
use crate::record::claims::Claim;
use crate::record::session::{Mode, Run, Session};
use crate::report::sheet::{CitedFigure, Notes};

/// A line of the sheet's table.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct SheetRow {
    /// "4 Ω (3.91 real)".
    pub load: String,
    /// Wiring, setting and tone.
    pub words: String,
    /// Mode.
    pub mode: Mode,
    /// The same in words, with the count of a burst of counted cycles.
    pub mode_words: String,
    /// Claim at this place, all outputs together.
    pub claim: String,
    /// Total power and its ±.
    pub power: Option<CitedFigure>,
    /// Percent of the claim.
    pub of_claim: Option<CitedFigure>,
    /// Distortion.
    pub distortion: String,
    /// Supply at rest.
    pub rest_v: String,
    /// Supply under load.
    pub end_v: String,
    /// Supply current.
    pub current: String,
    /// Efficiency.
    pub efficiency: Option<CitedFigure>,
    /// Heatsink.
    pub temperature: String,
    /// Remark on it.
    pub remark: String,
    /// Below the lowest load its maker rates: apart from the others, as it plays no part in the verdict.
    pub beyond: bool,
}

pub(super) fn rows(session: &Session, notes: &mut Notes) -> Vec<SheetRow> {
    let exponents = Exponents::all(session);
    let mut rows: Vec<SheetRow> = runs_along(session).into_iter().map(|run| row(session, run, &exponents, notes)).collect();
    rows.sort_by_key(|row| row.beyond);
    rows
}

fn row(session: &Session, run: &Run, exponents: &Exponents, notes: &mut Notes) -> SheetRow {
    let shown = figures_among(session, run, exponents).ok();
    // The remark says what of it was struck.
    let (end_v, current_a) = numbers(session, run).supply_shown(run);
    let unit = |value: Option<String>, unit: &str| value.map(|text| format::with_unit(&text, unit)).unwrap_or_default();
    let measured: Vec<String> =
        run.load_measured_ohm.iter().chain(&run.group_loads_measured_ohm).map(|load| format::ohms(load.get())).collect();
    let real = if measured.is_empty() { String::new() } else { format!(" ({} real)", measured.join(" + ")) };
    SheetRow {
        load: format!("{}{real}", run.wiring.load_words(run.load_nominal_ohm)),
        words: words(&RungId::of(run)),
        mode: run.mode,
        mode_words: run.mode_words(),
        claim: unit(claim_of(session, run).and_then(Claim::total_w).map(format::watts), "W"),
        power: shown.as_ref().map(|f| notes.cite(&f.total)),
        of_claim: shown.as_ref().and_then(|f| f.against.as_ref()).map(|figure| notes.cite(figure)),
        distortion: unit(run.thd_ratio.map(|thd| format::as_read(thd.get() * 100.0)), "%"),
        rest_v: unit(run.rest_v.map(|v| format::volts(v.get())), "V"),
        end_v: unit(end_v.map(|v| format::volts(v.get())), "V"),
        current: unit(current_a.map(|a| format::amps(a.get())), "A"),
        efficiency: shown.and_then(|f| f.efficiency).map(|figure| notes.cite(&figure)),
        temperature: unit(run.temperature_c.map(|c| format::as_read(c.get())), "°C"),
        remark: remarks(session, run).join("; "),
        beyond: is_run_below(session, run),
    }
}

/// Supply, where it is another than in the run before.
fn fed_otherwise(session: &Session, run: &Run) -> Vec<String> {
    let before =
        session.standing_runs().filter(|other| (other.at, &other.id) < (run.at, &run.id)).max_by_key(|other| (other.at, &other.id));
    let Some(before) = before else { return Vec::new() };
    let charger = run.charger_on.filter(|on| before.charger_on.is_some_and(|was| was != *on));
    let bank = run.bank.as_ref().filter(|_| before.bank != run.bank);
    let charger = charger.map(|on| format!("charger {} from here", if on { "on" } else { "off" }));
    charger.into_iter().chain(bank.map(|bank| format!("on bank {bank} from here"))).collect()
}

fn remarks(session: &Session, run: &Run) -> Vec<String> {
    let struck = (!run.struck.is_empty()).then(|| {
        let names: Vec<String> = run.struck.iter().map(|name| name.words().to_owned()).collect();
        format!("struck: {}", format::list(&names))
    });
    let incident = run.incident.map(|incident| incident.words().to_owned());
    [
        run.ungated.then(|| "past a gate without a reason: not in the verdict".to_owned()),
        run.incomplete.then(|| "cut short".to_owned()),
        incident,
        run.supersedes.as_ref().map(|_| format!("a correction{}", run.reason.as_ref().map(|why| format!(": {why}")).unwrap_or_default())),
        struck,
        run.note.clone(),
    ]
    .into_iter()
    .flatten()
    .chain(fed_otherwise(session, run))
    .collect()
}
