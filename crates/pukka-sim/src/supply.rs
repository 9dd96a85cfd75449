//! The supply: a bank that sags, tires and recovers, with a charger on it or not; or a supply with a current limit.

use crate::TICK_S;

/// Format.
#[derive(Debug, Clone, PartialEq)]
pub struct SupplyKind {
    /// At rest, fully charged, volts.
    pub rest_v: f64,
    /// Source resistance up to the amplifier's terminals, ohms.
    pub source_ohm: f64,
    /// Most that it gives; a bank has no limit.
    pub limit_a: Option<f64>,
    /// Volts lost for each ampere-hour taken.
    pub tires_v_per_ah: f64,
    /// Slow part of the sag: ohms, and the seconds it takes to come and go.
    pub slow: (f64, f64),
}

impl SupplyKind {
    /// A bank of lithium cells on short leads.
    #[must_use]
    pub const fn bank() -> Self {
        Self { rest_v: 14.6, source_ohm: 0.0045, limit_a: None, tires_v_per_ah: 0.002, slow: (0.0012, 12.0) }
    }

    /// A mains-powered supply.
    #[must_use]
    pub const fn mains(volts: f64, limit_a: f64) -> Self {
        Self { rest_v: volts, source_ohm: 0.003, limit_a: Some(limit_a), tires_v_per_ah: 0.0, slow: (0.0, 1.0) }
    }
}

/// Amps of the charger, and the volts it goes up to.
const CHARGER_A: f64 = 40.0;
const CHARGER_V: f64 = 14.8;
/// Resistance at which a supply folds at its limit, ohms.
const FOLDS_OHM: f64 = 0.5;

/// The supply as it stands.
#[derive(Debug, Clone, PartialEq)]
pub struct Supply {
    /// Format.
    pub kind: SupplyKind,
    /// A charger is on.
    pub charger: bool,
    used_ah: f64,
    slow_v: f64,
    /// At the amplifier's terminals, volts.
    pub volts: f64,
    /// Setting of a mains-powered one, volts and amps; of a bank it is set beside it and feeds nothing.
    pub set_v: f64,
    /// Likewise, its current limit.
    pub set_a: f64,
    on: bool,
}

impl Supply {
    /// Rested.
    #[must_use]
    pub const fn new(kind: SupplyKind) -> Self {
        let volts = kind.rest_v;
        let set_a = match kind.limit_a {
            Some(limit) => limit,
            None => 0.0,
        };
        Self { kind, charger: false, used_ah: 0.0, slow_v: 0.0, volts, set_v: volts, set_a, on: true }
    }

    /// Whether its output is on; a bank has no switch.
    #[must_use]
    pub const fn is_on(&self) -> bool {
        self.on
    }

    /// Switches the output of a mains-powered one. A bank feeds on.
    pub const fn switch(&mut self, on: bool) {
        self.on = on;
    }

    /// Takes over what it was set to.
    pub const fn apply(&mut self) {
        if self.kind.limit_a.is_some() {
            (self.kind.rest_v, self.kind.limit_a) = (self.set_v, Some(self.set_a));
        }
    }

    /// Goes on a tick while so many amps are drawn.
    pub fn tick(&mut self, amps: f64) {
        let kind = &self.kind;
        if kind.limit_a.is_some() && !self.on {
            // The amplifier's own capacitors pull it down.
            self.volts *= 0.9;
            return;
        }
        let rest = kind.rest_v - kind.tires_v_per_ah * self.used_ah - self.slow_v;
        // The charger gives what the amplifier takes, as far as it goes; left alone it lifts the bank to its own voltage.
        let (from_bank, lifted) =
            if self.charger { ((amps - CHARGER_A).max(0.0), rest.max(CHARGER_V.min(rest + 0.25))) } else { (amps, rest) };
        let mut volts = lifted - kind.source_ohm * from_bank;
        if let Some(limit) = kind.limit_a {
            volts -= FOLDS_OHM * (amps - limit).max(0.0);
        }
        self.volts = volts.max(0.0);
        self.used_ah += from_bank * TICK_S / 3_600.0;
        let (slow_ohm, slow_s) = kind.slow;
        self.slow_v += (slow_ohm * from_bank - self.slow_v) * TICK_S / slow_s;
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn after(supply: &mut Supply, amps: f64, seconds: f64) -> f64 {
        for _ in 0..(seconds / TICK_S) as usize {
            supply.tick(amps);
        }
        supply.volts
    }

    #[test]
    fn a_bank_sags_at_once_and_slowly_and_comes_back() {
        let mut bank = Supply::new(SupplyKind::bank());
        let at_once = after(&mut bank, 100.0, 0.01);
        assert!((at_once - (14.6 - 0.45)).abs() < 0.005, "100 A · 4.5 mΩ: {at_once}");
        let later = after(&mut bank, 100.0, 60.0);
        assert!(at_once - later > 0.1, "the slow part: {later}");
        let rested = after(&mut bank, 0.0, 5.0);
        let longer = after(&mut bank, 0.0, 60.0);
        assert!(longer - rested > 0.05 && longer < 14.6, "it comes back slowly, and not all the way: {rested} {longer}");
    }

    #[test]
    fn a_charger_lifts_the_start_and_holds_back_the_sag() {
        let (mut without, mut with) = (Supply::new(SupplyKind::bank()), Supply::new(SupplyKind::bank()));
        with.charger = true;
        assert!(after(&mut with, 0.0, 1.0) > after(&mut without, 0.0, 1.0) + 0.1);
        let (a, b) = (without.volts - after(&mut without, 60.0, 0.1), with.volts - after(&mut with, 60.0, 0.1));
        assert!(b < a / 2.0, "{a} {b}");
    }

    #[test]
    fn a_supply_folds_at_its_limit() {
        let mut mains = Supply::new(SupplyKind::mains(13.8, 60.0));
        assert!(after(&mut mains, 59.0, 0.1) > 13.5);
        assert!(after(&mut mains, 62.0, 0.1) < 12.8);
    }
}
