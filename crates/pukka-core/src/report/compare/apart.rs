//! Whether two powers can be told apart, and the sentence for it.

use crate::evidence::band::Band;
use crate::evidence::choose::Choice;
use crate::evidence::uncertainty::quadrature;
use crate::kernel::format;
use crate::kernel::units::more_than;
use crate::record::bench::{Meter, Quantity};
use crate::record::session::{Run, Session};

/// What two powers share cancels in their difference: so much of the root of their squares is left.
const SHARED: f64 = 0.5;

/// A power that can be set against others: from `low_w` to `high_w`, with the expanded uncertainty of each end.
#[derive(Debug, Clone, PartialEq)]
pub struct Joined {
    /// Lower end, watts.
    pub low_w: f64,
    /// Upper end, watts.
    pub high_w: f64,
    /// Expanded uncertainty of the lower end, watts.
    pub low_u_w: f64,
    /// Expanded uncertainty of the upper end, watts.
    pub high_u_w: f64,
    /// The meter and the load that made it, where both are known.
    made_by: Option<(Meter, f64)>,
}

impl Joined {
    pub(super) fn of(session: &Session, choice: &Choice, band: &Band) -> Self {
        let made_by = choice.runs.first().and_then(|run| made_by(session, run));
        Self { low_w: band.low_w, high_w: band.high_w, low_u_w: band.low_expanded_w, high_u_w: band.high_expanded_w, made_by }
    }

    /// A power without a band, and nothing known of what made it.
    #[must_use]
    pub const fn plain(watts: f64, u_w: f64) -> Self {
        Self { low_w: watts, high_w: watts, low_u_w: u_w, high_u_w: u_w, made_by: None }
    }
}

/// The meter that read the output, and the load as it was measured.
fn made_by(session: &Session, run: &Run) -> Option<(Meter, f64)> {
    let output = run.outputs.first()?;
    let quantity = if output.power_w.is_some() { Quantity::Power } else { Quantity::Voltage };
    let meter = session.bench.meter(output.meter.as_deref(), quantity)?;
    Some((meter.clone(), run.load_measured_ohm?.get()))
}

/// Whether `more` is more than `less` beyond what both can be off: by more than √(U1² + U2²), half of that where the same meter and
/// load made both.
#[must_use]
pub fn is_apart(more: &Joined, less: &Joined) -> bool {
    more_than(more.low_w - less.high_w, both_u_w(more, less))
}

/// Expanded uncertainty of the difference of two powers, watts.
pub(super) fn both_u_w(more: &Joined, less: &Joined) -> f64 {
    let both = quadrature([more.low_u_w, less.high_u_w]);
    if share(more, less) { SHARED * both } else { both }
}

/// Whether the same meter and load made both.
pub(super) fn share(one: &Joined, other: &Joined) -> bool {
    one.made_by.is_some() && one.made_by == other.made_by
}

/// The strongest against each of the others, the nearest first.
pub(super) fn sentences(place: &str, joined: &[(String, &Joined)]) -> Vec<String> {
    let mut ranked: Vec<&(String, &Joined)> = joined.iter().collect();
    ranked.sort_by(|a, b| b.1.low_w.total_cmp(&a.1.low_w));
    let Some(((name, first), others)) = ranked.split_first().map(|(first, others)| ((&first.0, first.1), others)) else {
        return Vec::new();
    };
    let says = |(other, less): &&(String, &Joined)| {
        if !is_apart(first, less) {
            return format!("At {place}, no difference can be told between the {name} and the {other}.");
        }
        let percent = 100.0 * (first.low_w / less.high_w - 1.0);
        let percent = if percent < 9.95 { format::fixed(percent, 1) } else { format::fixed(percent, 0) };
        let is_band = more_than(first.high_w, first.low_w) || more_than(less.high_w, less.low_w);
        let least = if is_band { "at least " } else { "" };
        format!("At {place}, the {name} makes {least}{} more than the {other}, outside both ±.", format::with_unit(&percent, "%"))
    };
    others.iter().map(says).collect()
}
