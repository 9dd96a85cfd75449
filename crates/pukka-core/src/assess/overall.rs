//! Step 10: the word over all.

use serde::{Deserialize, Serialize};

use crate::assess::{ClaimVerdict, Outcome};
use crate::kernel::units::{SLACK, at_least};
use crate::record::claims::{Claim, ClaimKind};
use crate::record::session::Session;

/// The word over all.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum Overall {
    /// Every tested claim is beaten.
    Modest,
    /// Every one holds.
    Pukka,
    /// All at least 95 %.
    NearEnough,
    /// Any of 70 to 95 %.
    Optimistic,
    /// Any below 70 %.
    TallTale,
    /// The headline claim is not fairly tested.
    Open,
}

impl Overall {
    /// The word of a verdict; where nothing is claimed there is none to judge by.
    #[must_use]
    pub const fn word_of(overall: Option<Self>) -> &'static str {
        match overall {
            Some(overall) => overall.word(),
            None => "What it makes",
        }
    }

    /// Word.
    #[must_use]
    pub const fn word(self) -> &'static str {
        match self {
            Self::Modest => "Modest",
            Self::Pukka => "Pukka",
            Self::NearEnough => "Near enough",
            Self::Optimistic => "Optimistic",
            Self::TallTale => "Tall tale",
            Self::Open => "Open",
        }
    }

    fn by_ratio(ratio: f64) -> Self {
        if at_least(ratio, 1.0) {
            Self::Pukka
        } else if at_least(ratio, 0.95) {
            Self::NearEnough
        } else if at_least(ratio, 0.70) {
            Self::Optimistic
        } else {
            Self::TallTale
        }
    }
}

/// The word over all, and how much it stands on.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Standing {
    /// The word.
    pub overall: Option<Overall>,
    /// Claims in use that were fairly tested.
    pub tested: usize,
    /// Claims in use.
    pub in_use: usize,
    /// A claim is untested, or a stop unsettled.
    pub provisional: bool,
}

/// Whether the outcome settles the claim one way or the other.
pub fn is_tested(verdict: &ClaimVerdict) -> bool {
    verdict.outcome.is_proved() || verdict.outcome.is_failed() || matches!(verdict.outcome, Outcome::MaxMet | Outcome::MaxMissed)
}

/// 1 when proved, else the most it could be over the claim.
pub fn ratio(verdict: &ClaimVerdict) -> f64 {
    if verdict.outcome.is_proved() || verdict.outcome == Outcome::MaxMet { 1.0 } else { verdict.high_ratio.unwrap_or(0.0) }
}

/// Puts the claims together.
pub fn overall(session: &Session, verdicts: &[ClaimVerdict], unsettled_stop: bool) -> Standing {
    let paired = || session.claims.iter().zip(verdicts).filter(|(claim, _)| session.is_in_use(claim));
    let mut in_use: Vec<(&Claim, &ClaimVerdict)> = paired().filter(|(claim, _)| claim.is_rating()).collect();
    let ratings = !in_use.is_empty();
    let missed_max = paired().any(|(claim, verdict)| {
        claim.kind == ClaimKind::Max && verdict.outcome == Outcome::MaxMissed && !at_least(verdict.as_read_ratio.unwrap_or(0.0), 0.95)
    });
    if !ratings {
        in_use = paired().collect();
    }
    let tested: Vec<&ClaimVerdict> = in_use.iter().map(|(_, verdict)| *verdict).filter(|verdict| is_tested(verdict)).collect();
    let head_tested = if ratings {
        session.headline().is_some_and(|head| tested.iter().any(|verdict| verdict.id == head.id))
    } else {
        let most = in_use.iter().filter_map(|(claim, _)| claim.total_w()).fold(0.0, f64::max);
        in_use.iter().any(|(claim, verdict)| claim.total_w().is_some_and(|w| w >= most * (1.0 - SLACK)) && is_tested(verdict))
    };
    let overall = if !head_tested {
        Overall::Open
    } else if tested.iter().all(|verdict| verdict.outcome == Outcome::Beats) {
        Overall::Modest
    } else {
        Overall::by_ratio(tested.iter().map(|verdict| ratio(verdict)).fold(f64::INFINITY, f64::min))
    };
    let capped = match overall {
        Overall::Modest | Overall::Pukka | Overall::NearEnough if missed_max && ratings => Overall::Optimistic,
        other => other,
    };
    let overall = (!session.claims.is_empty()).then_some(capped);
    Standing { overall, tested: tested.len(), in_use: in_use.len(), provisional: tested.len() < in_use.len() || unsettled_stop }
}
