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
    /// Ratio that the word over all is made of, of a claim that was tested.
    pub ratio: Option<f64>,
}

pub struct Judged {
    pub claims: Vec<Became>,
    pub checks: Vec<Fired>,
    pub overall: Option<&'static str>,
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
                && !self.below(run)
        };
        let mut points: Vec<(f64, f64)> =
            self.usable.iter().filter(|(run, _)| same(run)).filter_map(|(_, f)| Some((f.end_v?, f.total_w))).collect();
        points.sort_by(|a, b| a.0.total_cmp(&b.0));
        let (low, high) = (points.first()?, points.last()?);
        at_least(high.0 - low.0, 1.0).then(|| (((low.1 / high.1).ln() / (low.0 / high.0).ln()).clamp(0.0, 2.0), low.0, high.0))
    }

    /// The volts it may have been: the widest of what each run's rest leaves open.
    fn span(chosen: &Chosen, reference: f64) -> (f64, f64) {
        if let Some(v) = chosen.v {
            return (v, v);
        }
        let one = |rest: &Option<f64>| rest.map_or((12f64.min(reference), reference), |rest| (12f64.min(rest).max(rest - 1.5), rest));
        let all = chosen.rests.iter().map(one).reduce(|a, b| (a.0.min(b.0), a.1.max(b.1)));
        chosen.between.or(all).unwrap_or((reference, reference))
    }

    fn band(&self, chosen: &Chosen, reference: f64, measured: Option<(f64, f64, f64)>) -> (Side, Side) {
        let measured = measured.filter(|m| at_least(reference, m.1 - 0.5) && at_least(m.2 + 0.5, reference));
        if chosen.v.is_none() {
            let (low, high) = Self::span(chosen, reference);
            let es = match (measured, self.file.amplifier.supply_type.as_str()) {
                (Some((e, ..)), _) => vec![e],
                (_, "regulated") => vec![0.0],
                (_, "unregulated") => vec![2.0],
                _ => vec![0.0, 2.0],
            };
            let all = es.iter().flat_map(|e| [low, high].map(|v| chosen.w * (reference / v).powf(*e)));
            let (least, most) = all.fold((f64::INFINITY, 0.0f64), |(a, b), w| (a.min(w), b.max(w)));
            return (Side { w: least, u: least * chosen.u }, Side { w: most, u: most * chosen.u });
        }
        let u_v = chosen.made_u.unwrap_or_else(|| relative(self.file, "supply_voltage", chosen.v.unwrap_or(1.0), None, 0.005).0);
        let side = |e: f64| {
            let w = chosen.w * chosen.v.map_or(1.0, |v| reference / v).powf(e);
            Side { w, u: w * chosen.u.hypot(2.0 * e * u_v) }
        };
        let Some(v) = chosen.v else { return (side(0.0), side(0.0)) };
        if let Some((e, ..)) = measured {
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

    /// Whether a run is below the floor of its wiring.
    fn below(&self, run: &Run) -> bool {
        let rated = self.file.claims.iter().filter(|claim| claim.kind != "max").filter_map(|claim| claim.wiring.zip(claim.load_ohm));
        let stated: Vec<(Wired, f64)> = self.file.amplifier.floors.iter().map(|floor| (floor.wiring, floor.load_ohm)).collect();
        let (here, at_work) = run.wiring.channel(run.load_nominal_ohm);
        let floor = [stated, rated.collect()].into_iter().find_map(|places| {
            let own =
                places.iter().filter(|(wiring, _)| *wiring == run.wiring).map(|(wiring, ohm)| wiring.channel(*ohm).0).reduce(f64::min);
            let of_more = places.iter().map(|(w, ohm)| w.channel(*ohm)).filter(|(_, n)| *n >= at_work).map(|(ohm, _)| ohm).reduce(f64::min);
            own.or(of_more).or_else(|| places.iter().map(|(w, ohm)| w.channel(*ohm).0).reduce(f64::max))
        });
        floor.is_some_and(|floor| here < floor && !same_ohm(here, floor))
    }

    fn off_tone(&self, run: &Run, claim: &Claim) -> f64 {
        let own = if self.file.amplifier.purpose == "subwoofer" { 40.0 } else { 1_000.0 };
        (run.tone_hz / claim.tone_hz.unwrap_or(own)).ln().abs()
    }

    fn at_tone(&self, runs: Vec<(&'a Run, Figures)>, claim: &Claim) -> Vec<(&'a Run, Figures)> {
        let least = runs.iter().map(|(run, _)| self.off_tone(run, claim)).fold(f64::INFINITY, f64::min);
        let least = if claim.tone_hz.is_some() { 0.0 } else { least };
        runs.into_iter().filter(|(run, _)| self.off_tone(run, claim) <= least + 1e-9).collect()
    }

    /// Of bursts the standard ones, else those of most cycles, 8 at least.
    fn of_kind(runs: Vec<(&'a Run, Figures)>) -> Vec<(&'a Run, Figures)> {
        let counts = || runs.iter().filter_map(|(run, _)| run.kind());
        let kind = if counts().any(|n| n == 0) { Some(0) } else { counts().filter(|n| *n >= 8).max() };
        runs.into_iter().filter(|(run, _)| run.kind().is_none() || run.kind() == kind).collect()
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
        let at = |(wiring, ohm): (Wired, f64)| {
            Self::of_kind(self.at_tone(self.of(mode, |run| run.wiring == wiring && same_ohm(run.load_nominal_ohm, ohm)), claim))
        };
        let own = at(place);
        let equivalent = own.is_empty();
        let runs = if equivalent { place.0.twin(place.1).map(at).unwrap_or_default() } else { own };
        by_policy(self.file, self.near(runs, claim)).map(|chosen| (chosen, equivalent))
    }

    /// Step 4.
    fn between(&self, claim: &Claim, (wiring, ohm): (Wired, f64)) -> Option<Chosen<'a>> {
        let mut left = self.of("certified", |run| run.wiring == wiring && !self.below(run));
        while !left.is_empty() {
            let near = self.at_tone(left.clone(), claim);
            if near.is_empty() {
                return None;
            }
            if let Some(found) = self.bracket(claim, ohm, &near) {
                return Some(found);
            }
            left.retain(|(run, _)| near.iter().all(|(other, _)| other.id != run.id));
        }
        None
    }

    fn bracket(&self, claim: &Claim, ohm: f64, runs: &[(&'a Run, Figures)]) -> Option<Chosen<'a>> {
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
            between: {
                let (x, y) = (Self::span(&a, claim.at_v()), Self::span(&b, claim.at_v()));
                Some((x.0 + part * (y.0 - x.0), x.1 + part * (y.1 - x.1)))
            },
            rests: Vec::new(),
            made_u: [a.made_u, b.made_u].into_iter().flatten().reduce(f64::max),
            lower: a.lower || b.lower,
            efficiency: None,
            runs: a.runs.into_iter().chain(b.runs).collect(),
        })
    }

    /// Step 4: certified runs of the claim's own place or an equivalent that are kept out.
    fn waiting(&self, claim: &Claim, place: (Wired, f64)) -> Vec<String> {
        let fits = |run: &Run, (wiring, ohm): (Wired, f64)| run.wiring == wiring && same_ohm(run.load_nominal_ohm, ohm);
        let at = |run: &Run| fits(run, place) || place.0.twin(place.1).is_some_and(|twin| fits(run, twin));
        let tone = |run: &Run| claim.tone_hz.is_none() || self.off_tone(run, claim) <= 1e-9;
        let free = |run: &Run| self.usable.iter().any(|(other, _)| other.id == run.id);
        let there = standing(self.file).into_iter().filter(|run| run.mode == "certified" && at(run) && tone(run) && !free(run));
        there.map(|run| run.id.clone()).collect()
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
        let waiting = self.waiting(claim, place);
        if direct.is_none() && !waiting.is_empty() {
            (became.basis, became.runs) = (Some("own-run-unsettled"), waiting);
            return became;
        }
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
        let most_v = Self::span(&chosen, claim.at_v()).1;
        let by_two = measured.is_some_and(|m| at_least(claim.at_v(), m.1 - 0.5) && at_least(m.2 + 0.5, claim.at_v()));
        if at_least(low.w, c) {
            became.ratio = Some(1.0);
            became.outcome = if at_least(low.w - low.u, 1.05 * c) { "beats" } else { "holds" };
            let as_read =
                at_least(chosen.w, c) && (at_least(claim.at_v(), most_v) || self.file.amplifier.supply_type == "regulated" && !by_two);
            became.basis = Some(if as_read { "as-read" } else { "at-reference" });
        } else if at_least(low.w + low.u, c) {
            (became.ratio, became.outcome, became.basis) = (Some(1.0), "holds-within", Some("uncertainty"));
        } else if chosen.lower {
            became.basis = Some("lower-bound");
        } else if at_least(high.w + high.u, c) {
            (became.outcome, became.basis) = match chosen.v {
                None => ("cannot-tell", Some("no-supply-volts")),
                Some(v) if more(claim.at_v() - 1.0, v) => ("bench-limited", None),
                Some(v) if more(v, claim.at_v() + 1.0) => ("tested-high", None),
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
        let of = |how: bool| {
            let there = self.usable.iter().filter(|(run, _)| !self.below(run) && bears(run) == Some(how));
            Self::of_kind(there.map(|(run, f)| (*run, f.clone())).collect())
        };
        let own = of(false);
        let equivalent = own.is_empty();
        let best = if equivalent { of(true) } else { own }.into_iter().max_by(|a, b| a.1.total_w.total_cmp(&b.1.total_w));
        if let Some((run, w)) = best.map(|(run, f)| (run, f.total_w)) {
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
            _ if needs_two(self.file, claim) => Became { basis: Some("needs-two"), ..open("not-tested") },
            (_, "max", _) => self.max(claim, open("not-tested")),
            (_, _, None) => open("not-comparable"),
            (_, _, Some(place)) => self.rated(claim, place, open("not-tested")),
        }
    }
}

/// Step 10: a claim for several amplifiers strapped, when none was run so.
fn needs_two(file: &File, claim: &Claim) -> bool {
    let strapped = |wiring: Wired| matches!(wiring, Wired::Strapped { .. });
    claim.wiring.is_some_and(strapped) && !standing(file).iter().any(|run| strapped(run.wiring))
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
    let used = || file.claims.iter().zip(&claims).filter(|(claim, _)| claim.used && !needs_two(file, claim));
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
    let overall = (!file.claims.is_empty()).then_some(overall);
    let provisional = tested.len() < in_use.len() || unsettled;
    let (tested, in_use) = (tested.len(), in_use.len());
    Judged { claims, checks, overall, tested, in_use, provisional }
}
