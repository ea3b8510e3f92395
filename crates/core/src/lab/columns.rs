//! What laps of a series have each: times in columns, and of laps that are alike what they have in common once, and numbers in
//! rows.

use super::alike::{Alike, Common};
use super::details::OwnRow;
use super::facts::KnownLap;
use super::lap_details::{DetailsOfLap, LapDetails};
use super::lap_times::LapTimes;
use crate::record::{LapHead, NumberRows};
use crate::unit::Nanos;
use std::ops::Range;
use std::sync::Arc;

/// What laps of a series have each.
#[derive(Clone, Debug, Default, PartialEq)]
pub(super) struct Columns {
    pub(super) times: LapTimes,
    runs: Vec<Stretch>,
}

/// Laps one after the other that are alike.
#[derive(Clone, Debug)]
pub(super) struct Stretch {
    /// Where they end.
    end: u32,
    /// What they have in common.
    pub(super) alike: Alike,
    /// What each of them has of its own.
    pub(super) own: NumberRows,
}

impl PartialEq for Stretch {
    fn eq(&self, other: &Self) -> bool {
        self.end == other.end && self.alike.is(&other.alike) && self.own == other.own
    }
}

impl Columns {
    /// Adds a lap behind the others.
    pub(super) fn push(&mut self, lap: KnownLap) {
        let LapHead { round, wall, .. } = lap.head;
        self.times.push(lap.head.name.number, round, wall.unwrap_or(Nanos(0)));
        let (alike, own) = Alike::of(lap, self.common());
        self.stretch_to_here(alike).push(&own);
    }

    /// Adds a lap behind the others of which `details` are known besides its head.
    pub(super) fn push_with(&mut self, head: &LapHead, details: DetailsOfLap<'_>) {
        self.times.push(head.name.number, head.round, head.wall.unwrap_or(Nanos(0)));
        let own: Vec<u64> = details.own.rows.row(details.own.place).collect();
        self.stretch_to_here(Alike::with(head, details.common)).push(&own);
    }

    /// Adds laps that differ from `one` of them in nothing but their times.
    pub(super) fn push_alike(&mut self, one: KnownLap, laps: &LapTimes) {
        self.times.append(laps);
        let (alike, own) = Alike::of(one, self.common());
        self.stretch_to_here(alike).push_times(&own, laps.len() as u32);
    }

    /// Adds laps that differ from `one` of them in nothing but their times and these details.
    pub(super) fn push_detailed(&mut self, one: &LapHead, laps: &LapTimes, details: &LapDetails) {
        let before = self.times.len() as u32;
        self.times.append(laps);
        let end = self.times.len() as u32;
        for (to, common, own) in details.runs() {
            self.stretch_to((before + to).min(end), Alike::with(one, common)).append(own);
        }
    }

    /// Returns what is known of the last of them besides its times.
    fn common(&self) -> Option<&Arc<Common>> {
        self.runs.last().map(|last| &last.alike.common)
    }

    /// Has the laps up to here that are of no run yet be alike; returns where what each of them has of its own belongs.
    fn stretch_to_here(&mut self, alike: Alike) -> &mut NumberRows {
        self.stretch_to(self.times.len() as u32, alike)
    }

    fn stretch_to(&mut self, end: u32, alike: Alike) -> &mut NumberRows {
        if !self.runs.last().is_some_and(|last| last.alike.is(&alike)) {
            self.runs.push(Stretch { end, alike, own: NumberRows::default() });
        }
        let last = self.runs.len() - 1;
        self.runs[last].end = end;
        &mut self.runs[last].own
    }

    /// Lets go of room that is not needed any more, and puts laps into the order run that came in another.
    pub(super) fn settle(&mut self) {
        if !self.times.are_in_order() {
            let mut all: Vec<Each<'_>> = self.each().collect();
            all.sort_by_key(|each| each.number);
            let mut sorted = Self::default();
            for Each { number, round, wall, alike, own } in all {
                sorted.times.push(number, round, wall);
                let row: Vec<u64> = own.rows.row(own.place).collect();
                sorted.stretch_to_here(alike.clone()).push(&row);
            }
            *self = sorted;
        }
        self.times.shrink();
        self.runs.shrink_to_fit();
        self.runs.iter_mut().for_each(|run| run.own.shrink());
    }

    /// Returns runs of laps that are alike, each with its places.
    pub(super) fn runs(&self) -> impl Iterator<Item = (Range<u32>, &Stretch)> {
        let begin = |place: usize| place.checked_sub(1).map_or(0, |before| self.runs[before].end);
        self.runs.iter().enumerate().map(move |(place, run)| (begin(place)..run.end, run))
    }

    /// Returns the run that the lap at `place` is of.
    pub(super) fn run_at(&self, place: u32) -> Option<(Range<u32>, &Stretch)> {
        let at = self.runs.partition_point(|run| run.end <= place);
        let begin = at.checked_sub(1).map_or(0, |before| self.runs[before].end);
        self.runs.get(at).map(|run| (begin..run.end, run))
    }

    /// Returns every lap.
    pub(super) fn each(&self) -> impl Iterator<Item = Each<'_>> {
        let own = self.runs().flat_map(|(of, run)| {
            (0..of.len() as u32).map(|place| (&run.alike, OwnRow { rows: &run.own, place }))
        });
        let each = |((number, round, wall), (alike, own))| Each { number, round, wall, alike, own };
        self.times.iter().zip(own).map(each)
    }
}

/// A lap of a series, without what it is of.
pub(super) struct Each<'l> {
    pub(super) number: u32,
    pub(super) round: u32,
    pub(super) wall: Nanos,
    pub(super) alike: &'l Alike,
    pub(super) own: OwnRow<'l>,
}
