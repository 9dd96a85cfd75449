//! Noise that depends on nothing but the seed, who asks, and the tick.

/// Mixes three numbers into one: the finaliser of SplitMix64.
#[must_use]
pub const fn mixed(seed: u64, who: u64, tick: u64) -> u64 {
    let mut z = seed ^ who.wrapping_mul(0x9E37_79B9_7F4A_7C15) ^ tick.wrapping_mul(0xD1B5_4A32_D192_ED03);
    z = (z ^ (z >> 30)).wrapping_mul(0xBF58_476D_1CE4_E5B9);
    z = (z ^ (z >> 27)).wrapping_mul(0x94D0_49BB_1331_11EB);
    z ^ (z >> 31)
}

/// Between 0 and 1, the end left out.
#[must_use]
pub fn uniform(seed: u64, who: u64, tick: u64) -> f64 {
    (mixed(seed, who, tick) >> 11) as f64 / (1u64 << 53) as f64
}

/// About normal, standard deviation 1: twelve uniform ones, less six.
#[must_use]
pub fn normal(seed: u64, who: u64, tick: u64) -> f64 {
    (0..12).map(|i| uniform(seed, who.wrapping_add(i << 32), tick)).sum::<f64>() - 6.0
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_same_tick_gives_the_same_and_the_next_another() {
        assert_eq!(normal(7, 1, 1_000).to_bits(), normal(7, 1, 1_000).to_bits());
        assert_ne!(normal(7, 1, 1_000).to_bits(), normal(7, 1, 1_001).to_bits());
        let many: Vec<f64> = (0..20_000).map(|tick| normal(1, 2, tick)).collect();
        let mean = many.iter().sum::<f64>() / many.len() as f64;
        let spread = (many.iter().map(|x| (x - mean).powi(2)).sum::<f64>() / many.len() as f64).sqrt();
        assert!(mean.abs() < 0.03 && (spread - 1.0).abs() < 0.03, "{mean} {spread}");
    }
}
