//! Curves of a pass, for drawing: an envelope that keeps every peak, and the slow tail.

/// One column of an envelope: what the frames in a slice of time come to.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Column {
    /// The shortest frame time in it, in seconds.
    pub least: f64,
    /// The longest, in seconds.
    pub most: f64,
    /// Their mean, in seconds.
    pub mean: f64,
}

/// Returns `frames` as `columns` slices of equal length in time. A slice in which no frame ends
/// shows the frame that it is in the midst of, so a stall is as wide as it was long.
///
/// * Shape: frame times in order; `columns` out, or none of no frames. O(n + columns).
/// * Units: nanoseconds in, seconds out.
pub fn envelope(frames: &[u64], columns: usize) -> Vec<Option<Column>> {
    let total: u64 = frames.iter().sum();
    if total == 0 || columns == 0 {
        return Vec::new();
    }
    let place = |moment: u64| {
        let at = u128::from(moment) * columns as u128 / u128::from(total);
        (at as usize).min(columns - 1)
    };
    let mut sums: Vec<Option<(u64, u64, u64, u64)>> = vec![None; columns];
    let mut moment = 0;
    for &frame in frames {
        let (first, last) = (place(moment), place(moment + frame.saturating_sub(1)));
        for column in &mut sums[first..=last] {
            let (least, most, sum, n) = column.unwrap_or((u64::MAX, 0, 0, 0));
            *column = Some((least.min(frame), most.max(frame), sum + frame, n + 1));
        }
        moment += frame;
    }
    let seconds = |ns: u64| ns as f64 / 1e9;
    let column = |(least, most, sum, n): (u64, u64, u64, u64)| Column {
        least: seconds(least),
        most: seconds(most),
        mean: seconds(sum) / n as f64,
    };
    sums.into_iter().map(|sums| sums.map(column)).collect()
}

/// A point of the tail: this share of the frames took at least this long.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct TailPoint {
    /// The share of frames that are as slow or slower.
    pub share: f64,
    /// Frame time, in seconds.
    pub time: f64,
}

/// Returns the frame time over the share of frames that are slower, from all of them to one, at
/// `points` shares evenly apart on a log scale.
///
/// * Shape: frame times in any order; at most `points` points out, shares descending.
/// * Units: nanoseconds in, seconds out.
pub fn tail(frames: &[u64], points: usize) -> Vec<TailPoint> {
    let n = frames.len();
    if n == 0 || points < 2 {
        return Vec::new();
    }
    let mut sorted = frames.to_vec();
    sorted.sort_unstable_by(|a, b| b.cmp(a));
    let decades = (n as f64).log10();
    let mut curve: Vec<TailPoint> = Vec::with_capacity(points);
    let mut last = usize::MAX;
    for point in 0..points {
        let share = 10f64.powf(-decades * point as f64 / (points - 1) as f64);
        let slower = ((share * n as f64).round() as usize).clamp(1, n);
        if slower != last {
            let time = sorted[slower - 1] as f64 / 1e9;
            curve.push(TailPoint { share: slower as f64 / n as f64, time });
            last = slower;
        }
    }
    curve
}

#[cfg(test)]
mod tests {
    use super::*;

    const MS: u64 = 1_000_000;

    #[test]
    fn an_envelope_keeps_every_peak_and_shows_a_stall_as_wide_as_it_was() {
        let mut frames = vec![10 * MS; 10_000];
        (frames[17], frames[8_000]) = (60 * MS, 20_000 * MS);
        let columns = envelope(&frames, 120);
        assert_eq!(columns.len(), 120);
        let most = |column: &Option<Column>| column.unwrap().most;
        assert_eq!(most(&columns[0]), 0.06);
        // 20 s of 120 s are a sixth of the width.
        assert_eq!(columns.iter().filter(|column| most(column) == 20.0).count(), 21);
        assert_eq!(envelope(&[], 10), []);
    }

    #[test]
    fn a_tail_runs_from_all_frames_to_the_slowest() {
        let frames: Vec<u64> = (1..=1_000).map(|ms| ms * MS).collect();
        let curve = tail(&frames, 31);
        assert_eq!(curve[0], TailPoint { share: 1.0, time: 0.001 });
        assert_eq!(curve[10], TailPoint { share: 0.1, time: 0.901 });
        assert_eq!(curve.last(), Some(&TailPoint { share: 0.001, time: 1.0 }));
        assert_eq!(tail(&[5 * MS], 10).len(), 1);
    }
}
