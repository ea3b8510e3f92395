//! What is known beside the laps' heads: of each lap, and of each session.

use crate::endurance::Endured;
use crate::record::{
    Conditions, Digest, LapBody, LapHead, Produced, Reading, RigFound, SessionName,
};
use crate::unit::{Date, Nanos};
use std::borrow::Borrow;
use std::collections::{BTreeMap, HashMap};
use std::ops::{Deref, DerefMut};
use std::sync::{Arc, LazyLock};

/// What is known of a lap besides its head.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct LapFacts {
    /// What the machine was like.
    pub conditions: Conditions,
    /// The processor time that the system accounts to its own processes.
    pub processor_time: Option<Nanos>,
    /// Why it was not done, where that is known.
    pub reason: Option<String>,
    /// What it produced.
    pub produced: Vec<Produced>,
    /// Programs that outlived it and were ended.
    pub left_behind: Vec<String>,
    /// What its frames come to, where it is a pass.
    pub frames: Option<Box<Digest>>,
    /// What its rate over time comes to, where it is an endurance lap.
    pub endured: Option<Box<Endured>>,
}

/// What is known of most laps of most labs.
static NOTHING: LazyLock<Arc<LapFacts>> = LazyLock::new(Arc::default);

/// Returns what is known of laps of which nothing is.
pub(super) fn nothing() -> Arc<LapFacts> {
    Arc::clone(&NOTHING)
}

/// Returns whether that is all that is known: it is seldom looked through.
pub(super) fn are_nothing(facts: &Arc<LapFacts>) -> bool {
    Arc::ptr_eq(facts, &NOTHING) || facts.says_nothing()
}

impl LapFacts {
    /// Returns what `body` says of a lap.
    pub fn of(body: &LapBody) -> Self {
        Self {
            conditions: body.conditions.clone(),
            processor_time: body.usage.map(|usage| usage.processor_time()),
            reason: body.reason.clone(),
            produced: body.produced.clone(),
            left_behind: body.left_behind.clone(),
            frames: body.pass.as_ref().map(|pass| Box::new(pass.about.digest.clone())),
            endured: None,
        }
    }

    /// Returns whether nothing is known.
    pub(super) fn says_nothing(&self) -> bool {
        *self == **NOTHING
    }

    /// Returns them to be shared: of laps of which nothing is known, all have the same.
    pub fn shared(self) -> Arc<Self> {
        if self.says_nothing() { Arc::clone(&NOTHING) } else { Arc::new(self) }
    }

    /// Returns how long a lap took: by the clock, or its frames together where nobody timed it.
    pub fn lasted(&self, wall: Option<Nanos>) -> Option<Nanos> {
        wall.or_else(|| Some(self.frames.as_deref()?.sums.time))
    }

    /// Returns how many threads its own processes used, on average over a lap of `wall`.
    pub(crate) fn threads_used(&self, wall: Nanos) -> Option<f64> {
        let threads = self.processor_time?.seconds() / wall.seconds();
        Some(threads).filter(|threads| threads.is_finite())
    }

    /// Returns the names of the programs that used the processor beside it, most first.
    pub(crate) fn named_others(&self) -> Vec<String> {
        let named = self.conditions.other_programs.iter();
        named.map(|program| program.name.clone()).collect()
    }

    /// Returns how many threads all other programs used, likewise.
    pub(crate) fn threads_of_others(&self, wall: Nanos) -> Option<f64> {
        // It was counted between the looks, which a short lap fills only in part.
        let counted_over = self.conditions.sampled.looked.unwrap_or(wall);
        let threads = self.conditions.others_cpu?.seconds() / counted_over.seconds();
        Some(threads).filter(|threads| threads.is_finite())
    }
}

/// What is known of a lap besides its head and its times.
#[derive(Clone, Debug, PartialEq)]
pub struct Known {
    /// The time of the parts that count, where the workload says which do.
    pub parts: Option<Nanos>,
    /// What was read from it.
    pub readings: Vec<Reading>,
    /// What else is known.
    pub facts: Arc<LapFacts>,
}

/// A lap with what is known of it besides its head.
#[derive(Clone, Debug, PartialEq)]
pub struct KnownLap {
    /// What it is of, and what came of it.
    pub head: LapHead,
    /// What else is known. Laps of which the same is known, which is mostly nothing, share it.
    pub facts: Arc<LapFacts>,
}

impl Deref for KnownLap {
    type Target = LapHead;
    fn deref(&self) -> &LapHead {
        &self.head
    }
}

impl DerefMut for KnownLap {
    fn deref_mut(&mut self) -> &mut LapHead {
        &mut self.head
    }
}

impl Borrow<LapHead> for KnownLap {
    fn borrow(&self) -> &LapHead {
        &self.head
    }
}

impl From<LapHead> for KnownLap {
    /// Returns the lap with nothing known of it besides its head.
    fn from(head: LapHead) -> Self {
        Self { head, facts: nothing() }
    }
}

/// A session, as findings see it.
#[derive(Clone, Debug, PartialEq)]
pub struct LabSession {
    /// Its name.
    pub name: SessionName,
    /// The machine as found.
    pub found: RigFound,
    /// How long ago it began; `None` where that is not known.
    pub age: Option<Nanos>,
    /// The day that its laps were measured on, likewise.
    pub day: Option<Date>,
    /// What the parts of its rig were, by name, as people say.
    pub parts: BTreeMap<String, String>,
    /// What was said of it when it began.
    pub remark: Option<String>,
}

/// Returns how many threads the machine of each session runs at once, where that is known.
pub(crate) fn threads_of(sessions: &[LabSession]) -> HashMap<&SessionName, u32> {
    sessions.iter().filter_map(|session| Some((&session.name, session.found.threads?))).collect()
}
