//! *The average hides it*: an average rate that says little of what was felt.

use super::by_fact::ByFact;
use super::doubt::Doubt;
use super::evidence::{Evidence, counted};
use super::raised::{Raised, Remedy};
use crate::frame::{AVERAGE_RATE, HITCHES_A_MINUTE, LOW_1, PassesSummed, passes_summed};
use crate::lab::{Lap, LapFacts, LapSeries};
use crate::record::{Digest, LapName, Settings};
use std::collections::BTreeMap;

/// A frame of this length, in seconds, is a stall.
const STALL: f64 = 0.25;
/// Average and median rate that lie further apart say different things.
const APART: f64 = 0.10;
/// Averages no further apart than this are close.
const CLOSE: f64 = 0.05;
/// Lows that lie further apart than this are not.
const LOWS_APART: f64 = 0.10;
/// Hitches a minute that are felt: this many more, and twice as many.
const MORE_HITCHES: f64 = 3.0;

/// Returns what stalling and lopsided passes raise, by workload and rig.
pub(super) fn in_passes<'s>(_: &[&'s LapSeries]) -> ByFact<'s> {
    let says = |_: &Lap<'_>, facts: &LapFacts| {
        let sums = &facts.frames.as_deref()?.sums;
        let stall = (sums.worst > STALL).then_some(sums.worst);
        let off = sums.rate * sums.median - 1.0;
        let lopsided = (off.abs() > APART).then_some((sums.rate, 1.0 / sums.median));
        let any = stall.is_some() || lopsided.is_some();
        any.then_some(Doubt::AverageHides { stall, lopsided })
    };
    ByFact::of(says, |_| Remedy::CompareOtherwise)
}

/// A cell of passes.
struct Passes<'a> {
    rig: &'a str,
    laps: Vec<LapName>,
    summed: PassesSummed,
}

/// Returns what every two rigs raise that run alike on average and not in their lows or hitches.
pub(super) fn across_rigs(evidence: &Evidence<'_>) -> Vec<Raised> {
    let mut found = Vec::new();
    for ((workload, settings), cells) in cells(evidence) {
        for (place, one) in cells.iter().enumerate() {
            for other in &cells[place + 1..] {
                let Some(doubt) = apart(settings, one, other) else { continue };
                found.push(Raised {
                    workload: workload.to_owned(),
                    laps: one.laps.iter().chain(&other.laps).cloned().collect(),
                    doubt,
                    remedy: Remedy::CompareOtherwise,
                });
            }
        }
    }
    found
}

type Cells<'a> = BTreeMap<(&'a str, &'a Settings), Vec<Passes<'a>>>;

fn cells<'a>(evidence: &Evidence<'a>) -> Cells<'a> {
    type Found<'a> = Vec<(LapName, &'a Digest)>;
    let mut passes: BTreeMap<(&str, &Settings, &str), Found<'a>> = BTreeMap::new();
    for run in counted(evidence.series) {
        let Some(digest) = run.alike.frames() else { continue };
        for lap in run.laps() {
            let key = (lap.workload(), lap.settings(), lap.rig());
            passes.entry(key).or_default().push((lap.name(), digest));
        }
    }
    let mut cells: Cells<'a> = BTreeMap::new();
    for ((workload, settings, rig), found) in passes {
        let (laps, digests): (Vec<_>, Vec<_>) = found.into_iter().unzip();
        if let Some(summed) = passes_summed(&digests) {
            cells.entry((workload, settings)).or_default().push(Passes { rig, laps, summed });
        }
    }
    cells
}

/// Returns in what two cells differ whose averages do not.
fn apart(settings: &Settings, one: &Passes<'_>, other: &Passes<'_>) -> Option<Doubt> {
    let value = |passes: &Passes<'_>, name: &str| {
        passes.summed.values.iter().find(|(measure, _)| measure.name == name).map(|(_, v)| *v)
    };
    let both = |name: &str| Some((value(one, name)?, value(other, name)?));
    let (a, b) = both(AVERAGE_RATE)?;
    let apart = a.max(b) / a.min(b) - 1.0;
    if apart > CLOSE {
        return None;
    }
    let lows = both(LOW_1).filter(|(a, b)| a.max(*b) / a.min(*b) - 1.0 > LOWS_APART);
    let hitches = both(HITCHES_A_MINUTE)
        .filter(|(a, b)| (a - b).abs() >= MORE_HITCHES && a.max(*b) >= 2.0 * a.min(*b));
    let rigs = (one.rig.to_owned(), other.rig.to_owned());
    let settings = settings.clone();
    let any = lows.is_some() || hitches.is_some();
    any.then_some(Doubt::AveragesHide { rigs, settings, apart, lows, hitches })
}

#[cfg(test)]
mod tests {
    use super::super::testing::Lab;
    use super::*;
    use crate::record::{Against, Cut, Pass};

    fn digest(shown: Vec<u64>) -> Option<Box<Digest>> {
        let pass = Pass { shown, ..Pass::default() };
        Digest::of(&pass, &Cut::default(), Against::default()).map(Box::new)
    }

    #[test]
    fn a_stall_and_an_average_off_the_median_are_told() {
        let mut lab = Lab::default().session("heron-1", &[1.0, 1.0, 1.0]);
        let mut stall = vec![16_667_000; 2_995];
        (1..=5).for_each(|i| stall.insert(i * 500, 251_000_000));
        lab.facts("heron-1.1").frames = digest(vec![16_667_000; 3_000]);
        lab.facts("heron-1.2").frames = digest(stall);
        let found = lab.found_in_facts(in_passes);
        assert_eq!((found.len(), found[0].laps.len()), (1, 1));
        let Doubt::AverageHides { stall, lopsided } = found[0].doubt else { panic!("{found:?}") };
        assert_eq!((stall, lopsided), (Some(0.251), None));
        assert_eq!(found[0].laps[0].to_string(), "heron-1.2");
        lab.facts("heron-1.2").frames =
            digest([vec![8_000_000; 2_000], vec![24_000_000; 1_000]].concat());
        let found = lab.found_in_facts(in_passes);
        let Doubt::AverageHides { lopsided, .. } = found[0].doubt else { panic!("{found:?}") };
        let (average, median) = lopsided.unwrap();
        assert!((average - 75.0).abs() < 1e-9 && (median - 125.0).abs() < 1e-9);
    }

    #[test]
    fn equal_averages_with_unlike_lows_are_told() {
        let mut lab = Lab::default().session("heron-1", &[1.0]).session("wren-1", &[1.0]);
        lab.facts("heron-1.1").frames = digest(vec![16_000_000; 3_000]);
        lab.facts("wren-1.1").frames =
            digest([vec![15_500_000; 2_940], vec![38_000_000; 60]].concat());
        let found = lab.found(across_rigs);
        assert_eq!(found.len(), 1);
        let Doubt::AveragesHide { rigs, lows, .. } = &found[0].doubt else { panic!("{found:?}") };
        let (heron, wren) = lows.unwrap();
        assert!((heron - 62.5).abs() < 0.05 && (wren - 26.3).abs() < 0.05, "{found:?}");
        assert_eq!((rigs.0.as_str(), rigs.1.as_str()), ("heron", "wren"));
        lab.facts("wren-1.1").frames = digest(vec![16_100_000; 3_000]);
        assert_eq!(lab.found(across_rigs), []);
    }
}
