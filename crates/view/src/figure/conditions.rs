//! What the machine did over one lap.

use super::rate_profile::{Row, mean, most, per_cent, strips, sum, unit_of_time};
use crate::chart::{Beside, ConditionsFigure, CoreBand, PartSpan};
use crate::number::percent;
use crate::words::{lap_of, limited_words};
use honest_lap_core::lab::{LapFacts, limit};
use honest_lap_core::record::{LapPage, Quantity, Trace, Traces};
use honest_lap_core::unit::Nanos;

/// Looks that a figure can show; of more, neighbours are one.
const LOOKS: usize = 400;
/// Levels of use that a reader can tell apart: neighbours of one level are drawn as one.
const LEVELS: f64 = 10.0;

/// Returns the figure of a lap on a machine of `threads`; `None` where nothing was seen of it.
pub fn conditions(page: &LapPage, threads: Option<u32>) -> Option<ConditionsFigure> {
    let traces = page.body.traces.clone().thinned(LOOKS);
    // The last look is behind the end of a lap that was timed; what was captured elsewhere ends with its last.
    let looked = *traces.at_ms.last()? as f64 / 1e3;
    let wall = page.head.wall.map_or(looked, Nanos::seconds);
    let (time, each) = unit_of_time(wall);
    let facts = LapFacts::of(&page.body);
    let limited = limit(&facts, page.head.wall, threads);
    let sampled = &facts.conditions.sampled;
    let used = sampled.busiest_core.map(|share| format!("busiest core {} in use", percent(share)));
    let known = [limited.as_ref().map(limited_words), used];
    let known: Vec<String> = known.into_iter().flatten().collect();
    let finding = match known.is_empty() {
        true => "nothing stands out that limited it".to_owned(),
        false => known.join("; "),
    };
    let of = lap_of(&page.head.workload, &page.head.settings);
    Some(ConditionsFigure {
        title: format!("{} of {of}: what the machine did", page.head.name),
        finding,
        time,
        end: wall.max(looked) / each,
        parts: parts(page, each),
        marks: marks(page, each),
        cores: cores(&traces, each),
        beside: beside(&traces, each),
    })
}

/// What is drawn below the cores, in this order, where anything is known of it.
const BESIDE: [Row; 9] = [
    ("clock, MHz", Quantity::CoreClock, mean),
    ("hottest part, °C", Quantity::Temperature, most),
    ("fan, rpm", Quantity::Fan, most),
    ("graphics use, %", Quantity::GraphicsUse, |values| 100.0 * most(values)),
    ("graphics memory, MB", Quantity::GraphicsMemory, |values| sum(values) / 1e6),
    ("power, W", Quantity::Power, sum),
    ("swap in use, MB", Quantity::SwapUsed, |values| sum(values) / 1e6),
    ("battery, % of full", Quantity::Charge, per_cent),
    ("from the battery, W", Quantity::BatteryPower, sum),
];

/// Returns what sensors and outside meters told; a swap that is not used says nothing.
fn beside(traces: &Traces, each: f64) -> Vec<Beside> {
    let mut all = strips(traces, each, &BESIDE);
    all.retain(|strip| !strip.name.starts_with("swap") || strip.points.iter().any(|p| p.1 > 0.0));
    all.extend(traces.of(Quantity::Meter).map(|meter| {
        let at = traces.at_ms.iter().map(|&ms| ms as f64 / 1e3 / each);
        let points = at.zip(meter.values.iter()).filter_map(|(at, value)| Some((at, value?)));
        Beside { name: format!("{}, {}", meter.which, meter.unit), points: points.collect() }
    }));
    all
}

/// Returns the use of every core, look by look.
fn cores(traces: &Traces, each: f64) -> Vec<CoreBand> {
    let at = |look: usize| traces.at_ms[look] as f64 / 1e3 / each;
    let band = |trace: &Trace| {
        let mut uses: Vec<(f64, f64, f64)> = Vec::new();
        // A look tells what was used since the one before.
        for look in 1..traces.at_ms.len() {
            let Some(share) = trace.values.get(look) else { continue };
            let share = (share * LEVELS).round() / LEVELS;
            let span = (at(look - 1), at(look));
            match uses.last_mut().filter(|last| last.1 == span.0 && last.2 == share) {
                Some(last) => last.1 = span.1,
                None => uses.push((span.0, span.1, share)),
            }
        }
        CoreBand { name: trace.which.clone(), uses }
    };
    traces.of(Quantity::CoreUse).map(band).collect()
}

/// Returns the lap's parts: each begins where the one before it ended, and the last ended with the lap.
fn parts(page: &LapPage, each: f64) -> Vec<PartSpan> {
    let Some((splits, wall)) = page.task.splits.as_ref().zip(page.head.wall) else {
        return Vec::new();
    };
    let mut end = wall.seconds();
    let mut all = Vec::new();
    for rule in splits.parts.iter().rev() {
        let Some(time) = page.head.yielded(&rule.part) else { return Vec::new() };
        let begin = (end - time).max(0.0);
        all.push(PartSpan { name: rule.part.clone(), span: (begin / each, end / each) });
        end = begin;
    }
    all.reverse();
    all
}

/// Returns when marks were set, by the frames ahead of which they were.
fn marks(page: &LapPage, each: f64) -> Vec<(f64, String)> {
    let Some(pass) = &page.body.pass else { return Vec::new() };
    let at = |frame: u64| {
        let ahead = usize::try_from(frame).unwrap_or(usize::MAX).min(pass.pass.shown.len());
        pass.pass.shown[..ahead].iter().map(|&time| time as f64).sum::<f64>() / 1e9 / each
    };
    pass.about.marks.iter().map(|mark| (at(mark.frame), mark.name.clone())).collect()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn equal_looks_are_one_stretch_and_an_unknown_one_is_left_out() {
        let values = [None, Some(1.0), Some(0.98), None, Some(0.2)];
        let trace = Trace {
            quantity: Quantity::CoreUse,
            which: "3".into(),
            unit: String::new(),
            values: values.into_iter().collect(),
        };
        let traces = Traces { at_ms: vec![0, 500, 1_000, 1_500, 2_000], channels: vec![trace] };
        let bands = cores(&traces, 1.0);
        assert_eq!(bands[0].uses, [(0.0, 1.0, 1.0), (1.5, 2.0, 0.2)]);
    }
}
