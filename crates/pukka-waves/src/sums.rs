//! Sums over many samples, several of them side by side: one after another each would wait for the one before.

/// Sums side by side.
const LANES: usize = 8;

/// Σ of something of each sample.
#[must_use]
pub fn sum_of(samples: &[f64], of: impl Fn(f64) -> f64) -> f64 {
    let mut sums = [0.0; LANES];
    let groups = samples.chunks_exact(LANES);
    let rest: f64 = groups.remainder().iter().map(|x| of(*x)).sum();
    for group in groups {
        for lane in 0..LANES {
            sums[lane] += of(group[lane]);
        }
    }
    sums.iter().sum::<f64>() + rest
}

/// Σ a·b, as far as both reach.
#[must_use]
pub fn dot(a: &[f64], b: &[f64]) -> f64 {
    let n = a.len().min(b.len());
    let (a, b) = (&a[..n], &b[..n]);
    let mut sums = [0.0; LANES];
    let (left, right) = (a.chunks_exact(LANES), b.chunks_exact(LANES));
    let rest: f64 = left.remainder().iter().zip(right.remainder()).map(|(a, b)| a * b).sum();
    for (a, b) in left.zip(right) {
        for lane in 0..LANES {
            sums[lane] += a[lane] * b[lane];
        }
    }
    sums.iter().sum::<f64>() + rest
}

/// Mean; 0 of nothing.
#[must_use]
pub fn mean(samples: &[f64]) -> f64 {
    sum_of(samples, |x| x) / samples.len().max(1) as f64
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn as_one_after_another() {
        let a: Vec<f64> = (0..21).map(f64::from).collect();
        assert_eq!((sum_of(&a, |x| x), sum_of(&a, |x| x * x), mean(&a)), (210.0, 2_870.0, 10.0));
        assert_eq!((dot(&a, &a), dot(&a, &a[..3]), mean(&[])), (2_870.0, 5.0, 0.0));
    }
}
