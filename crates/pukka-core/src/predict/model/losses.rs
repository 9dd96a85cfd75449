//! What an amplifier turns into heat: idle + k · Iout².

/// One steady run: its outputs' current squared, summed, and what it lost.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct LossPoint {
    /// Σ Iout² over the outputs, A².
    pub squared_a2: f64,
    /// Vend · I − Pout, watts.
    pub loss_w: f64,
}

/// Losses, and how well they are known.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Losses {
    /// With no tone, watts.
    pub idle_w: f64,
    /// For each A² of output current, ohms.
    pub per_a2_ohm: f64,
    /// How far a loss may be off, of it.
    pub relative: f64,
    /// How far the fit misses the worst of its runs, watts: a loss may be off by that as well.
    pub residual_w: f64,
    /// The hardest run: past it the losses may as well grow with the current itself.
    pub hardest: LossPoint,
    /// It stands on that run alone.
    pub alone: bool,
}

/// How far a loss may be off, of it: from one run, from two, and from more.
const FROM_ONE: f64 = 0.35;
const FROM_TWO: f64 = 0.20;
const AT_LEAST: f64 = 0.10;

impl Losses {
    /// Fits idle and k by least squares; an idle reading counts as a point of its own. Nothing from no runs.
    #[must_use]
    pub fn fit(runs: &[LossPoint], idle_w: Option<f64>) -> Option<Self> {
        let hardest = runs.iter().max_by(|a, b| a.squared_a2.total_cmp(&b.squared_a2))?;
        let mut points = runs.to_vec();
        points.extend(idle_w.map(|loss_w| LossPoint { squared_a2: 0.0, loss_w }));
        let fitted = line(&points);
        let (idle, per_a2_ohm) = fitted.unwrap_or((0.0, hardest.loss_w.max(0.0) / hardest.squared_a2));
        let relative = match runs.len() {
            1 => FROM_ONE,
            2 => FROM_TWO,
            _ => AT_LEAST,
        };
        let missed = |run: &LossPoint| (idle + per_a2_ohm * run.squared_a2 - run.loss_w).abs();
        let residual_w = runs.iter().map(missed).fold(0.0, f64::max);
        Some(Self { idle_w: idle, per_a2_ohm, relative, residual_w, hardest: *hardest, alone: fitted.is_none() })
    }

    /// Losses at an output current, watts.
    #[must_use]
    pub fn at(&self, squared_a2: f64) -> f64 {
        self.idle_w + self.per_a2_ohm * squared_a2
    }

    /// Least and most losses at an output current, watts. One run cannot tell losses that grow with the current (class AB)
    /// from those that grow with its square, and nor can any past the hardest: both are inside.
    #[must_use]
    pub fn band(&self, squared_a2: f64) -> (f64, f64) {
        let square = self.at(squared_a2);
        let unsure = self.alone || squared_a2 > self.hardest.squared_a2;
        let linear = if unsure { self.hardest.loss_w * (squared_a2 / self.hardest.squared_a2).sqrt() } else { square };
        let off = |loss_w: f64| (self.relative * loss_w).max(self.residual_w);
        let (least, most) = (square.min(linear), square.max(linear));
        ((least - off(least)).max(0.0), most + off(most))
    }
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
    if idle >= 0.0 {
        return Some((idle, slope));
    }
    let squares: f64 = points.iter().map(|p| p.squared_a2 * p.squared_a2).sum();
    Some((0.0, (points.iter().map(|p| p.squared_a2 * p.loss_w).sum::<f64>() / squares).max(0.0)))
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
        assert_eq!((one.idle_w, one.per_a2_ohm, one.relative), (0.0, 1.2, 0.35));
        // Four times the current squared: 480 W by the square, 240 W by the current.
        assert_eq!(one.band(400.0), (240.0 * 0.65, 480.0 * 1.35));
        // An idle reading of 20 W is a second point: k = (120 − 20)/100 = 1 Ω.
        let idle = Losses::fit(&[point(100.0, 120.0)], Some(20.0)).unwrap();
        assert!((idle.idle_w - 20.0).abs() < 1e-9 && (idle.per_a2_ohm - 1.0).abs() < 1e-9);
        let two = Losses::fit(&[point(100.0, 120.0), point(300.0, 320.0)], None).unwrap();
        assert!((two.at(500.0) - 520.0).abs() < 1e-9 && two.relative == 0.20);
        assert!((two.band(250.0).0 - 270.0 * 0.8).abs() < 1e-9 && (two.band(250.0).1 - 270.0 * 1.2).abs() < 1e-9, "two tell them apart");
        // Past the hardest, 320 W at 300 A²: 520 W by the square, 320 · √(500/300) = 413.1 W by the current.
        assert!((two.band(500.0).1 - 624.0).abs() < 1e-9 && (two.band(500.0).0 - 413.118 * 0.8).abs() < 0.01);
        let three = Losses::fit(&[point(100.0, 120.0), point(300.0, 320.0), point(500.0, 900.0)], None).unwrap();
        assert!(three.residual_w > 50.0 && three.relative == 0.10, "a run off the line widens the band: {three:?}");
        assert!((three.band(300.0).1 - three.at(300.0) - three.residual_w).abs() < 1e-9, "by what the fit misses it by");
    }

    #[test]
    fn no_idle_below_nothing() {
        let fitted = Losses::fit(&[point(100.0, 50.0), point(300.0, 350.0)], None).unwrap();
        assert_eq!(fitted.idle_w, 0.0);
        // Through the origin: (100·50 + 300·350)/(100² + 300²) = 1.1 Ω
        assert!((fitted.per_a2_ohm - 1.1).abs() < 1e-9);
    }
}
