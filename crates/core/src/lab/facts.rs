//! What is known beside the laps' heads: of each lap, and of each session.

use crate::endurance::Endured;
use crate::record::{Conditions, Digest, LapName, Produced, RigFound, SessionName};
use crate::unit::{Date, Nanos};
use std::collections::HashMap;
use std::sync::Arc;

/// What is known of a lap besides its head.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct LapFacts {
    /// What the machine was like.
    pub conditions: Conditions,
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

/// What is known of laps besides their heads, by name. Laps of which the same is known, which is mostly nothing, share it.
pub type AllFacts = HashMap<LapName, Arc<LapFacts>>;

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
}
