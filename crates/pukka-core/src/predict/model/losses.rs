//! What an amplifier turns into heat: idle + k · Iout².

/// A steady run: its outputs' current squared, summed, and what it lost.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct LossPoint {
    /// Σ Iout² over the outputs, A².
    pub squared_a2: f64,
    /// Vend · I − Pout, watts.
    pub loss_w: f64,
}

/// Losses, and how well the runs agree on them.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Losses {
    /// With no tone, watts.
    pub idle_w: f64,
    /// For each A² of output current, ohms.
    pub per_a2_ohm: f64,
    /// Miss of the fit at the worst of its runs, watts.
    pub residual_w: f64,
}

impl Losses {
    /// Fits k by least squares, and idle with it unless it was read. Nothing from no runs.
    #[must_use]
    pub fn fit(runs: &[LossPoint], idle_w: Option<f64>) -> Option<Self> {
        if runs.is_empty() {
            return None;
        }
        let (idle, per_a2_ohm) = match idle_w {
            Some(idle) => (idle, through(runs, idle)),
            None => line(runs).unwrap_or_else(|| (0.0, through(runs, 0.0))),
        };
        let missed = |run: &LossPoint| (idle + per_a2_ohm * run.squared_a2 - run.loss_w).abs();
        let residual_w = runs.iter().map(missed).fold(0.0, f64::max);
        Some(Self { idle_w: idle, per_a2_ohm, residual_w })
    }

    /// Losses at an output current, watts.
    #[must_use]
    pub fn at(&self, squared_a2: f64) -> f64 {
        self.idle_w + self.per_a2_ohm * squared_a2
    }

    /// Least and most losses at an output current, watts: by what the fit misses its worst run by.
    #[must_use]
    pub fn band(&self, squared_a2: f64) -> (f64, f64) {
        let loss_w = self.at(squared_a2);
        ((loss_w - self.residual_w).max(0.0), loss_w + self.residual_w)
    }
}

/// The slope through a fixed idle, not below nothing.
fn through(points: &[LossPoint], idle_w: f64) -> f64 {
    let squares: f64 = points.iter().map(|p| p.squared_a2 * p.squared_a2).sum();
    (points.iter().map(|p| p.squared_a2 * (p.loss_w - idle_w)).sum::<f64>() / squares).max(0.0)
}

/// Least squares, neither end below nothing; needs two different currents.
fn line(points: &[LossPoint]) -> Option<(f64, f64)> {
    let n = points.len() as f64;
    let mean_x = points.iter().map(|p| p.squared_a2).sum::<f64>() / n;
    let mean_y = points.iter().map(|p| p.loss_w).sum::<f64>() / n;
    let spread: f64 = points.iter().map(|p| (p.squared_a2 - mean_x).powi(2)).sum();
    if points.len() < 2 || spread <= f64::EPSILON * mean_x * mean_x {
        return None;
    }
    let slope = points.iter().map(|p| (p.squared_a2 - mean_x) * (p.loss_w - mean_y)).sum::<f64>() / spread;
    let (slope, idle) = (slope.max(0.0), mean_y - slope.max(0.0) * mean_x);
    if idle >= 0.0 { Some((idle, slope)) } else { Some((0.0, through(points, 0.0))) }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn point(squared_a2: f64, loss_w: f64) -> LossPoint {
        LossPoint { squared_a2, loss_w }
    }

    #[test]
    fn fits_worked_by_hand() {
        assert_eq!(Losses::fit(&[], Some(20.0)), None);
        let one = Losses::fit(&[point(100.0, 120.0)], None).unwrap();
        assert_eq!((one.idle_w, one.per_a2_ohm, one.residual_w), (0.0, 1.2, 0.0));
        // Idle was read: k = (120 − 20)/100 = 1 Ω.
        let idle = Losses::fit(&[point(100.0, 120.0)], Some(20.0)).unwrap();
        assert_eq!((idle.idle_w, idle.per_a2_ohm), (20.0, 1.0));
        let two = Losses::fit(&[point(100.0, 120.0), point(300.0, 320.0)], None).unwrap();
        assert!((two.at(500.0) - 520.0).abs() < 1e-9);
        let three = Losses::fit(&[point(100.0, 120.0), point(300.0, 320.0), point(500.0, 900.0)], None).unwrap();
        assert!(three.residual_w > 50.0, "a run off the line widens the band: {three:?}");
        assert!((three.band(300.0).1 - three.at(300.0) - three.residual_w).abs() < 1e-9, "by what the fit misses it by");
        assert!(three.band(0.0).0 >= 0.0);
    }

    #[test]
    fn no_idle_below_nothing() {
        let fitted = Losses::fit(&[point(100.0, 50.0), point(300.0, 350.0)], None).unwrap();
        assert_eq!(fitted.idle_w, 0.0);
        // Through the origin: (100·50 + 300·350)/(100² + 300²) = 1.1 Ω
        assert!((fitted.per_a2_ohm - 1.1).abs() < 1e-9);
    }
}
