//! Many tests at once.

/// Returns p values adjusted so that the chance of any false finding among all of them stays at the
/// level at which each is read.
///
/// ```text
/// p₍₁₎ ≤ … ≤ p₍ₘ₎        adjusted p₍ᵢ₎ = max over j ≤ i of min(1, (m − j + 1)·p₍ⱼ₎)
/// ```
/// * Shape: `p` holds any number of p values; the result stands in their order. O(n log n).
/// * Units: none.
/// * Source: Holm (1979), <https://www.jstor.org/stable/4615733>.
pub fn holm(p: &[f64]) -> Vec<f64> {
    let mut order: Vec<usize> = (0..p.len()).collect();
    order.sort_by(|&a, &b| p[a].total_cmp(&p[b]));
    let mut adjusted = vec![0.0; p.len()];
    let mut largest: f64 = 0.0;
    for (place, &index) in order.iter().enumerate() {
        largest = largest.max((p.len() - place) as f64 * p[index]).min(1.0);
        adjusted[index] = largest;
    }
    adjusted
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_smallest_pays_for_all_and_none_falls_behind_a_smaller_one() {
        // 0.01·3, then 0.02·2, then 0.03·1, which may not lie below 0.04.
        assert_eq!(holm(&[0.03, 0.01, 0.02]), [0.04, 0.03, 0.04]);
        assert_eq!(holm(&[0.7, 0.8]), [1.0, 1.0]);
        assert_eq!(holm(&[0.04]), [0.04]);
        assert_eq!(holm(&[]), Vec::<f64>::new());
    }
}
