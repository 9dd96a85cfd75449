//! How the draw follows from the output: by the class of the amplifier, by the efficiency of the nearest load that was run, or by
//! losses fitted to three loads and more.

use crate::predict::model::Losses;
use crate::record::amplifier::Class;
use crate::record::claims::sense::class_efficiency;

/// Part of an efficiency that is left at half the load.
const PER_HALVING: f64 = 0.94;
/// Part that it may be less: for each halving away, and at all.
const UNSURE_PER_HALVING: f64 = 0.06;
const UNSURE: f64 = 0.05;
/// An amplifier that draws less than the efficiency says draws this part of it at the least.
const LEAST: f64 = 0.9;
/// An amplifier may beat its claim by so much.
const OVER_CLAIM: f64 = 1.15;
/// No amplifier that works is less efficient.
const NO_LESS: f64 = 0.1;

/// Relation of draw to output.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Draw {
    /// By the class, as no run has told it yet.
    Class {
        /// Efficiency that is usual.
        usual: f64,
        /// At the least.
        low: f64,
        /// At the most.
        high: f64,
    },
    /// By the efficiency of the nearest load that was run.
    Efficiency {
        /// There.
        ratio: f64,
        /// That load, nominal.
        load_ohm: f64,
        /// Halvings from it to the load asked about; negative towards higher ones.
        halvings: f64,
        /// Part that its class does not pass.
        ceiling: f64,
    },
    /// By losses, from three loads on.
    Losses(Losses),
}

impl Draw {
    /// Before any run.
    #[must_use]
    pub const fn of_class(class: Class) -> Self {
        let (low, high) = match class {
            Class::AB => (0.45, 0.70),
            Class::D => (0.55, 0.85),
            Class::GH => (0.45, 0.75),
            Class::Other => (0.45, 0.85),
        };
        Self::Class { usual: class_efficiency(class), low, high }
    }

    /// Efficiency to expect of an output, and at the least; nothing where losses tell the draw.
    fn efficiencies(self) -> Option<(f64, f64)> {
        match self {
            Self::Class { usual, low, .. } => Some((usual, low)),
            Self::Efficiency { ratio, halvings, ceiling, .. } => {
                let there = (ratio * PER_HALVING.powf(halvings)).min(ceiling);
                Some((there, (there - UNSURE_PER_HALVING * halvings.abs() - UNSURE).max(NO_LESS.min(there))))
            }
            Self::Losses(_) => None,
        }
    }

    /// Watts drawn for an output of `power_w` at Σ Iout².
    #[must_use]
    pub fn input_w(self, power_w: f64, squared_a2: f64) -> f64 {
        match (self, self.efficiencies()) {
            (Self::Losses(losses), _) => power_w + losses.at(squared_a2),
            (_, Some((expected, _))) => power_w / expected,
            (_, None) => power_w,
        }
    }

    /// The least and the most of that.
    #[must_use]
    pub fn band_w(self, power_w: f64, squared_a2: f64) -> (f64, f64) {
        match (self, self.efficiencies()) {
            (Self::Losses(losses), _) => {
                let (least, most) = losses.band(squared_a2);
                (power_w + least, power_w + most)
            }
            (Self::Class { low, high, .. }, _) => (power_w / high, OVER_CLAIM * power_w / low),
            (_, Some((expected, least))) => (LEAST * power_w / expected, power_w / least),
            (_, None) => (power_w, power_w),
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn by_class_before_any_run() {
        // 1000 W of class D: 1000/0.85 = 1176 W to 1.15 · 1000/0.55 = 2091 W.
        let (least, most) = Draw::of_class(Class::D).band_w(1_000.0, 0.0);
        assert!((least - 1_176.470_588).abs() < 1e-5 && (most - 2_090.909_091).abs() < 1e-5);
        assert_eq!(Draw::of_class(Class::AB), Draw::Class { usual: 0.65, low: 0.45, high: 0.70 });
    }

    #[test]
    fn by_the_nearest_load_that_was_run() {
        let at = |halvings: f64| Draw::Efficiency { ratio: 0.80, load_ohm: 4.0, halvings, ceiling: 0.95 };
        // Half the load: 0.80 · 0.94 = 0.752; less 0.06 and 0.05: 0.642.
        let (least, most) = at(1.0).band_w(1_000.0, 0.0);
        assert!((least - 900.0 / 0.752).abs() < 1e-9 && (most - 1_000.0 / 0.642).abs() < 1e-9);
        // The load itself: 0.80 and 0.75.
        assert!((at(0.0).band_w(1_000.0, 0.0).1 - 1_000.0 / 0.75).abs() < 1e-9);
        // Twice the load: 0.80/0.94 = 0.851; less 0.11.
        assert!((at(-1.0).band_w(1_000.0, 0.0).1 - 1_000.0 / (0.80 / 0.94 - 0.11)).abs() < 1e-9);
        // Four times the load: 0.905, and the class does not pass 0.785.
        let capped = Draw::Efficiency { ratio: 0.80, load_ohm: 4.0, halvings: -2.0, ceiling: 0.785 };
        assert!((capped.band_w(1_000.0, 0.0).0 - 900.0 / 0.785).abs() < 1e-9);
        let far = Draw::Efficiency { ratio: 0.30, load_ohm: 4.0, halvings: 5.0, ceiling: 1.0 };
        assert!((far.band_w(1_000.0, 0.0).1 - 10_000.0).abs() < 1e-9, "it never runs away");
    }
}
