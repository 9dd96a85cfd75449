//! How far the supply sagged in each run.

use serde::{Deserialize, Serialize};

use crate::evidence::figures::sag;
use crate::evidence::rungs::runs_along;
use crate::kernel::working::Figure;
use crate::record::session::{Mode, Run, Session};

/// The supply of one run: from rest to the moment of its reading.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct SagRow {
    /// "1 Ω".
    pub load: String,
    /// Wiring, in words.
    pub wiring: String,
    /// Mode.
    pub mode: Mode,
    /// At rest, volts.
    pub rest_v: f64,
    /// Under load, volts.
    pub end_v: f64,
    /// The difference.
    pub sag: Figure,
}

/// Every run that stands and has both voltages, along the ladder.
pub(crate) fn sags(session: &Session) -> Vec<SagRow> {
    let row = |run: &Run| {
        let sag = sag(session, run)?;
        let rest_v = run.rest_v?.get();
        Some(SagRow {
            load: run.wiring.load_words(run.load_nominal_ohm),
            wiring: run.wiring.words(),
            mode: run.mode,
            rest_v,
            end_v: rest_v - sag.value,
            sag,
        })
    };
    runs_along(session).into_iter().filter_map(row).collect()
}
