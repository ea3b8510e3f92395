//! Laps in series: those of one form of a task and one variant in one session. Whatever holds for all laps of a series is
//! there once, and what differs from lap to lap in columns.

use super::alike::Alike;
use super::facts::KnownLap;
use super::lap_times::LapTimes;
use crate::record::{LapHead, LapName, SessionName, Settings, TIME, Yield};
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

/// What laps of a series have each.
#[derive(Clone, Debug, Default, PartialEq)]
pub(super) struct Columns {
    times: LapTimes,
    /// Where laps end that are alike, and what they have in common.
    runs: Vec<(u32, Alike)>,
}

impl Columns {
    /// Adds a lap behind the others.
    pub(super) fn push(&mut self, lap: KnownLap) {
        let LapHead { round, wall, .. } = lap.head;
        self.times.push(lap.head.name.number, round, wall.unwrap_or(Nanos(0)));
        self.run_to_here(Alike::of(lap));
    }

    /// Adds laps that are alike.
    pub(super) fn push_alike(&mut self, alike: Alike, laps: &LapTimes) {
        self.times.append(laps);
        self.run_to_here(alike);
    }

    /// Has the laps up to here that are of no run yet be alike.
    fn run_to_here(&mut self, alike: Alike) {
        let end = self.times.len() as u32;
        match self.runs.last_mut() {
            Some((to, last)) if last.is(&alike) => *to = end,
            _ => self.runs.push((end, alike)),
        }
    }

    /// Lets go of room that is not needed any more, and puts laps into the order run that came in another.
    pub(super) fn settle(&mut self) {
        if !self.times.are_in_order() {
            let mut all: Vec<(u32, u32, Nanos, &Alike)> = self.each().collect();
            all.sort_by_key(|(number, ..)| *number);
            let mut sorted = Self::default();
            for same in all.chunk_by(|a, b| std::ptr::eq(a.3, b.3)) {
                same.iter().for_each(|&(n, round, wall, _)| sorted.times.push(n, round, wall));
                sorted.run_to_here(same[0].3.clone());
            }
            *self = sorted;
        }
        self.times.shrink();
        self.runs.shrink_to_fit();
    }

    fn runs(&self) -> impl Iterator<Item = (Range<u32>, &Alike)> {
        let begin = |place: usize| place.checked_sub(1).map_or(0, |before| self.runs[before].0);
        self.runs.iter().enumerate().map(move |(place, (to, alike))| (begin(place)..*to, alike))
    }

    fn each(&self) -> impl Iterator<Item = (u32, u32, Nanos, &Alike)> {
        let alike = self.runs().flat_map(|(of, alike)| of.map(move |_| alike));
        self.times
            .iter()
            .zip(alike)
            .map(|((number, round, wall), alike)| (number, round, wall, alike))
    }
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
        self.laps.each().map(|(number, round, wall, alike)| Lap {
            series: self,
            number,
            round,
            wall: alike.is_timed.then_some(wall),
            alike,
        })
    }

    /// Returns its laps likewise, those together that are alike.
    pub fn runs(&self) -> impl Iterator<Item = Run<'_>> {
        self.laps.runs().map(|(places, alike)| Run { series: self, places, alike })
    }

    /// Returns the values of the measure `name` that enter sums, in the order run.
    pub fn values(&self, name: &str) -> Vec<f64> {
        let mut all = Vec::new();
        self.runs().for_each(|run| run.add_values(name, &mut all));
        all
    }

    /// Returns its lap at `place`, which is `alike`.
    fn at<'l>(&'l self, place: u32, alike: &'l Alike) -> Lap<'l> {
        let (number, round, wall) = self.laps.times.at(place);
        Lap { series: self, number, round, wall: alike.is_timed.then_some(wall), alike }
    }

    /// Returns its lap of that number.
    pub fn lap(&self, number: u32) -> Option<Lap<'_>> {
        let place = self.laps.times.place_of(number)?;
        let at = self.laps.runs.partition_point(|(to, _)| *to <= place);
        let (_, alike) = self.laps.runs.get(at)?;
        Some(self.at(place, alike))
    }
}

/// Laps of a series, one after the other, that are alike.
#[derive(Clone, Debug)]
pub struct Run<'l> {
    series: &'l LapSeries,
    places: Range<u32>,
    /// What they have in common.
    pub alike: &'l Alike,
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

    /// Returns what sums read of the first of them; but for the time, it is the same of all.
    pub fn yields(&self) -> Yield<'l> {
        let wall = || self.series.laps.times.wall(self.places.start);
        self.alike.yields(self.alike.is_timed.then(wall))
    }

    /// Adds their values of the measure `name` that enter sums to `all`.
    pub fn add_values(&self, name: &str, all: &mut Vec<f64>) {
        match self.yields().value(name) {
            None => {}
            Some(_) if self.is_by_clock(name) => {
                all.reserve(self.len());
                let times = &self.series.laps.times;
                times.each_wall(self.places.clone(), |wall| all.push(wall.seconds()));
            }
            Some(value) => all.extend(std::iter::repeat_n(value, self.len())),
        }
    }

    /// Adds the same to `all`, each with its round.
    pub(crate) fn add_values_by_round(&self, name: &str, all: &mut Vec<(u32, f64)>) {
        let times = &self.series.laps.times;
        let mut rounds = self.places.clone().map(|place| times.round(place));
        match self.yields().value(name) {
            None => {}
            Some(_) if self.is_by_clock(name) => {
                all.reserve(self.len());
                times.each_wall(self.places.clone(), |wall| {
                    all.extend(rounds.next().map(|round| (round, wall.seconds())));
                });
            }
            Some(value) => all.extend(rounds.map(|round| (round, value))),
        }
    }

    /// Returns whether the measure `name` is what the clock measured: of all others they have the same value.
    fn is_by_clock(&self, name: &str) -> bool {
        name == TIME && self.alike.parts.is_none()
    }

    /// Returns them one by one where anything but their time is known of them; none otherwise.
    pub fn laps_with_facts(&self) -> impl Iterator<Item = Lap<'l>> + use<'l> {
        let told = (!self.alike.is_bare()).then(|| self.laps());
        told.into_iter().flatten()
    }

    /// Returns them one by one.
    pub fn laps(&self) -> impl Iterator<Item = Lap<'l>> + use<'l> {
        let (series, alike) = (self.series, self.alike);
        self.places.clone().map(move |place| series.at(place, alike))
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
    /// Everything else that is known of it.
    pub alike: &'l Alike,
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
        self.alike.yields(self.wall)
    }

    /// Returns it by itself, without what else is known of it.
    pub fn head(&self) -> LapHead {
        let Alike { warm_up, outcome, parts, step, readings, set_aside, .. } = self.alike.clone();
        let LapSeries { workload, task, settings, .. } = self.series.clone();
        let (name, Self { round, wall, .. }) = (self.name(), *self);
        LapHead {
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
        }
    }

    /// Returns it by itself.
    pub fn known(&self) -> KnownLap {
        KnownLap { head: self.head(), facts: Arc::clone(&self.alike.facts) }
    }
}
