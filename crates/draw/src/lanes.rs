//! Brackets beside one another: each in the first lane in which it touches no other.

/// Returns each run with its lane, counted from 0.
pub fn lanes(runs: &[(usize, usize)]) -> Vec<(usize, usize, usize)> {
    let mut taken: Vec<Option<usize>> = Vec::new();
    let mut sorted = runs.to_vec();
    sorted.sort_unstable();
    let mut placed = Vec::new();
    for (first, last) in sorted {
        let free = |end: &Option<usize>| end.is_none_or(|end| end < first);
        let lane = taken.iter().position(free).unwrap_or(taken.len());
        match taken.get_mut(lane) {
            Some(end) => *end = Some(last),
            None => taken.push(Some(last)),
        }
        placed.push((first, last, lane));
    }
    placed
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn runs_that_touch_have_lanes_of_their_own() {
        assert_eq!(lanes(&[(3, 4), (0, 2), (2, 3)]), [(0, 2, 0), (2, 3, 1), (3, 4, 0)]);
        assert_eq!(lanes(&[]), []);
    }
}
