//! V = Voc − Rout · I of one output: as if it were a source of Voc behind Rout.

/// An output at its clean limit: what one run, or one claim, says of the line.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Point {
    /// Load, ohms.
    pub load_ohm: f64,
    /// Power of the one output, watts.
    pub output_w: f64,
}

impl Point {
    /// Output volts, rms: √(P·R).
    #[must_use]
    pub fn volts(&self) -> f64 {
        (self.output_w * self.load_ohm).sqrt()
    }

    /// Output amps, rms: √(P/R).
    #[must_use]
    pub fn amps(&self) -> f64 {
        (self.output_w / self.load_ohm).sqrt()
    }
}

/// The load line of one output.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct LoadLine {
    /// Volts rms into no load.
    pub open_v: f64,
    /// Output resistance, as the clean limit shows it.
    pub out_ohm: f64,
}

impl LoadLine {
    /// The line through one point, at a known output resistance.
    #[must_use]
    pub fn through(point: Point, out_ohm: f64) -> Self {
        Self { open_v: point.volts() + out_ohm * point.amps(), out_ohm }
    }

    /// Least squares of V against I. A line that rises is no load line: it is taken as flat. Needs two different loads.
    #[must_use]
    pub fn fit(points: &[Point]) -> Option<Self> {
        let n = points.len() as f64;
        let mean_i = points.iter().map(Point::amps).sum::<f64>() / n;
        let mean_v = points.iter().map(Point::volts).sum::<f64>() / n;
        let spread: f64 = points.iter().map(|p| (p.amps() - mean_i).powi(2)).sum();
        if points.len() < 2 || spread <= f64::EPSILON * mean_i * mean_i {
            return None;
        }
        let slope = points.iter().map(|p| (p.amps() - mean_i) * (p.volts() - mean_v)).sum::<f64>() / spread;
        let out_ohm = (-slope).max(0.0);
        Some(Self { open_v: mean_v + out_ohm * mean_i, out_ohm })
    }

    /// P(R) = Voc² · R / (R + Rout)².
    #[must_use]
    pub fn output_w(&self, load_ohm: f64) -> f64 {
        self.open_v * self.open_v * load_ohm / (load_ohm + self.out_ohm).powi(2)
    }

    /// The largest relative miss when each point is predicted from the others; needs three.
    #[must_use]
    pub fn leave_one_out(points: &[Point]) -> Option<f64> {
        if points.len() < 3 {
            return None;
        }
        let misses = (0..points.len()).filter_map(|left_out| {
            let others: Vec<Point> = points.iter().enumerate().filter(|(i, _)| *i != left_out).map(|(_, p)| *p).collect();
            let point = points.get(left_out)?;
            Some((Self::fit(&others)?.output_w(point.load_ohm) / point.output_w - 1.0).abs())
        });
        misses.max_by(f64::total_cmp)
    }
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;

    fn point(load_ohm: f64, output_w: f64) -> Point {
        Point { load_ohm, output_w }
    }

    #[test]
    fn two_runs_worked_by_hand() {
        // 400 W into 4 Ω: 40 V, 10 A. 648 W into 2 Ω: 36 V, 18 A. Rout = 4/8 = 0.5 Ω, Voc = 45 V.
        let line = LoadLine::fit(&[point(4.0, 400.0), point(2.0, 648.0)]).unwrap();
        assert!((line.open_v - 45.0).abs() < 1e-9 && (line.out_ohm - 0.5).abs() < 1e-9);
        // 45² × 1 / 1.5² = 900 W
        assert!((line.output_w(1.0) - 900.0).abs() < 1e-9);
        assert_eq!(LoadLine::fit(&[point(4.0, 400.0)]), None);
        assert_eq!(LoadLine::fit(&[point(4.0, 400.0), point(4.0, 400.0)]), None, "one load twice is no line");
    }

    #[test]
    fn power_that_more_than_doubles_is_taken_as_a_stiff_output() {
        let line = LoadLine::fit(&[point(4.0, 400.0), point(2.0, 900.0)]).unwrap();
        assert_eq!(line.out_ohm, 0.0);
    }

    proptest! {
        #[test]
        fn what_is_on_a_line_is_found_again(open_v in 10.0f64..150.0, out_ohm in 0.0f64..1.0) {
            let line = LoadLine { open_v, out_ohm };
            let points: Vec<Point> = [8.0, 4.0, 2.0, 1.0].into_iter().map(|r| point(r, line.output_w(r))).collect();
            let found = LoadLine::fit(&points).unwrap();
            prop_assert!((found.open_v / open_v - 1.0).abs() < 1e-9 && (found.out_ohm - out_ohm).abs() < 1e-9);
            prop_assert!(LoadLine::leave_one_out(&points).unwrap() < 1e-9);
            prop_assert!((LoadLine::through(points[1], out_ohm).output_w(2.0) / points[2].output_w - 1.0).abs() < 1e-9);
        }
    }
}
