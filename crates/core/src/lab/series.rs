//! Laps in series: those of one form of a task and one variant in one session. Whatever holds for all laps of a series is
//! there once, and what differs from lap to lap in columns.

use super::alike::Alike;
use super::columns::{Columns, Each, Stretch};
use super::details::{Details, OwnRow, PARTS};
use super::facts::{Known, KnownLap, LapFacts};
use crate::record::{
    LapHead, LapName, NumberRows, Reading, SessionName, Settings, TIME, Yield, as_real,
};
use crate::unit::Nanos;
use std::ops::{Deref, Range};
use std::sync::Arc;

/// A series of laps, in the order run.
#[derive(Clone, Debug, PartialEq)]
pub struct LapSeries {
    /// The workload.
    pub workload: String,
    /// The form of its task.
    pub task: u32,
    /// The session.
    pub session: SessionName,
    /// The variant.
    pub settings: Settings,
    /// Its laps, counted or not; whoever has the series under another name has the same.
    pub(super) laps: Arc<Columns>,
}

impl LapSeries {
    /// Returns the workload, rig and variant that it is of.
    pub(crate) fn cell(&self) -> (&str, &str, &Settings) {
        (&self.workload, &self.session.rig, &self.settings)
    }

    /// Returns how many laps it has.
    pub fn len(&self) -> usize {
        self.laps.times.len()
    }

    /// Returns whether it has none.
    pub fn is_empty(&self) -> bool {
        self.len() == 0
    }

    /// Returns whether any lap of it enters sums.
    pub fn counts(&self) -> bool {
        self.runs().any(|run| run.counts())
    }

    /// Returns its laps in the order run.
    pub fn laps(&self) -> impl Iterator<Item = Lap<'_>> {
        self.laps.each().map(|each| self.lap_of(each))
    }

    /// Returns its laps likewise, those together that are alike.
    pub fn runs(&self) -> impl Iterator<Item = Run<'_>> {
        self.laps.runs().map(|(places, run)| self.run_of(places, run))
    }

    /// Returns the values of the measure `name` that enter sums, in the order run.
    pub fn values(&self, name: &str) -> Vec<f64> {
        let mut all = Vec::new();
        self.runs().for_each(|run| run.add_values(name, &mut all));
        all
    }

    /// Returns its lap of that number.
    pub fn lap(&self, number: u32) -> Option<Lap<'_>> {
        let place = self.laps.times.place_of(number)?;
        let (places, run) = self.laps.run_at(place)?;
        Some(self.run_of(places, run).at(place))
    }

    fn run_of<'l>(&'l self, places: Range<u32>, run: &'l Stretch) -> Run<'l> {
        Run { series: self, places, alike: &run.alike, own: &run.own }
    }

    fn lap_of<'l>(&'l self, each: Each<'l>) -> Lap<'l> {
        let Each { number, round, wall, alike, own } = each;
        Lap { series: self, number, round, wall: alike.is_timed.then_some(wall), alike, own }
    }
}

/// Laps of a series, one after the other, that are alike.
#[derive(Clone, Debug)]
pub struct Run<'l> {
    series: &'l LapSeries,
    places: Range<u32>,
    /// What they have in common.
    pub alike: &'l Alike,
    own: &'l NumberRows,
}

impl<'l> Run<'l> {
    /// Returns the rig.
    pub fn rig(&self) -> &'l str {
        &self.series.session.rig
    }

    /// Returns how many they are.
    pub fn len(&self) -> usize {
        self.places.len()
    }

    /// Returns whether they are none.
    pub fn is_empty(&self) -> bool {
        self.places.is_empty()
    }

    /// Returns whether they enter sums.
    pub fn counts(&self) -> bool {
        self.yields().counts()
    }

    /// Returns what sums read of the first of them: the others have the same measures, each its own values.
    pub fn yields(&self) -> Yield<'l> {
        self.at(self.places.start).yields()
    }

    /// Adds their values of the measure `name` that enter sums to `all`.
    pub fn add_values(&self, name: &str, all: &mut Vec<f64>) {
        self.each_value(name, |value| all.push(value));
    }

    /// Adds the same to `all`, each with its round.
    pub(crate) fn add_values_by_round(&self, name: &str, all: &mut Vec<(u32, f64)>) {
        let mut rounds = self.places.clone().map(|place| self.series.laps.times.round(place));
        self.each_value(name, |value| all.extend(rounds.next().map(|round| (round, value))));
    }

    /// Has `each` look at their values of the measure `name` that enter sums.
    fn each_value(&self, name: &str, mut each: impl FnMut(f64)) {
        let first = self.yields();
        if first.value(name).is_none() {
            return;
        }
        let all = 0..self.own.len();
        match (name == TIME, first.parts) {
            (true, None) => {
                let times = &self.series.laps.times;
                times.each_wall(self.places.clone(), |wall| each(wall.seconds()));
            }
            (true, Some(_)) => self.own.each(all, PARTS, |parts| each(Nanos(parts).seconds())),
            (false, _) => {
                if let Some(column) = first.readings.column(name) {
                    self.own.each(all, column, |value| each(as_real(value)));
                }
            }
        }
    }

    /// Has `each` look at them one by one with what is known of each, where anything but their times is.
    pub fn each_known(&self, mut each: impl FnMut(Lap<'l>, &LapFacts)) {
        if self.alike.is_bare() {
            return;
        }
        let mut details: Option<Details> = None;
        for lap in self.laps() {
            match &mut details {
                None => details = Some(self.alike.details(lap.own)),
                // What they have in common stays where it is.
                Some(details) => details.put_own(lap.own),
            }
            details.iter().for_each(|details| each(lap, &details.facts));
        }
    }

    /// Returns them one by one.
    pub fn laps(&self) -> impl Iterator<Item = Lap<'l>> + use<'l> {
        let run = self.clone();
        self.places.clone().map(move |place| run.at(place))
    }

    /// Returns the lap at `place` of the series, which is one of them.
    fn at(&self, place: u32) -> Lap<'l> {
        let Self { series, alike, own: rows, .. } = *self;
        let (number, round, wall) = series.laps.times.at(place);
        let own = OwnRow { rows, place: place - self.places.start };
        series.lap_of(Each { number, round, wall, alike, own })
    }
}

/// A lap, where it lies in its series.
#[derive(Clone, Copy, Debug)]
pub struct Lap<'l> {
    /// The series.
    pub series: &'l LapSeries,
    /// Its place in the order run in its session, from 1.
    pub number: u32,
    /// Which round of the order it belongs to, from 1.
    pub round: u32,
    /// Time from start to reap; `None` if nothing was started.
    pub wall: Option<Nanos>,
    /// Everything else that is known of it, without the numbers that it has of its own.
    pub alike: &'l Alike,
    own: OwnRow<'l>,
}

impl Deref for Lap<'_> {
    type Target = Alike;
    fn deref(&self) -> &Alike {
        self.alike
    }
}

impl<'l> Lap<'l> {
    /// Returns its name.
    pub fn name(&self) -> LapName {
        LapName { session: self.series.session.clone(), number: self.number }
    }

    /// Returns the rig.
    pub fn rig(&self) -> &'l str {
        &self.series.session.rig
    }

    /// Returns the session.
    pub fn session(&self) -> &'l SessionName {
        &self.series.session
    }

    /// Returns the workload.
    pub fn workload(&self) -> &'l str {
        &self.series.workload
    }

    /// Returns the variant.
    pub fn settings(&self) -> &'l Settings {
        &self.series.settings
    }

    /// Returns what sums read of it.
    pub fn yields(&self) -> Yield<'l> {
        self.alike.yields(self.wall, self.own)
    }

    /// Returns what was read from it.
    pub fn readings(&self) -> Vec<Reading> {
        self.alike.details(self.own).readings
    }

    /// Returns what is known of it besides its head.
    pub fn facts(&self) -> LapFacts {
        self.alike.details(self.own).facts
    }

    /// Returns it by itself, with what is known of it.
    pub fn known(&self) -> KnownLap {
        let Known { parts, readings, facts } = self.alike.common.known(self.own);
        let Alike { warm_up, outcome, step, set_aside, .. } = self.alike.clone();
        let LapSeries { workload, task, settings, .. } = self.series.clone();
        let (name, Self { round, wall, .. }) = (self.name(), *self);
        let head = LapHead {
            name,
            workload,
            settings,
            task,
            round,
            warm_up,
            outcome,
            wall,
            parts,
            step,
            readings,
            set_aside,
        };
        KnownLap { head, facts }
    }

    /// Returns it by itself, without what else is known of it.
    pub fn head(&self) -> LapHead {
        self.known().head
    }
}
