//! The lowest load allowed: as the maker states it, else the lowest one claimed; carried over from one wiring to another by the
//! ohms that each channel of the amplifier sees.

use crate::kernel::units::Ohms;
use crate::kernel::wiring::{Wiring, same_load};
use crate::record::session::{Run, Session};

/// Source of a floor.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum FloorSource {
    /// Stated by the maker for this wiring.
    Stated,
    /// From what is stated for another wiring.
    FromStated(Wiring),
    /// The lowest load claimed for this wiring.
    Claimed,
    /// From the lowest load claimed for another wiring.
    FromClaimed(Wiring),
}

/// A floor.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Floor {
    /// Nominal load of each output.
    pub ohm: f64,
    /// Source.
    pub source: FloorSource,
}

/// The floor of a wiring; nothing where nothing is stated or claimed.
#[must_use]
pub fn floor(session: &Session, wiring: Wiring) -> Option<Floor> {
    // Of a mixed wiring each group stands for itself.
    let stated = || session.amplifier.floors.iter().flat_map(|floor| floor.wiring.places(floor.load_ohm));
    let ratings = || session.claims.iter().filter(|claim| claim.is_rating());
    let claimed = || ratings().filter_map(|claim| claim.place()).flat_map(|(wiring, load)| wiring.places(load));
    let own = |source, found: Option<f64>| found.map(|ohm| Floor { ohm, source });
    own(FloorSource::Stated, lowest_of(stated(), wiring))
        .or_else(|| carried(stated(), wiring, FloorSource::FromStated))
        .or_else(|| own(FloorSource::Claimed, lowest_of(claimed(), wiring)))
        .or_else(|| carried(claimed(), wiring, FloorSource::FromClaimed))
}

/// Whether a load is below the floor of a wiring: nominal ohms, 2 % to spare.
#[must_use]
pub fn is_below(session: &Session, wiring: Wiring, load_ohm: Ohms) -> bool {
    below(session, wiring, load_ohm).is_some()
}

/// Part of a place below its floor, and that floor: the place itself, or the first such group of a mixed wiring.
#[must_use]
pub fn below(session: &Session, wiring: Wiring, load_ohm: Ohms) -> Option<((Wiring, Ohms), Floor)> {
    let below = |(wiring, load): (Wiring, Ohms)| {
        let floor = floor(session, wiring)?;
        (load.get() < floor.ohm && !same_load(load.get(), floor.ohm)).then_some(((wiring, load), floor))
    };
    wiring.places(load_ohm).find_map(below)
}

/// Whether a run was made below the floor: beyond the amplifier's rating, and in no figure of merit.
#[must_use]
pub fn is_run_below(session: &Session, run: &Run) -> bool {
    is_below(session, run.wiring, run.load_nominal_ohm)
}

fn lowest_of(places: impl Iterator<Item = (Wiring, Ohms)>, wiring: Wiring) -> Option<f64> {
    places.filter(|(own, _)| *own == wiring).map(|(_, load)| load.get()).min_by(f64::total_cmp)
}

/// The floor that others give this wiring: the lowest load a channel, of those that drive at least as many channels; where none
/// does, the highest there is, as more channels may take less.
fn carried(places: impl Iterator<Item = (Wiring, Ohms)>, wiring: Wiring, source: fn(Wiring) -> FloorSource) -> Option<Floor> {
    let seen: Vec<(Wiring, f64)> = places.map(|(other, load)| (other, other.ohms_a_channel(load.get()))).collect();
    let of_more = seen.iter().filter(|(other, _)| other.channels_driven() >= wiring.channels_driven());
    let found = of_more.min_by(|a, b| a.1.total_cmp(&b.1)).or_else(|| seen.iter().max_by(|a, b| a.1.total_cmp(&b.1)))?;
    Some(Floor { ohm: found.1 * wiring.load_a_channel_ohm(), source: source(found.0) })
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::record::session::examples::{claim, mono_1100};

    fn stereo(floors: &[(Wiring, f64)], claims: &[(Wiring, f64)]) -> Session {
        let mut session = mono_1100();
        session.amplifier.channels = 2;
        session.runs.clear();
        session.amplifier.floors = serde_json::from_value(serde_json::json!(
            floors.iter().map(|(wiring, load)| serde_json::json!({ "wiring": wiring, "load_ohm": load })).collect::<Vec<_>>()
        ))
        .unwrap();
        session.claims = claims.iter().enumerate().map(|(i, (wiring, load))| claim(&format!("c{i}"), *wiring, *load, 100.0)).collect();
        session
    }

    const TWO: Wiring = Wiring::Channels { driven: 2 };
    const ONE: Wiring = Wiring::Channels { driven: 1 };
    const PAIR: Wiring = Wiring::Bridged { pairs: 1 };

    #[test]
    fn two_channels_down_to_2_ohm_carry_over_to_everything_else() {
        let session = stereo(&[(TWO, 2.0)], &[(PAIR, 2.0)]);
        let at = |wiring| floor(&session, wiring).unwrap();
        assert_eq!(at(TWO), Floor { ohm: 2.0, source: FloorSource::Stated });
        assert_eq!(at(PAIR), Floor { ohm: 4.0, source: FloorSource::FromStated(TWO) }, "before the lower claim of its own");
        assert_eq!(at(ONE), Floor { ohm: 2.0, source: FloorSource::FromStated(TWO) }, "one channel shares the floor of two");
        assert_eq!(at(Wiring::Strapped { amplifiers: 2 }).ohm, 4.0);
        let is_below = |wiring, load: f64| is_below(&session, wiring, Ohms::new(load).unwrap());
        assert!(is_below(PAIR, 0.5) && is_below(ONE, 1.0));
        assert!(!is_below(TWO, 1.96) && is_below(TWO, 1.95), "2 % to spare");
    }

    #[test]
    fn without_a_stated_floor_the_lowest_load_claimed_is_one() {
        let mut session = stereo(&[], &[(TWO, 4.0), (TWO, 2.0), (PAIR, 8.0)]);
        assert_eq!(floor(&session, TWO), Some(Floor { ohm: 2.0, source: FloorSource::Claimed }));
        assert_eq!(floor(&session, PAIR).unwrap().ohm, 8.0);
        assert_eq!(floor(&session, ONE), Some(Floor { ohm: 2.0, source: FloorSource::FromClaimed(TWO) }));
        session.claims[1].kind = crate::record::claims::ClaimKind::Max;
        assert_eq!(floor(&session, TWO).unwrap().ohm, 4.0, "a max claim is no rating");
        session.claims.clear();
        assert_eq!(floor(&session, TWO), None);
    }
}
