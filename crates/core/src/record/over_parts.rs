//! What the counted parts of a lap took, worked out of its looks.

use super::counted::CountedPower;
use super::sampled::Sampled;
use super::trace::{Trace, Traces};
use crate::record::Stretch;

/// Looks that a part must have had, or nothing is said of its power.
const LEAST_LOOKS: usize = 2;

impl CountedPower {
    /// Returns what `traces` come to over `parts`.
    pub fn of(traces: &Traces, parts: &[Stretch]) -> Self {
        let lasted = |part: &Stretch| part.to.minus(part.from).seconds();
        let seconds = parts.iter().map(lasted).sum();
        let inside = traces.within(parts);
        let looks = inside.at_ms.len();
        let found = match looks < LEAST_LOOKS {
            true => Sampled::default(),
            false => Sampled::of(&inside),
        };
        let looks = u32::try_from(looks).unwrap_or(u32::MAX);
        Self { seconds, looks, power_w: found.power_w, meters: found.meters }
    }
}

impl Traces {
    /// Returns the looks that fell into any of `parts`.
    fn within(&self, parts: &[Stretch]) -> Self {
        let is_inside = |ms: u64| {
            let at = ms.saturating_mul(1_000_000);
            parts.iter().any(|part| (part.from.0..part.to.0).contains(&at))
        };
        let kept: Vec<usize> =
            (0..self.at_ms.len()).filter(|&place| is_inside(self.at_ms[place])).collect();
        let channel = |trace: &Trace| Trace {
            quantity: trace.quantity,
            which: trace.which.clone(),
            unit: trace.unit.clone(),
            values: kept.iter().map(|&place| trace.values.get(place)).collect(),
        };
        Self {
            at_ms: kept.iter().map(|&place| self.at_ms[place]).collect(),
            channels: self.channels.iter().map(channel).collect(),
        }
    }
}

#[cfg(test)]
mod tests {
    use super::super::trace::Quantity;
    use super::*;
    use crate::unit::Nanos;

    #[test]
    fn loading_takes_no_part_in_the_power_of_what_counts() {
        // 2 s of loading at 20 W, 3 s of drawing at 80; a wall meter shows 10 more.
        let power = |of: Quantity, which: &str, more: f64| Trace {
            quantity: of,
            which: which.into(),
            unit: if of == Quantity::Meter { "W".into() } else { String::new() },
            values: (0..10).map(|at| Some(more + if at < 4 { 20.0 } else { 80.0 })).collect(),
        };
        let traces = Traces {
            at_ms: (0..10).map(|at| at * 500).collect(),
            channels: vec![
                power(Quantity::Power, "package", 0.0),
                power(Quantity::Meter, "wall", 10.0),
            ],
        };
        let part = |from: u64, to: u64| Stretch {
            from: Nanos(from * 1_000_000),
            to: Nanos(to * 1_000_000),
        };
        let drawing = CountedPower::of(&traces, &[part(2_000, 5_000)]);
        assert_eq!((drawing.seconds, drawing.looks), (3.0, 6));
        assert_eq!(drawing.power_w.map(|course| course.mean), Some(80.0));
        assert_eq!(drawing.meters[0].course.mean, 90.0);
        let whole = CountedPower::of(&traces, &[part(0, 2_000), part(2_000, 5_000)]);
        assert_eq!(whole.power_w.map(|course| course.mean), Some(56.0));
        let short = CountedPower::of(&traces, &[part(2_100, 2_700)]);
        assert_eq!((short.looks, short.power_w), (1, None), "one look says nothing of it");
    }
}
