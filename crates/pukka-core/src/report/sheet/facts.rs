//! How it was measured, a line a thing; and what was done about the checks.

use serde::{Deserialize, Serialize};

use crate::evidence::check::{Check, Severity};
use crate::evidence::uncertainty as defaults;
use crate::kernel::format;
use crate::record::bench::{Meter, Quantity, SupplyKind};
use crate::record::session::{Method, Mode, Order, Repeats, Run, Session, spoken};

/// A thing that was so.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Fact {
    /// Name of the fact.
    pub what: String,
    /// Value of the fact.
    pub says: String,
}

fn fact(what: &str, says: String) -> Option<Fact> {
    (!says.is_empty()).then(|| Fact { what: what.into(), says })
}

fn percent(ratio: f64) -> String {
    format::with_unit(&format::as_read(ratio * 100.0), "%")
}

fn ohms(load: f64) -> String {
    format::with_unit(&format::ohms(load), "Ω")
}

fn volts(value: f64) -> String {
    format::with_unit(&format::volts(value), "V")
}

/// Words that differ, in the order they first come.
fn distinct(words: impl Iterator<Item = String>) -> Vec<String> {
    let mut all = Vec::new();
    for word in words {
        if !all.contains(&word) {
            all.push(word);
        }
    }
    all
}

pub(super) fn facts(session: &Session) -> Vec<Fact> {
    let runs: Vec<&Run> = session.standing_runs().collect();
    [
        fact("Limit", limit(session, &runs)),
        fact("Tone", distinct(runs.iter().map(|run| format::tone(run.tone_hz.get()))).join(", ")),
        fact("Method", method(&runs)),
        fact("Channels driven", distinct(runs.iter().map(|run| run.wiring.words())).join(", ")),
        fact("Loads, as measured", loads(&runs)),
        fact("Supply", supply(session, &runs)),
        fact("Meters", meters(session, &runs)),
        fact("Order", order(session).into()),
        fact("Repeats", repeats(session, &runs)),
        fact("Gain", gain(session)),
        fact("Draw at rest", session.idle.map(|idle| format::with_unit(&format::amps(idle.current_a.get()), "A")).unwrap_or_default()),
        fact("Gates opened", spoken(&session.gates).join(" ")),
        fact("Provenance", session.amplifier.provenance.disclosure().into()),
    ]
    .into_iter()
    .flatten()
    .collect()
}

fn limit(session: &Session, runs: &[&Run]) -> String {
    let own =
        distinct(runs.iter().filter(|run| run.mode == Mode::Certified).filter_map(|run| run.limit_ratio).map(|limit| percent(limit.get())));
    let certified = if own.is_empty() { percent(session.policy.thd_limit_ratio.get()) } else { own.join(" or ") };
    let on = runs.iter().filter(|run| run.mode == Mode::Clipping).find_map(|run| run.limit_ratio);
    let on = on.map(|limit| format!(", on to {} where Pukka drove it", percent(limit.get()))).unwrap_or_default();
    format!("certified: most power with THD+N at {certified} or less; clipping: the same tone past it{on}; dynamic: a burst")
}

fn method(runs: &[&Run]) -> String {
    let word = |method: Option<Method>| match method {
        Some(Method::Ramp) => "level ramp",
        Some(Method::Steps) => "level steps, interpolated at the limit",
        Some(Method::Eye) => "by eye on a scope",
        Some(Method::Trace) => "from a captured wave",
        None => "not noted",
    };
    let certified: Vec<&&Run> = runs.iter().filter(|run| run.mode == Mode::Certified).collect();
    let kinds = distinct(certified.iter().map(|run| word(run.method).to_owned()));
    let driven = runs.iter().filter(|run| run.is_driven()).count();
    let driven = if driven > 0 { format!("; {driven} driven by Pukka, every sample kept") } else { String::new() };
    if kinds.is_empty() { String::new() } else { format!("{}{driven}", kinds.join(", ")) }
}

fn loads(runs: &[&Run]) -> String {
    distinct(runs.iter().map(|run| match run.load_measured_ohm {
        Some(real) => format!("{} is {}", ohms(run.load_nominal_ohm.get()), ohms(real.get())),
        None => format!("{} not measured", ohms(run.load_nominal_ohm.get())),
    }))
    .join(", ")
}

fn supply(session: &Session, runs: &[&Run]) -> String {
    let kind = match session.bench.supply.kind {
        SupplyKind::Battery => "battery bank",
        SupplyKind::Supply => "mains-powered supply",
        SupplyKind::Both => "battery bank and mains-powered supply",
    };
    let charger = match (runs.iter().any(|run| run.charger_on == Some(true)), runs.iter().any(|run| run.charger_on == Some(false))) {
        (true, true) => ", charger on for some runs",
        (true, false) => ", charger on",
        (false, true) => ", charger off",
        (false, false) => "",
    };
    let span = |values: Vec<f64>, word: &str| {
        let low = values.iter().copied().min_by(f64::total_cmp)?;
        let high = values.iter().copied().max_by(f64::total_cmp)?;
        Some(if high - low < 0.005 {
            format!(", {word} {}", volts(low))
        } else {
            format!(", {word} {} to {}", format::volts(low), volts(high))
        })
    };
    let rest = span(runs.iter().filter_map(|run| run.rest_v.map(|v| v.get())).collect(), "at rest").unwrap_or_default();
    let end = span(runs.iter().filter_map(|run| run.end_v.map(|v| v.get())).collect(), "under load").unwrap_or_default();
    format!("{kind}{charger}{rest}{end}")
}

fn meters(session: &Session, runs: &[&Run]) -> String {
    let unit = |quantity| match quantity {
        Quantity::Power => ("watts", "W"),
        Quantity::Voltage => ("output volts", "V"),
        Quantity::Current => ("amps", "A"),
        Quantity::Resistance => ("ohms", "Ω"),
        Quantity::SupplyVoltage => ("supply volts", "V"),
    };
    let said = |meter: &Meter| {
        let (what, unit) = unit(meter.quantity);
        let absolute =
            if meter.absolute > 0.0 { format!(" + {}", format::with_unit(&format::as_read(meter.absolute), unit)) } else { String::new() };
        let checked = meter.last_checked_on.map(|on| format!(", checked {on}")).unwrap_or_default();
        format!("{} ({what}) ± {}{absolute}{checked}", meter.name.as_deref().unwrap_or(&meter.id), percent(meter.reading_ratio.get()))
    };
    let mut all: Vec<String> = session.bench.meters.iter().map(said).collect();
    let used = |reads: fn(&Run) -> bool| runs.iter().any(|run| reads(run));
    let usual = [
        (Quantity::Power, defaults::WATTS, used(|run| run.outputs.iter().any(|output| output.power_w.is_some()))),
        (Quantity::Current, defaults::AMPS, used(|run| run.current_a.is_some())),
        (Quantity::SupplyVoltage, defaults::SUPPLY_VOLTS, used(|run| run.end_v.is_some())),
    ];
    for (quantity, limits, read) in usual {
        if read && session.bench.meter(None, quantity).is_none() {
            all.push(format!("no meter given for {}: ± {} taken", unit(quantity).0, percent(limits)));
        }
    }
    format!("{}. All ± are expanded, k\u{a0}=\u{a0}2", all.join("; "))
}

const fn order(session: &Session) -> &'static str {
    match session.plan.order {
        Order::Rung => "all modes of a load, then the next load",
        Order::Mode => "all loads of a mode, then the next mode",
    }
}

fn repeats(session: &Session, runs: &[&Run]) -> String {
    let word = match session.policy.repeats {
        Repeats::Best => "the best",
        Repeats::First => "the first",
        Repeats::Mean => "the mean",
    };
    format!("{} runs stand; of repeats {word} is used", runs.len())
}

fn gain(session: &Session) -> String {
    let Some(gain) = &session.gain else { return String::new() };
    let parts = [
        gain.source.as_ref().map(|source| format!("source {source}")),
        gain.onset_v.map(|onset| format!("clip onset at {}", format::with_unit(&format::as_read(onset.get()), "V"))),
        gain.extra_drive_db.map(|db| format!("{} dB of drive above it", format::as_read(db.get()))),
        gain.filters_out.then(|| "filters out".to_owned()),
        gain.boost_off.then(|| "boost off".to_owned()),
    ];
    parts.into_iter().flatten().collect::<Vec<_>>().join(", ")
}

/// Checks that were settled, and how; readings that were struck; runs that were taken back.
pub(super) fn settled(session: &Session, checks: &[Check]) -> Vec<String> {
    let accepted = checks.iter().filter(|check| check.settled).map(|check| {
        let why = check.accepted.as_deref().unwrap_or("no reason noted");
        format!("{}: {} Accepted: {}.", check.place, check.title, why.trim_end_matches('.'))
    });
    let struck = session.standing_runs().filter(|run| !run.struck.is_empty()).map(|run| {
        let names: Vec<String> = run.struck.iter().map(|name| name.words().to_owned()).collect();
        format!("{}, {}: {} struck: kept, not used.", ohms(run.load_nominal_ohm.get()), run.mode_words(), format::list(&names))
    });
    let back = session.runs.iter().filter(|run| !run.valid).count();
    let back = (back > 0).then(|| {
        format!(
            "{} withdrawn, kept with the session.",
            if back == 1 { "One run was".to_owned() } else { format!("{} runs were", format::count_capital(back)) }
        )
    });
    accepted.chain(struck).chain(back).collect()
}

/// Checks that nobody settled.
pub(super) fn open(checks: &[Check]) -> Vec<String> {
    let weighty = checks.iter().filter(|check| !check.settled && check.severity != Severity::Note);
    weighty.map(|check| format!("{}: {} {}", check.place, check.title, check.says)).collect()
}
