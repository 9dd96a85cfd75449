//! Checks on what a run is used for: whether its supply was where the claim's is.

use crate::assess::ClaimVerdict;
use crate::assess::checks::thresholds;
use crate::assess::checks::{Check, Finding};
use crate::evidence::figures::{RunNumbers, numbers};
use crate::kernel::format;
use crate::kernel::units::{at_least, more_than};
use crate::record::claims::Claim;
use crate::record::session::{CheckCode, Run, Session};

/// Checks every run that stands, by what became of the claims.
pub(crate) fn check(session: &Session, claims: &[ClaimVerdict], wanted: impl Fn(&Run) -> bool) -> Vec<Check> {
    session
        .standing_runs()
        .filter(|run| wanted(run))
        .flat_map(|run| {
            let used_for: Vec<&Claim> = session
                .claims
                .iter()
                .filter(|claim| claims.iter().any(|verdict| verdict.id == claim.id && verdict.runs.contains(&run.id)))
                .collect();
            let read = numbers(session, run);
            let found = [out_of_window(read.end_v.map(|v| v.get()), &used_for), bench_limited(session, &read, &used_for)];
            found.into_iter().flatten().map(|found| found.on(&[run])).collect::<Vec<_>>()
        })
        .collect()
}

fn out_of_window(end_v: Option<f64>, used_for: &[&Claim]) -> Option<Finding> {
    let end_v = end_v?;
    let off = |claim: &&&Claim| (claim.reference_v() - end_v).abs();
    let claim = used_for.iter().filter(|claim| more_than(off(claim), thresholds::WINDOW.get())).max_by(|a, b| off(a).total_cmp(&off(b)))?;
    let way = if end_v < claim.reference_v() { "below" } else { "above" };
    Some(
        Finding::past(
            CheckCode::OutOfWindow,
            thresholds::WINDOW,
            format!(
                "It ended at {} V, {} V {way} the claim's {} V.",
                format::volts(end_v),
                format::volts(off(&claim)),
                format::as_read(claim.reference_v())
            ),
        )
        .remedy(if end_v < claim.reference_v() {
            "Start higher, so that it ends at the claim's."
        } else {
            "Start lower, so that it ends at the claim's."
        }),
    )
}

fn bench_limited(session: &Session, read: &RunNumbers, used_for: &[&Claim]) -> Option<Finding> {
    let under = read.end_v.map(|v| v.get()).and_then(|end_v| {
        let claim = used_for
            .iter()
            .filter(|claim| more_than(claim.reference_v() - thresholds::UNDER.get(), end_v))
            .max_by(|a, b| a.reference_v().total_cmp(&b.reference_v()))?;
        Some(format!(
            "It ended at {} V, more than 1.0 V under the claim's {} V.",
            format::volts(end_v),
            format::as_read(claim.reference_v())
        ))
    });
    let says = under.or_else(|| {
        let (amps, limit) = (read.current_a?.get(), session.bench.supply.current_limit_a?.get());
        at_least(amps, thresholds::SUPPLY_LIMIT.get() * limit)
            .then(|| format!("{} A of the {} A that the supply gives: it was at its limit.", format::amps(amps), format::as_read(limit)))
    })?;
    Some(Finding::past(CheckCode::BenchLimited, thresholds::UNDER, says))
}
