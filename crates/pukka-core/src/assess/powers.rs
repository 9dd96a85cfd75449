//! Powers as reviewers speak of them: of several outputs, watts each and how many; margins of the claim, both ways.

use crate::kernel::format;
use crate::kernel::wiring::Wiring;
use crate::record::claims::Claim;
use crate::record::session::Run;

/// "812 W"
pub fn watts(value: f64) -> String {
    format::with_unit(&format::watts(value), "W")
}

/// Watts of a claim's wiring in total: "57 W × 4" of several outputs.
pub fn each(claim: &Claim, total_w: f64) -> String {
    claim.wiring.map_or_else(|| watts(total_w), |wiring| of_wiring(wiring, total_w))
}

/// Likewise, of a run's wiring.
pub fn of_place(run: &Run, total_w: f64) -> String {
    of_wiring(run.wiring, total_w)
}

/// Watts of a wiring in total, as reviewers speak of them.
pub fn of_wiring(wiring: Wiring, total_w: f64) -> String {
    match wiring.outputs() {
        _ if wiring.groups().is_some() => watts(total_w),
        0 | 1 => watts(total_w),
        n => format!("{}{}×{}{n}", watts(total_w / f64::from(n)), format::THIN, format::THIN),
    }
}

/// "20.0 % over", "17.2 % short": of the claim.
pub fn margin(made_w: f64, claimed_w: f64) -> String {
    let off = made_w / claimed_w - 1.0;
    let way = if off >= 0.0 { "over" } else { "short" };
    format!("{} {way}", format::with_unit(&format::fixed(100.0 * off.abs(), 1), "%"))
}
