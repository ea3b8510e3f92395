//! Values in their order.

/// Returns `values`, the least first.
///
/// * Shape: any number of values, in the order of [`f64::total_cmp`]. O(n log n).
/// * Units: those of the values.
pub fn sorted(values: &[f64]) -> Vec<f64> {
    // As whole numbers of the same order they are compared in one step, which is half of the time.
    let mut keys: Vec<i64> =
        values.iter().map(|value| turned(value.to_bits().cast_signed())).collect();
    keys.sort_unstable();
    keys.into_iter().map(|key| f64::from_bits(turned(key).cast_unsigned())).collect()
}

/// Returns the bits of a number such that they lie in its order as a whole number, and these as its bits.
fn turned(bits: i64) -> i64 {
    bits ^ ((bits >> 63).cast_unsigned() >> 1).cast_signed()
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::stat::SplitMix;

    #[test]
    fn they_lie_as_numbers_are_compared() {
        let mut random = SplitMix::new(4);
        let mut values: Vec<f64> = (0..1_000).map(|_| random.normal() * 1e3).collect();
        values.extend([0.0, -0.0, f64::INFINITY, f64::NEG_INFINITY, f64::MIN_POSITIVE, 5.0, 5.0]);
        let mut expected = values.clone();
        expected.sort_by(f64::total_cmp);
        let bits = |values: &[f64]| values.iter().map(|value| value.to_bits()).collect::<Vec<_>>();
        assert_eq!(bits(&sorted(&values)), bits(&expected));
        assert!(sorted(&[]).is_empty());
    }
}
