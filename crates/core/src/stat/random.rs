//! Noise that is the same on every machine. Seeds come in; none is made here.

/// The SplitMix64 generator: small, well mixed, and repeatable.
///
/// Source: Steele, Lea and Flood (2014), <https://doi.org/10.1145/2660193.2660195>.
#[derive(Clone, Debug)]
pub struct SplitMix(u64);

impl SplitMix {
    /// Returns the generator of `seed`.
    pub fn new(seed: u64) -> Self {
        Self(seed)
    }

    /// Returns the next 64 bits.
    pub fn bits(&mut self) -> u64 {
        self.0 = self.0.wrapping_add(0x9e37_79b9_7f4a_7c15);
        let mut z = self.0;
        z = (z ^ (z >> 30)).wrapping_mul(0xbf58_476d_1ce4_e5b9);
        z = (z ^ (z >> 27)).wrapping_mul(0x94d0_49bb_1331_11eb);
        z ^ (z >> 31)
    }

    /// Returns a whole number below `bound`, all equally likely; 0 if `bound` is 0.
    pub fn below(&mut self, bound: u64) -> u64 {
        if bound == 0 {
            return 0;
        }
        // Values of the last, short cycle would favour small numbers: they are drawn again.
        let unfair = u64::MAX - u64::MAX % bound;
        loop {
            let value = self.bits();
            if value < unfair {
                return value % bound;
            }
        }
    }

    /// Returns a number from 0 up to 1, evenly spread.
    pub fn unit(&mut self) -> f64 {
        (self.bits() >> 11) as f64 / (1u64 << 53) as f64
    }

    /// Returns a number of mean 0 and standard deviation 1, normally spread.
    ///
    /// Source: Box and Muller (1958), <https://doi.org/10.1214/aoms/1177706645>.
    pub fn normal(&mut self) -> f64 {
        let (u, v) = (1.0 - self.unit(), self.unit());
        (-2.0 * u.ln()).sqrt() * (std::f64::consts::TAU * v).cos()
    }

    /// Puts `items` into an order in which every order is equally likely.
    ///
    /// Source: Fisher and Yates's shuffle, as in Knuth, *Seminumerical Algorithms*, 3.4.2 P.
    pub fn shuffle<T>(&mut self, items: &mut [T]) {
        for last in (1..items.len()).rev() {
            items.swap(last, self.below(last as u64 + 1) as usize);
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn repeats_the_published_sequence() {
        // The first values of seed 1234567, as published with the reference implementation.
        let mut random = SplitMix::new(1_234_567);
        let found: Vec<u64> = (0..3).map(|_| random.bits()).collect();
        assert_eq!(
            found,
            [6_457_827_717_110_365_317, 3_203_168_211_198_807_973, 9_817_491_932_198_370_423]
        );
    }

    #[test]
    fn numbers_are_spread_as_they_say() {
        let mut random = SplitMix::new(1);
        let n = 20_000;
        let normal: Vec<f64> = (0..n).map(|_| random.normal()).collect();
        let mean = normal.iter().sum::<f64>() / f64::from(n);
        let variance = normal.iter().map(|x| (x - mean).powi(2)).sum::<f64>() / f64::from(n);
        // Five standard errors: 5/√n = 0.035 and 5·√(2/n) = 0.05.
        assert!(mean.abs() < 0.035 && (variance - 1.0).abs() < 0.05, "{mean} {variance}");
        assert!((0..n).all(|_| (0.0..1.0).contains(&random.unit())));
        assert!((0..n).all(|_| random.below(7) < 7));
        assert_eq!(random.below(0), 0);
    }
}
