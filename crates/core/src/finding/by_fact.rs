//! Doubts that stand on what is known of a lap by itself, whatever it is held against: all of them in one look at every lap.

use super::doubt::Doubt;
use super::evidence::counted;
use super::raised::{Raised, Remedy};
use crate::lab::{Lap, LapFacts, LapSeries};
use crate::record::LapName;
use std::collections::BTreeMap;

/// What is said of a lap, of which this is known, if anything.
type Says<'s> = dyn Fn(&Lap<'_>, &LapFacts) -> Option<Doubt> + 's;

/// A doubt that stands on facts.
pub(super) struct ByFact<'s> {
    says: Box<Says<'s>>,
    remedy: fn(&str) -> Remedy,
}

impl<'s> ByFact<'s> {
    /// Returns the doubt that `says` has of a lap, and what would resolve it on a rig.
    pub(super) fn of(
        says: impl Fn(&Lap<'_>, &LapFacts) -> Option<Doubt> + 's,
        remedy: fn(&str) -> Remedy,
    ) -> Self {
        Self { says: Box::new(says), remedy }
    }
}

/// Returns the counted laps of one workload and rig of which one of `doubts` says something, as one finding for each: what it
/// says of the first stands for all.
///
/// Of laps of which nothing but their time is known no fact says anything.
pub(super) fn by_facts(series: &[&LapSeries], doubts: &[ByFact<'_>]) -> Vec<Raised> {
    type Found<'a> = BTreeMap<(&'a str, &'a str), BTreeMap<LapName, Doubt>>;
    let mut found: Vec<Found<'_>> = doubts.iter().map(|_| Found::new()).collect();
    for run in counted(series) {
        run.each_known(|lap, facts| {
            for (doubt, found) in doubts.iter().zip(&mut found) {
                if let Some(said) = (doubt.says)(&lap, facts) {
                    let laps = found.entry((lap.workload(), lap.rig())).or_default();
                    laps.insert(lap.name(), said);
                }
            }
        });
    }
    let raised = |doubt: &ByFact<'_>, found: Found<'_>| -> Vec<Raised> {
        let of_rig = |((workload, rig), laps): ((&str, &str), BTreeMap<LapName, Doubt>)| {
            let (laps, said): (Vec<LapName>, Vec<Doubt>) = laps.into_iter().unzip();
            let remedy = (doubt.remedy)(rig);
            let doubt = said.into_iter().next()?;
            Some(Raised { workload: workload.to_owned(), laps, doubt, remedy })
        };
        found.into_iter().filter_map(of_rig).collect()
    };
    doubts.iter().zip(found).flat_map(|(doubt, found)| raised(doubt, found)).collect()
}
