//! What the judgement answers: outcomes, what they rest on, the numbers of runs and claims.

use crate::kernel::units::PowerDecibels;
use crate::kernel::words::words;
use serde::{Deserialize, Serialize};

use crate::assess::overall::Overall;
use crate::evidence::check::Check;
use crate::record::claims::Claim;
use crate::record::session::CheckCode;

words! {
    /// Condition that a claim or its runs left out, and the judgement had to put in.
    Assumption {
        /// No supply volts: they lie in a span.
        NoSupplyVolts = "no-supply-volts",
        /// Supply volts made from watts, amps and efficiency.
        VoltsDerived = "volts-derived",
        /// The claim prints no voltage.
        ClaimVoltage = "claim-voltage-assumed",
        /// The claim states no kind.
        UnstatedAsRms = "unstated-judged-as-rms",
        /// The claim is made at another distortion.
        RunsDistortionLimit = "judged-at-the-runs-distortion-limit",
    }
}

impl Assumption {
    /// Remarks to make with the outcome.
    #[must_use]
    pub const fn words(self) -> &'static str {
        match self {
            Self::NoSupplyVolts => "no supply volts read",
            Self::VoltsDerived => "supply volts made from watts, amps and the efficiency read",
            Self::ClaimVoltage => "no voltage printed: judged at 14.4 V",
            Self::UnstatedAsRms => "kind not stated: judged as rms",
            Self::RunsDistortionLimit => "claimed at another distortion: judged at the runs’ limit",
        }
    }
}

/// Outcome of a claim.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum Outcome {
    /// More than 5 % over, uncertainty allowed for.
    Beats,
    /// Proved.
    Holds,
    /// Proved only inside the uncertainty.
    HoldsWithin,
    /// Reached only when clipping.
    OnlyClipping,
    /// Reached only in bursts.
    OnlyDynamic,
    /// At least 70 % of it.
    Short,
    /// Less than 70 % of it.
    FarShort,
    /// The bench sagged too far to tell.
    BenchLimited,
    /// The bench was too high to tell.
    TestedHigh,
    /// Regulated or not is unknown, and it matters.
    CannotTell,
    /// No run speaks for it.
    NotTested,
    /// States no load or no watts.
    NotComparable,
    /// A max claim that was reached in some mode.
    MaxMet,
    /// A max claim that was not.
    MaxMissed,
    /// The verdict does not use it.
    NotUsed,
}

impl Outcome {
    /// Words.
    #[must_use]
    pub const fn words(self) -> &'static str {
        match self {
            Self::Beats => "Beats it",
            Self::Holds => "Holds",
            Self::HoldsWithin => "Holds, within ±",
            Self::OnlyClipping => "Only when clipping",
            Self::OnlyDynamic => "Only in bursts",
            Self::Short => "Short",
            Self::FarShort => "Far short",
            Self::BenchLimited => "Bench-limited",
            Self::TestedHigh => "Tested high",
            Self::CannotTell => "Cannot tell",
            Self::NotTested => "Not tested",
            Self::NotComparable => "Not comparable",
            Self::MaxMet => "Max met",
            Self::MaxMissed => "Max missed",
            Self::NotUsed => "Not used",
        }
    }

    /// Proved on clean power.
    #[must_use]
    pub const fn is_proved(self) -> bool {
        matches!(self, Self::Beats | Self::Holds | Self::HoldsWithin)
    }

    /// Disproved on clean power.
    #[must_use]
    pub const fn is_failed(self) -> bool {
        matches!(self, Self::OnlyClipping | Self::OnlyDynamic | Self::Short | Self::FarShort)
    }
}

/// Proof that an outcome rests on, where its step names it.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum ProofBasis {
    /// The power as read.
    AsRead,
    /// The power brought to the claim's voltage.
    AtReference,
    /// The uncertainty.
    Uncertainty,
    /// Regulated or not is unknown.
    SupplyTypeUnknown,
    /// A clipping run short of the claim.
    UpperBound,
    /// Level steps that were all inside the limit.
    LowerBound,
    /// No supply volts: the claim lies inside what they may have been.
    NoSupplyVolts,
    /// Own run waits for a reason, a settled stop or a clean reading.
    OwnRunUnsettled,
    /// Several amplifiers strapped: none was run so.
    NeedsTwo,
}

/// A run that says only "at least".
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, utoipa::ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum Bound {
    /// At least so much.
    Lower,
}

/// The numbers of a run, as the judgement answers them.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct RunVerdict {
    /// The run.
    pub id: String,
    /// Total power.
    pub total_w: Option<f64>,
    /// Power of the better end, of counted cycles only.
    pub best_w: Option<f64>,
    /// Power of each metered output.
    pub per_output_w: Vec<f64>,
    /// `lower`, or nothing.
    pub bound: Option<Bound>,
    /// Draw.
    pub input_w: Option<f64>,
    /// Efficiency; never of a burst.
    pub efficiency_ratio: Option<f64>,
    /// Heat; never of a burst.
    pub heat_w: Option<f64>,
    /// Sag.
    pub sag_v: Option<f64>,
    /// Channel balance.
    pub balance_db: Option<PowerDecibels>,
    /// Expanded uncertainty of the total, k = 2.
    pub expanded_uncertainty_w: Option<f64>,
    /// Claims whose outcome stands on it.
    pub used_for: Vec<String>,
}

/// Outcome of one claim.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct ClaimVerdict {
    /// The claim.
    pub id: String,
    /// The outcome.
    pub outcome: Outcome,
    /// Proof behind it.
    pub basis: Option<ProofBasis>,
    /// The runs it stands on.
    pub runs: Vec<String>,
    /// Claimed watts in total.
    pub claim_total_w: Option<f64>,
    /// Power as read over the claim.
    pub as_read_ratio: Option<f64>,
    /// Power at the claim's voltage, from and to.
    pub at_reference_w: Option<[f64; 2]>,
    /// 10·log10(P/C).
    pub shortfall_db: Option<PowerDecibels>,
    /// Made between two loads.
    pub interpolated: bool,
    /// By a run wired otherwise.
    pub equivalent: bool,
    /// Would hold if the watts were the total.
    pub fits_as_total: bool,
    /// Assumptions.
    pub assumptions: Vec<Assumption>,
    /// Open doubts that dispute the power of the runs it stands on.
    pub disputed_by: Vec<CheckCode>,
    /// The most it could be over the claim: what the word over all is made of.
    #[serde(skip)]
    pub(super) high_ratio: Option<f64>,
}

impl ClaimVerdict {
    /// Watts as read that the outcome stands on.
    #[must_use]
    pub fn as_read_w(&self) -> Option<f64> {
        self.as_read_ratio.zip(self.claim_total_w).map(|(ratio, claim_w)| ratio * claim_w)
    }

    pub(crate) fn open(claim: &Claim, outcome: Outcome) -> Self {
        Self {
            id: claim.id.clone(),
            outcome,
            basis: None,
            runs: Vec::new(),
            claim_total_w: claim.total_w(),
            as_read_ratio: None,
            at_reference_w: None,
            shortfall_db: None,
            interpolated: false,
            equivalent: false,
            fits_as_total: false,
            assumptions: Vec::new(),
            disputed_by: Vec::new(),
            high_ratio: None,
        }
    }
}

/// The judgement of one session.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct Judgement {
    /// Every run, also those that do not stand: as they were read.
    pub runs: Vec<RunVerdict>,
    /// Every claim.
    pub claims: Vec<ClaimVerdict>,
    /// Every check that fired.
    pub checks: Vec<Check>,
    /// The word over all; nothing where nothing is claimed.
    pub overall: Option<Overall>,
    /// Claims in use that were fairly tested.
    pub tested: usize,
    /// Claims in use.
    pub claims_in_use: usize,
    /// A claim is untested, or a stop unsettled.
    pub provisional: bool,
    /// A plain paragraph.
    pub sentence: String,
}
