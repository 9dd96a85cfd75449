//! What becomes of the claims, by the second judge: steps 1 to 10.

use super::checks::{Chosen, Fired, at_least, by_policy, checks, more, same_ohm, standing};
use super::figures::{Figures, figures, relative};
use super::read::{Claim, File, Run, Wired};

#[derive(Debug, Clone, Default, PartialEq)]
pub struct Became {
    pub id: String,
    pub outcome: &'static str,
    pub basis: Option<&'static str>,
    pub runs: Vec<String>,
    pub as_read: Option<f64>,
    pub band: Option<[f64; 2]>,
    pub interpolated: bool,
    pub equivalent: bool,
    pub fits_as_total: bool,
    /// What the word over all is made of, of a claim that was tested.
    pub ratio: Option<f64>,
}

pub struct Judged {
    pub claims: Vec<Became>,
    pub checks: Vec<Fired>,
    pub overall: &'static str,
    pub tested: usize,
    pub in_use: usize,
    pub provisional: bool,
}

struct Side {
    w: f64,
    u: f64,
}

struct Judge<'a> {
    file: &'a File,
    usable: Vec<(&'a Run, Figures)>,
}

impl<'a> Judge<'a> {
    /// Step 2, the measured exponent: e, and the span it was measured over.
    fn exponent(&self, like: &Run) -> Option<(f64, f64, f64)> {
        let same = |run: &Run| {
            run.mode == "certified"
                && run.wiring == like.wiring
                && run.tone_hz == like.tone_hz
                && same_ohm(run.load_nominal_ohm, like.load_nominal_ohm)
        };
        let mut points: Vec<(f64, f64)> =
            self.usable.iter().filter(|(run, _)| same(run)).filter_map(|(_, f)| Some((f.end_v?, f.total_w))).collect();
        points.sort_by(|a, b| a.0.total_cmp(&b.0));
        let (low, high) = (points.first()?, points.last()?);
        at_least(high.0 - low.0, 1.0).then(|| (((low.1 / high.1).ln() / (low.0 / high.0).ln()).clamp(0.0, 2.0), low.0, high.0))
    }

    fn band(&self, chosen: &Chosen, reference: f64, measured: Option<(f64, f64, f64)>) -> (Side, Side) {
        let u_v = chosen.v.map_or(0.0, |v| relative(self.file, "supply_voltage", v, None, 0.005).0);
        let side = |e: f64| {
            let w = chosen.w * chosen.v.map_or(1.0, |v| reference / v).powf(e);
            Side { w, u: w * chosen.u.hypot(2.0 * e * u_v) }
        };
        let Some(v) = chosen.v else { return (side(0.0), side(0.0)) };
        if let Some((e, ..)) = measured.filter(|m| at_least(reference, m.1 - 0.5) && at_least(m.2 + 0.5, reference)) {
            return (side(e), side(e));
        }
        let near = !more((v - reference).abs(), 1.0);
        match self.file.amplifier.supply_type.as_str() {
            "unregulated" if near => (side(2.0), side(2.0)),
            "regulated" if near || v > reference => (side(0.0), side(0.0)),
            _ if v > reference => (side(2.0), side(0.0)),
            _ => (side(0.0), side(2.0)),
        }
    }

    fn at_tone(&self, runs: Vec<(&'a Run, Figures)>, claim: &Claim) -> Vec<(&'a Run, Figures)> {
        let own = if self.file.amplifier.purpose == "subwoofer" { 40.0 } else { 1_000.0 };
        let off = |run: &Run| (run.tone_hz / claim.tone_hz.unwrap_or(own)).ln().abs();
        let least = runs.iter().map(|(run, _)| off(run)).fold(f64::INFINITY, f64::min);
        runs.into_iter().filter(|(run, _)| off(run) <= least + 1e-9).collect()
    }

    fn near(&self, runs: Vec<(&'a Run, Figures)>, claim: &Claim) -> Vec<(&'a Run, Figures)> {
        let off = |f: &Figures| f.end_v.map(|v| (v - claim.at_v()).abs());
        let Some(least) = runs.iter().filter_map(|(_, f)| off(f)).reduce(f64::min) else { return runs };
        runs.into_iter().filter(|(_, f)| off(f).is_some_and(|off| at_least(least + 0.5, off))).collect()
    }

    fn of(&self, mode: &str, fits: impl Fn(&Run) -> bool) -> Vec<(&'a Run, Figures)> {
        self.usable.iter().filter(|(run, _)| run.mode == mode && fits(run)).map(|(run, f)| (*run, f.clone())).collect()
    }

    /// Step 3. Whether it is an equivalent comes with it.
    fn run_of(&self, claim: &Claim, place: (Wired, f64), mode: &str) -> Option<(Chosen<'a>, bool)> {
        let at = |(wiring, ohm): (Wired, f64)| self.of(mode, |run| run.wiring == wiring && same_ohm(run.load_nominal_ohm, ohm));
        let own = at(place);
        let equivalent = own.is_empty();
        let runs = if equivalent { place.0.twin(place.1).map(at).unwrap_or_default() } else { own };
        by_policy(self.file, self.near(self.at_tone(runs, claim), claim)).map(|chosen| (chosen, equivalent))
    }

    /// Step 4.
    fn between(&self, claim: &Claim, (wiring, ohm): (Wired, f64)) -> Option<Chosen<'a>> {
        let runs = self.at_tone(self.of("certified", |run| run.wiring == wiring), claim);
        let ohms = || runs.iter().map(|(run, _)| run.load_nominal_ohm);
        let (above, below) = (ohms().filter(|o| *o > ohm).reduce(f64::min)?, ohms().filter(|o| *o < ohm).reduce(f64::max)?);
        let at = |ohm: f64| {
            by_policy(self.file, self.near(runs.iter().filter(|(run, _)| run.load_nominal_ohm == ohm).cloned().collect(), claim))
        };
        let (a, b) = (at(above)?, at(below)?);
        let part = (ohm.ln() - above.ln()) / (below.ln() - above.ln());
        Some(Chosen {
            w: (a.w.ln() + part * (b.w.ln() - a.w.ln())).exp(),
            u: a.u.max(b.u),
            v: a.v.zip(b.v).map(|(a, b)| a + part * (b - a)),
            lower: a.lower || b.lower,
            efficiency: None,
            runs: a.runs.into_iter().chain(b.runs).collect(),
        })
    }

    /// Step 7, and what of it step 8 shares.
    fn fails(&self, claim: &Claim, place: (Wired, f64), high: f64, became: &mut Became) {
        became.ratio = Some(high / claim.total_w());
        let reached = |mode| {
            self.run_of(claim, place, mode)
                .filter(|(chosen, _)| at_least(self.band(chosen, claim.at_v(), self.exponent(chosen.runs[0])).0.w, claim.total_w()))
        };
        let found = reached("clipping").map(|r| ("only-clipping", r)).or_else(|| reached("dynamic").map(|r| ("only-dynamic", r)));
        if let Some((outcome, (chosen, equivalent))) = found {
            became.outcome = outcome;
            became.equivalent |= equivalent;
            became.runs.extend(chosen.runs.iter().map(|run| run.id.clone()));
        } else {
            became.outcome = if at_least(high, 0.7 * claim.total_w()) { "short" } else { "far-short" };
        }
        let several = claim.per == "output" && place.0.outputs() > 1.0;
        became.fits_as_total = several && at_least(high, 0.9 * claim.power_w) && at_least(1.3 * claim.power_w, high);
    }

    fn rated(&self, claim: &Claim, place: (Wired, f64), mut became: Became) -> Became {
        let c = claim.total_w();
        let direct = self.run_of(claim, place, "certified");
        let made =
            direct.map(|(chosen, equivalent)| (chosen, equivalent, false)).or_else(|| Some((self.between(claim, place)?, false, true)));
        let Some((chosen, equivalent, interpolated)) = made else {
            let Some((clipping, equivalent)) = self.run_of(claim, place, "clipping") else { return became };
            let (_, high) = self.band(&clipping, claim.at_v(), self.exponent(clipping.runs[0]));
            if !at_least(high.w + high.u, c) {
                became.basis = Some("upper-bound");
                became.runs = clipping.runs.iter().map(|run| run.id.clone()).collect();
                (became.as_read, became.equivalent) = (Some(clipping.w / c), equivalent);
                self.fails(claim, place, high.w, &mut became);
            }
            return became;
        };
        let measured = if interpolated { None } else { self.exponent(chosen.runs[0]) };
        let (low, high) = self.band(&chosen, claim.at_v(), measured);
        became.runs = chosen.runs.iter().map(|run| run.id.clone()).collect();
        (became.as_read, became.band) = (Some(chosen.w / c), Some([low.w, high.w]));
        (became.equivalent, became.interpolated) = (equivalent, interpolated);
        let v = chosen.v.unwrap_or(claim.at_v());
        if at_least(low.w, c) {
            became.ratio = Some(1.0);
            became.outcome = if at_least(low.w - low.u, 1.05 * c) { "beats" } else { "holds" };
            let as_read = at_least(chosen.w, c) && (at_least(claim.at_v(), v) || self.file.amplifier.supply_type == "regulated");
            became.basis = Some(if as_read { "as-read" } else { "at-reference" });
        } else if at_least(low.w + low.u, c) {
            (became.ratio, became.outcome, became.basis) = (Some(1.0), "holds-within", Some("uncertainty"));
        } else if chosen.lower {
            became.basis = Some("lower-bound");
        } else if at_least(high.w + high.u, c) {
            (became.outcome, became.basis) = match v {
                v if more(claim.at_v() - 1.0, v) => ("bench-limited", None),
                v if more(v, claim.at_v() + 1.0) => ("tested-high", None),
                _ => ("cannot-tell", Some("supply-type-unknown")),
            };
        } else {
            self.fails(claim, place, high.w, &mut became);
        }
        became
    }

    /// Step 9.
    fn max(&self, claim: &Claim, mut became: Became) -> Became {
        let bears = |run: &Run| -> Option<bool> {
            let fits =
                |(wiring, ohm): (Wired, Option<f64>)| wiring == run.wiring && ohm.is_none_or(|ohm| same_ohm(run.load_nominal_ohm, ohm));
            let Some(wiring) = claim.wiring else {
                return claim.load_ohm.is_none_or(|ohm| same_ohm(run.load_nominal_ohm, ohm)).then_some(false);
            };
            if fits((wiring, claim.load_ohm)) {
                return Some(false);
            }
            let (twin, ohm) = wiring.twin(claim.load_ohm.unwrap_or(1.0))?;
            fits((twin, claim.load_ohm.map(|_| ohm))).then_some(true)
        };
        let best = self.usable.iter().filter_map(|(run, f)| Some((run, f.total_w, bears(run)?))).max_by(|a, b| a.1.total_cmp(&b.1));
        if let Some((run, w, equivalent)) = best {
            let ratio = w / claim.total_w();
            became.outcome = if at_least(ratio, 1.0) { "max-met" } else { "max-missed" };
            (became.runs, became.as_read, became.equivalent) = (vec![run.id.clone()], Some(ratio), equivalent);
            became.ratio = Some(if at_least(ratio, 1.0) { 1.0 } else { ratio });
        }
        became
    }

    fn claim(&self, claim: &Claim) -> Became {
        let open = |outcome| Became { id: claim.id.clone(), outcome, ..Became::default() };
        match (claim.used, claim.kind.as_str(), claim.wiring.zip(claim.load_ohm)) {
            (false, ..) => open("not-used"),
            (_, "max", _) => self.max(claim, open("not-tested")),
            (_, _, None) => open("not-comparable"),
            (_, _, Some(place)) => self.rated(claim, place, open("not-tested")),
        }
    }
}

/// The note of section 9 that a run was far from the voltage of a claim it is used for, and the one that the bench held it back.
fn uses(file: &File, claims: &[Became]) -> Vec<Fired> {
    let mut fired = Vec::new();
    for run in standing(file) {
        let found = figures(file, run);
        let (v, a) = found.map_or((run.read("end_v", run.end_v), run.read("current_a", run.current_a)), |f| (f.end_v, f.current_a));
        let used = || file.claims.iter().zip(claims).filter(|(_, became)| became.runs.contains(&run.id)).map(|(claim, _)| claim.at_v());
        let full = a.zip(file.bench.supply.current_limit_a).is_some_and(|(a, most)| at_least(a, 0.98 * most));
        if v.is_some_and(|v| used().any(|at| more((v - at).abs(), 0.3))) {
            fired.push(Fired::new("out-of-window", "note", &[run]));
        }
        if full || v.is_some_and(|v| used().any(|at| more(at - 1.0, v))) {
            fired.push(Fired::new("bench-limited", "note", &[run]));
        }
    }
    fired
}

/// Judges a file.
pub fn judge(file: &File) -> Judged {
    let mut checks = checks(file);
    let stopped = |run: &Run| checks.iter().any(|check| check.severity == "stop" && !check.settled && check.runs.contains(&run.id));
    let usable = standing(file).into_iter().filter(|run| !run.ungated && !stopped(run)).filter_map(|run| Some((run, figures(file, run)?)));
    let judge = Judge { file, usable: usable.collect() };
    let claims: Vec<Became> = file.claims.iter().map(|claim| judge.claim(claim)).collect();
    checks.extend(uses(file, &claims));
    let used = || file.claims.iter().zip(&claims).filter(|(claim, _)| claim.used);
    let ratings: Vec<_> = used().filter(|(claim, _)| claim.kind != "max").collect();
    let in_use = if ratings.is_empty() { used().collect() } else { ratings };
    let tested: Vec<_> = in_use.iter().filter(|(_, became)| became.ratio.is_some()).collect();
    let load = |claim: &Claim| claim.load_ohm.unwrap_or(f64::INFINITY);
    let ahead = in_use.iter().min_by(|a, b| b.0.total_w().total_cmp(&a.0.total_w()).then(load(a.0).total_cmp(&load(b.0))));
    let least = tested.iter().filter_map(|(_, became)| became.ratio).fold(1.0, f64::min);
    let missed = used().any(|(_, became)| became.outcome == "max-missed" && !at_least(became.ratio.unwrap_or(1.0), 0.95));
    let overall = match least {
        _ if ahead.is_none_or(|(_, became)| became.ratio.is_none()) => "open",
        least if !at_least(least, 0.7) => "tall-tale",
        least if missed || !at_least(least, 0.95) => "optimistic",
        least if !at_least(least, 1.0) => "near-enough",
        _ if tested.iter().all(|(_, became)| became.outcome == "beats") => "modest",
        _ => "pukka",
    };
    let unsettled = checks.iter().any(|check| check.severity == "stop" && !check.settled);
    let provisional = tested.len() < in_use.len() || unsettled;
    let (tested, in_use) = (tested.len(), in_use.len());
    Judged { claims, checks, overall, tested, in_use, provisional }
}
