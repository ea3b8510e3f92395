//! What laps have in common that differ in numbers alone: in their number, their round and their time, and in what was read
//! and seen while they ran.

use super::details::{Details, OwnRow, PARTS};
use super::facts::{Known, KnownLap, LapFacts, are_nothing, nothing};
use crate::endurance::Endured;
use crate::record::{Digest, LapHead, Outcome, Produced, Reading, Readings, ValuesApart, Yield};
use crate::unit::Nanos;
use std::sync::Arc;

/// What laps that are alike have in common.
#[derive(Clone, Debug)]
pub struct Alike {
    /// Whether a time was taken from start to reap.
    pub(super) is_timed: bool,
    /// Whether they only warm up.
    pub warm_up: bool,
    /// What came of them.
    pub outcome: Outcome,
    /// The step in which their time was read by hand.
    pub step: Option<Nanos>,
    /// Why a person has set them aside, if one has.
    pub set_aside: Option<String>,
    /// What else is known of them, without what each of them has of its own.
    pub(super) common: Arc<Common>,
}

/// What is known of laps besides their times, without what each of them has of its own.
#[derive(Debug, PartialEq)]
pub(super) struct Common {
    details: Details,
    /// Whether that is nothing but times: asked for by every doubt.
    is_bare: bool,
}

impl Common {
    /// Returns what is `known` of a lap without what it has of its own, and that. The former is `before` itself, where it is the
    /// same.
    pub(super) fn of(known: Known, before: Option<&Arc<Self>>) -> (Arc<Self>, Vec<u64>) {
        let Known { parts, readings, facts } = known;
        let is_bare = readings.is_empty() && are_nothing(&facts);
        // Nothing is known of most laps of most labs: nothing is taken out of that, and two of them are not compared.
        let also = |before: &&Arc<Self>| is_bare && parts.is_none() && before.is_nothing();
        if let Some(before) = before.filter(also) {
            return (Arc::clone(before), Vec::new());
        }
        let mut details = Details { parts, readings, facts: Arc::unwrap_or_clone(facts) };
        let own = details.take_own();
        let common = match before.filter(|before| before.details == details) {
            Some(before) => Arc::clone(before),
            None => Arc::new(Self { is_bare, details }),
        };
        (common, own)
    }

    /// Returns whether nothing is known of such laps but how long they took.
    pub(super) fn is_nothing(&self) -> bool {
        self.is_bare && self.details.parts.is_none()
    }

    /// Returns what is known of a lap that has `own`.
    pub(super) fn details(&self, own: OwnRow<'_>) -> Details {
        let mut details = self.details.clone();
        details.put_own(own);
        details
    }

    /// Returns the same, to be shared.
    pub(super) fn known(&self, own: OwnRow<'_>) -> Known {
        if self.is_nothing() {
            return Known { parts: None, readings: Vec::new(), facts: nothing() };
        }
        let Details { parts, readings, facts } = self.details(own);
        Known { parts, readings, facts: facts.shared() }
    }
}

impl Alike {
    /// Returns what `lap` has in common with others, and what it has of its own; `before` is what is known of the lap before it.
    pub(super) fn of(lap: KnownLap, before: Option<&Arc<Common>>) -> (Self, Vec<u64>) {
        let KnownLap { mut head, facts } = lap;
        let readings = std::mem::take(&mut head.readings);
        let (common, own) = Common::of(Known { parts: head.parts, readings, facts }, before);
        (Self::with(&head, &common), own)
    }

    /// Returns what `lap` has in common with others, where what is known of it besides is `common`.
    pub(super) fn with(lap: &LapHead, common: &Arc<Common>) -> Self {
        let LapHead { warm_up, outcome, wall, step, set_aside, .. } = lap;
        Self {
            is_timed: wall.is_some(),
            warm_up: *warm_up,
            outcome: *outcome,
            step: *step,
            set_aside: set_aside.clone(),
            common: Arc::clone(common),
        }
    }

    /// Returns whether laps of which each says this are alike.
    pub(super) fn is(&self, other: &Self) -> bool {
        let plain = |alike: &Self| (alike.is_timed, alike.warm_up, alike.outcome, alike.step);
        let same = || Arc::ptr_eq(&self.common, &other.common) || self.common == other.common;
        plain(self) == plain(other) && self.set_aside == other.set_aside && same()
    }

    /// Returns whether nothing but their times is known of them: then no fact says anything, however long they took.
    pub fn is_bare(&self) -> bool {
        self.common.is_bare
    }

    /// Returns what was read from them, without values and what was seen, which each of them has of its own.
    ///
    /// What could not be read has no value here either, and why.
    pub fn read(&self) -> &[Reading] {
        &self.common.details.readings
    }

    /// Returns what its frames come to, where it is a pass.
    pub fn frames(&self) -> Option<&Digest> {
        self.facts().frames.as_deref()
    }

    /// Returns what its rate over time comes to, where it is an endurance lap.
    pub fn endured(&self) -> Option<&Endured> {
        self.facts().endured.as_deref()
    }

    /// Returns what they produced.
    pub fn produced(&self) -> &[Produced] {
        &self.facts().produced
    }

    /// Returns why they were not done, where that is known.
    pub fn reason(&self) -> Option<&str> {
        self.facts().reason.as_deref()
    }

    /// Returns the names of the outside meters that were read beside them.
    pub fn meters(&self) -> impl Iterator<Item = &str> {
        self.facts().conditions.sampled.meters.iter().map(|meter| meter.name.as_str())
    }

    /// Returns what else is known of them, without the numbers that each of them has of its own.
    pub(super) fn facts(&self) -> &LapFacts {
        &self.common.details.facts
    }

    /// Returns what is known of one of them that has `own`.
    pub(super) fn details(&self, own: OwnRow<'_>) -> Details {
        self.common.details(own)
    }

    /// Returns what sums read of one of them that took `wall` and has `own`.
    pub(super) fn yields<'l>(&'l self, wall: Option<Nanos>, own: OwnRow<'l>) -> Yield<'l> {
        let OwnRow { rows, place } = own;
        let parts = self.common.details.parts;
        let values = ValuesApart { rows, place, from: usize::from(parts.is_some()) };
        Yield {
            warm_up: self.warm_up,
            is_set_aside: self.set_aside.is_some(),
            outcome: self.outcome,
            wall,
            parts: parts.map(|_| Nanos(rows.at(place, PARTS))),
            step: self.step,
            readings: Readings::apart(self.read(), values),
        }
    }
}
