//! Where amplifier and supply meet: the output follows the supply, and the supply sags under the output.

use crate::predict::model::{Draw, LoadLine};

/// The amplifier at one load.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Amplifying {
    /// Of one output, at the reference voltage.
    pub line: LoadLine,
    /// Outputs driven.
    pub outputs: f64,
    /// Load of each.
    pub load_ohm: f64,
    /// The supply voltage the line is for.
    pub reference_v: f64,
    /// Power goes with (V / reference)^exponent: 2 unregulated, 0 regulated.
    pub exponent: f64,
    /// Relation of its draw to its output.
    pub draw: Draw,
    /// The part of the time that the tone is on: the draw is a mean.
    pub duty: f64,
}

/// The supply.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Supplying {
    /// At rest.
    pub rest_v: f64,
    /// Source resistance.
    pub source_ohm: f64,
}

/// Point where they meet.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Operating {
    /// Power of all outputs together.
    pub power_w: f64,
    /// Supply amps.
    pub current_a: f64,
    /// Supply under load.
    pub end_v: f64,
}

impl Amplifying {
    /// Output and draw at a supply voltage that is held there.
    #[must_use]
    pub fn at(&self, supply_v: f64) -> Operating {
        let output_w = self.line.output_w(self.load_ohm) * (supply_v / self.reference_v).powf(self.exponent);
        let power_w = self.outputs * output_w;
        let input_w = self.duty * self.draw.input_w(power_w, power_w / self.load_ohm);
        Operating { power_w, current_a: input_w / supply_v, end_v: supply_v }
    }

    /// Output, draw and end voltage on a supply that sags: V = rest − Rsource · I(V), by halving. A supply too weak to feed it
    /// at all ends at half its rest voltage, where every real one has been stopped.
    #[must_use]
    pub fn on(&self, supply: Supplying) -> Operating {
        let (mut low, mut high) = (supply.rest_v / 2.0, supply.rest_v);
        for _ in 0..60 {
            let middle = f64::midpoint(low, high);
            if supply.rest_v - supply.source_ohm * self.at(middle).current_a > middle { low = middle } else { high = middle }
        }
        self.at(high)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn amplifier(exponent: f64, efficiency: f64) -> Amplifying {
        let line = LoadLine { open_v: 45.0, out_ohm: 0.5 };
        Amplifying {
            line,
            outputs: 1.0,
            load_ohm: 1.0,
            reference_v: 14.4,
            exponent,
            draw: Draw::Efficiency { ratio: efficiency, load_ohm: 1.0, halvings: 0.0, ceiling: 1.0 },
            duty: 1.0,
        }
    }

    #[test]
    fn a_regulated_amplifier_on_a_soft_bank_worked_by_hand() {
        // 900 W at 75 % is 1200 W. V·(14.6 − V)/0.005 = 1200: V = (14.6 + √(14.6² − 4·0.005·1200))/2 = 14.177 V
        let found = amplifier(0.0, 0.75).on(Supplying { rest_v: 14.6, source_ohm: 0.005 });
        assert!((found.end_v - 14.1769).abs() < 1e-3, "{found:?}");
        assert!((found.power_w - 900.0).abs() < 1e-9 && (found.current_a * found.end_v - 1200.0).abs() < 1e-6);
    }

    #[test]
    fn an_unregulated_one_gives_less_as_the_supply_sags() {
        let stiff = amplifier(2.0, 0.75).on(Supplying { rest_v: 14.4, source_ohm: 0.0 });
        let soft = amplifier(2.0, 0.75).on(Supplying { rest_v: 14.4, source_ohm: 0.01 });
        assert!((stiff.power_w - 900.0).abs() < 1e-6);
        assert!(soft.end_v < 14.4 && (soft.power_w / 900.0 - (soft.end_v / 14.4).powi(2)).abs() < 1e-9);
        assert!((14.4 - 0.01 * soft.current_a - soft.end_v).abs() < 1e-9, "what it draws is what it sags by");
    }

    #[test]
    fn a_supply_that_cannot_feed_it_is_not_solved_for_ever() {
        let found = amplifier(0.0, 0.75).on(Supplying { rest_v: 14.4, source_ohm: 1.0 });
        assert!((found.end_v - 7.2).abs() < 1e-6);
    }
}
