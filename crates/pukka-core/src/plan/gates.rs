//! Runs that ask for a reason before they start.

use serde::{Deserialize, Serialize};

use crate::assess::checks::blade_fuse;
use crate::assess::prior;
use crate::evidence::floor::{Floor, FloorSource, below, is_below};
use crate::evidence::rungs::Rung;
use crate::kernel::format;
use crate::kernel::units::more_than;
use crate::kernel::wiring::Wiring;
use crate::plan::asks::{Asks, FLOOR_SUPPLY_V, is_about, survived};
use crate::predict::known::{Prior, Where};
use crate::predict::prediction::{GroupShare, Prediction, predict, predict_mode};
use crate::record::bench::Bench;
use crate::record::bench::inventory::{Build, way};
use crate::record::session::{GateCode, Mode, OwnerConsent, Session};

/// Seconds that a run may take: a tone, and bursts.
const TONE_S: f64 = 10.0;
const BURSTS_S: f64 = 30.0;

/// A gate in the way of a run.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct GateFinding {
    /// Kind of gate.
    pub code: GateCode,
    /// Three or four words.
    pub title: String,
    /// Fact, reason and action to take.
    pub says: String,
    /// Opening it asks for the owner's consent, and who pays.
    pub asks_consent: bool,
    /// Opening it asks for a second reason.
    pub asks_second_reason: bool,
    /// A house rule keeps it shut, whatever the reason.
    pub never: bool,
    /// Whether it is open: a record says all that it asks for, or a run came through here.
    pub open: bool,
    /// The run that came through here without harm, on no lower a supply.
    pub released_by: Option<String>,
    /// The reason it was opened with, when it was.
    pub reason: Option<String>,
    /// The second reason, when there is one.
    pub second_reason: Option<String>,
    /// Person who opened it.
    pub by: Option<String>,
    /// The owner's consent.
    pub owner_consent: Option<OwnerConsent>,
}

/// Demands of a rung on amplifier and loads: made once a rung, as its gates and its figures stand on it.
#[derive(Debug, Clone)]
pub struct Look {
    /// Figures to expect, clean.
    pub prediction: Option<Prediction>,
    /// Figures to expect clipping, and in bursts.
    pub harder: [Option<Prediction>; 2],
    /// Builds of its loads from the bench's resistors: one, or one a group of a mixed wiring; nothing where it cannot be.
    pub builds: Vec<Option<Build>>,
}

impl Look {
    /// Looks at a rung.
    #[must_use]
    pub fn at(known: &Prior, rung: &Rung) -> Self {
        let prediction = predict(known, rung);
        let harder = [Mode::Clipping, Mode::Dynamic].map(|mode| predict_mode(known, rung, mode));
        let clips = rung.set.modes.contains(&Mode::Clipping);
        let hardest = harder[0].as_ref().filter(|_| clips).or(prediction.as_ref());
        let builds = builds(&known.session().bench, rung, hardest);
        Self { prediction, harder, builds }
    }

    /// Build of its load, where there is one.
    #[must_use]
    pub fn build(&self) -> Option<&Build> {
        self.builds.first()?.as_ref().filter(|_| self.builds.len() == 1)
    }

    /// Each load that can be made, with its part of what is to be expected in a mode.
    pub fn banks(&self, mode: Mode) -> impl Iterator<Item = (&GroupShare, &Build)> {
        let groups = self.of(mode).map(|prediction| prediction.groups.as_slice()).unwrap_or_default();
        groups.iter().zip(&self.builds).filter_map(|(group, build)| Some((group, build.as_ref()?)))
    }

    /// Builds of its loads, in words.
    #[must_use]
    pub fn made_of(&self) -> Option<String> {
        let words: Option<Vec<&str>> = self.builds.iter().map(|build| Some(build.as_ref()?.words.as_str())).collect();
        words.filter(|words| !words.is_empty()).map(|words| words.join(" and "))
    }

    /// Figures to expect in a mode.
    #[must_use]
    pub const fn of(&self, mode: Mode) -> Option<&Prediction> {
        match mode {
            Mode::Certified => self.prediction.as_ref(),
            Mode::Clipping => self.harder[0].as_ref(),
            Mode::Dynamic => self.harder[1].as_ref(),
        }
    }

    /// Most draw over the supply fuses, clean.
    #[must_use]
    pub fn fuse_ratio(&self, session: &Session) -> Option<f64> {
        self.fuse_ratio_in(session, Mode::Certified)
    }

    /// Most draw over the supply fuses, in a mode.
    #[must_use]
    pub fn fuse_ratio_in(&self, session: &Session, mode: Mode) -> Option<f64> {
        Some(self.of(mode)?.high_a / session.amplifier.supply_fuse_a()?)
    }
}

/// Build of each load of a rung: what one group takes of the bench, the next has not.
fn builds(bench: &Bench, rung: &Rung, hardest: Option<&Prediction>) -> Vec<Option<Build>> {
    let mut left = bench.clone();
    let mixed = rung.id.wiring.groups().is_some();
    let each = rung.id.wiring.places(rung.id.load_ohm).enumerate().map(|(i, (wiring, load))| {
        let need_w = hardest.map_or(0.0, |p| p.groups.get(i).map_or(0.0, |group| group.output_w(p.high_w())));
        let made = way(&left, wiring, load.get(), need_w, rung.set.made_of.as_deref().filter(|_| !mixed));
        for share in made.iter().flat_map(|build| &build.shares) {
            if let Some(kind) = left.loads.get_mut(share.kind) {
                let taken = share.count * usize::from(wiring.outputs());
                kind.count = kind.count.saturating_sub(u32::try_from(taken).unwrap_or(u32::MAX));
            }
        }
        made
    });
    each.collect()
}

/// Every gate in the way of a run, open or not. A gate is for what can hurt someone, destroy the amplifier, or burn the bench.
#[must_use]
pub fn gates(known: &Prior, look: &Look, rung: &Rung, mode: Mode) -> Vec<GateFinding> {
    let session = known.session();
    let found = [below_floor(known, look, rung, mode), above_supply(session, rung), lead_fuse(session, look, mode), load_bank(look, mode)];
    found.into_iter().flatten().map(|found| stand(known, rung, mode, found)).collect()
}

/// The gates before a run that is about to be made, from nothing but the session.
#[must_use]
pub fn gates_before(session: &Session, rung: &Rung, mode: Mode) -> Vec<GateFinding> {
    let known = prior(session);
    gates(&known, &Look::at(&known, rung), rung, mode)
}

/// Likewise, those still shut.
#[must_use]
pub fn shut(session: &Session, rung: &Rung, mode: Mode) -> Vec<GateFinding> {
    gates_before(session, rung, mode).into_iter().filter(|gate| !gate.open).collect()
}

fn place(rung: &Rung) -> Where<'_> {
    Where { wiring: rung.id.wiring, setting: rung.id.setting.as_deref(), load_ohm: rung.id.load_ohm, tone_hz: rung.id.tone_hz.get() }
}

/// An obstacle.
struct Found {
    code: GateCode,
    title: String,
    says: String,
}

fn stand(known: &Prior, rung: &Rung, mode: Mode, Found { code, title, says }: Found) -> GateFinding {
    let session = known.session();
    let asks = Asks::of(session, code, rung.set.rest_v, known.reference_v(place(rung)));
    // A reason that came in with a file opens nothing here.
    let mut about = session.gates.iter().filter(|gate| !gate.from_file && is_about(session, gate, code, &rung.id, mode));
    let enough = about.clone().find(|gate| asks.met_by(gate));
    let shown = enough.or_else(|| about.next_back());
    let below = is_below(session, rung.id.wiring, rung.id.load_ohm);
    let never = code == GateCode::BelowFloor && session.policy.never_below_floor;
    let survived = survived(session, rung, mode).filter(|_| !below);
    GateFinding {
        code,
        title,
        says,
        asks_consent: asks.consent,
        asks_second_reason: asks.second_reason,
        never,
        open: !never && (enough.is_some() || survived.is_some()),
        released_by: survived.map(|run| run.id.clone()),
        reason: shown.map(|gate| gate.reason.clone()),
        second_reason: shown.and_then(|gate| gate.second_reason.clone()),
        by: shown.map(|gate| gate.by.clone()),
        owner_consent: shown.and_then(|gate| gate.owner_consent.clone()),
    }
}

/// Source of a floor, for a sentence.
fn floor_words(floor: Floor, wiring: Wiring) -> String {
    let at = ohms(floor.ohm);
    let own = wiring.words();
    match floor.source {
        FloorSource::Stated => format!("The floor is {at} for {own}."),
        FloorSource::FromStated(other) => {
            format!("The floor is {at} for {own}: what its maker states for {}, by the ohms of a channel.", other.words())
        }
        FloorSource::Claimed => format!("No floor is stated; the lowest load claimed for {own} is {at}."),
        FloorSource::FromClaimed(other) => {
            format!("No floor is stated; by the lowest load claimed for {} it is {at} for {own}.", other.words())
        }
    }
}

fn below_floor(known: &Prior, look: &Look, rung: &Rung, mode: Mode) -> Option<Found> {
    let session = known.session();
    let ((wiring, load), floor) = below(session, rung.id.wiring, rung.id.load_ohm)?;
    let mut says = floor_words(floor, wiring);
    if session.amplifier.provenance.is_borrowed() {
        says.push_str(" This amplifier belongs to somebody else.");
    }
    if let Some(prediction) = look.of(mode) {
        let proven = known.proven_peak_a.map_or_else(
            || "nothing is proven yet".to_owned(),
            |proven| format!("{} is the most it has been seen to survive", format::with_unit(&format::amps(proven), "A")),
        );
        says.push_str(&format!(" It asks for {} peak an output; {proven}.", format::with_unit(&format::amps(prediction.peak_a), "A")));
    }
    says.push_str(if mode == Mode::Dynamic {
        " A burst is no protection: the usual death on a bench is a burst, one rung too low, on a raised supply."
    } else {
        " Stand to the side, cover on."
    });
    if session.policy.never_below_floor {
        says.push_str(" The house rule of this session is “never below the floor”.");
    }
    let reference_v = known.reference_v(place(rung));
    if Asks::of(session, GateCode::BelowFloor, rung.set.rest_v, reference_v).second_reason {
        let least = format::with_unit(&format::as_read(reference_v + FLOOR_SUPPLY_V), "V");
        says.push_str(&format!(" Bring the supply to {least} or less, or give a second reason."));
    }
    Some(Found { code: GateCode::BelowFloor, title: format!("{} is below the maker’s minimum load.", ohms(load.get())), says })
}

fn ohms(value: f64) -> String {
    format::with_unit(&format::ohms(value), "Ω")
}

fn above_supply(session: &Session, rung: &Rung) -> Option<Found> {
    let rest = rung.set.rest_v?.get();
    let (limit, stated) = match session.amplifier.max_supply_v {
        Some(limit) => (limit.get(), "its maker allows"),
        None => (session.policy.unstated_max_supply_v.get(), "is safe to assume, as its maker states no maximum"),
    };
    more_than(rest, limit).then(|| {
        let says = format!("{} V at rest, and {} V is the most that {stated}.", format::as_read(rest), format::as_read(limit));
        Found { code: GateCode::AboveSupply, title: "The supply is too high.".to_owned(), says }
    })
}

fn lead_fuse(session: &Session, look: &Look, mode: Mode) -> Option<Found> {
    let (fuse, draw) = (session.bench.supply.lead_fuse_a?.get(), look.of(mode)?.high_a);
    let ratio = draw / fuse;
    more_than(ratio, session.policy.lead_fuse_gate_ratio.get()).then(|| {
        let says = format!(
            "Up to {} A through the bench's own {} A lead fuse, {} %: {} Never bridge or up-rate a fuse to get a number.",
            format::amps(draw),
            format::as_read(fuse),
            format::fixed(100.0 * ratio, 0),
            blade_fuse(ratio)
        );
        Found { code: GateCode::LeadFuse, title: "It may draw more than the lead fuse carries.".to_owned(), says }
    })
}

/// Power that a load takes for as long as a run may last: its ten-second rating up to ten seconds; beyond, the energy of that, or what it
/// takes continuously.
fn bears_w(build: &Build, seconds: f64) -> Option<f64> {
    let ten = build.ten_second_w.as_ref().map(|most| most.value * (10.0 / seconds).min(1.0));
    let ever = build.continuous_w.as_ref().map(|most| most.value);
    ten.into_iter().chain(ever).max_by(f64::total_cmp)
}

fn load_bank(look: &Look, mode: Mode) -> Option<Found> {
    let prediction = look.of(mode)?;
    look.banks(mode).find_map(|(group, build)| overheats(prediction, group, build, mode))
}

fn overheats(prediction: &Prediction, group: &GroupShare, build: &Build, mode: Mode) -> Option<Found> {
    build.ten_second_w.as_ref()?;
    let seconds = if mode == Mode::Dynamic { BURSTS_S } else { TONE_S };
    let asked = prediction.duty * group.output_w(prediction.high_w());
    let most = bears_w(build, seconds)?;
    more_than(asked, most).then(|| {
        let mean = if mode == Mode::Dynamic { ", in the mean," } else { "" };
        let says = format!(
            "Up to {} an output{mean} into {}, which takes {} for {} seconds. Use more or larger resistors: hot ones drift, burn and light what is near.",
            format::with_unit(&format::watts(asked), "W"),
            build.words,
            format::with_unit(&format::watts(most), "W"),
            format::count(seconds as usize),
        );
        Found { code: GateCode::LoadBank, title: "The load bank would overheat.".to_owned(), says }
    })
}
