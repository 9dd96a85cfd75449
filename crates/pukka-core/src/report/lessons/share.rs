//! Shares of few cases, with the interval that says how little they tell.

use serde::{Deserialize, Serialize};

use crate::kernel::format;

/// A share of cases, with Wilson's 95 % interval.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, utoipa::ToSchema)]
pub struct CaseShare {
    /// Percent.
    pub percent: f64,
    /// Lower end of the interval, percent.
    pub low: f64,
    /// Upper end, percent.
    pub high: f64,
    /// As shown: "12 % (4 to 31)".
    pub says: String,
}

/// Fewer cases than that have no share: only the count.
pub const ENOUGH: u32 = 5;
/// Of the normal distribution, for 95 % between both ends.
const Z: f64 = 1.959_963_984_540_054;

/// The share that so many of so many are; nothing of fewer than [`ENOUGH`].
///
/// Ref: E. B. Wilson, Journal of the American Statistical Association 22 (1927), 209.
#[must_use]
pub fn share(count: u32, of: u32) -> Option<CaseShare> {
    if of < ENOUGH {
        return None;
    }
    let (n, p) = (f64::from(of), f64::from(count) / f64::from(of));
    let square = Z * Z;
    let middle = (p + square / (2.0 * n)) / (1.0 + square / n);
    let half = Z / (1.0 + square / n) * (p * (1.0 - p) / n + square / (4.0 * n * n)).sqrt();
    let (low, high) = (100.0 * (middle - half).max(0.0), 100.0 * (middle + half).min(1.0));
    let says =
        format!("{} ({} to {})", format::with_unit(&format::fixed(100.0 * p, 0), "%"), format::fixed(low, 0), format::fixed(high, 0));
    Some(CaseShare { percent: 100.0 * p, low, high, says })
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn wilsons_interval_as_it_is_known() {
        // Worked by hand from the formula: 2 of 10, 0 of 5, 5 of 5.
        let two = share(2, 10).unwrap();
        assert!((two.low - 5.668_2).abs() < 1e-3 && (two.high - 50.984).abs() < 1e-2, "{two:?}");
        let none = share(0, 5).unwrap();
        assert!(none.low.abs() < 1e-9 && (none.high - 43.449).abs() < 1e-2, "{none:?}");
        let all = share(5, 5).unwrap();
        assert!((all.high - 100.0).abs() < 1e-9 && (all.low - 56.551).abs() < 1e-2, "{all:?}");
        assert_eq!(two.says.replace('\u{202f}', " "), "20 % (6 to 51)");
    }

    #[test]
    fn few_cases_have_no_share() {
        assert_eq!((share(1, 4), share(4, 4)), (None, None));
        assert!(share(1, 5).is_some());
    }
}
