//! A rig that is run from here: how far things are with it.

use super::note::{Files, RemoteRun};
use crate::error::Exit;
use honest_lap_reach::Control;
use std::sync::atomic::AtomicBool;
use std::sync::{Arc, Mutex};
use std::time::Instant;

/// A rig that is to be driven.
pub struct Prepared {
    pub files: Files,
    pub away: RemoteRun,
    /// Whether it was ordered just now: what was noted before may be under way there.
    pub is_fresh: bool,
}

/// How far it is with a rig.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub enum Stage {
    /// It is not called yet.
    Waiting,
    /// Its command line is started, and nobody has answered.
    Connecting,
    /// It has answered, and is sent what it needs.
    Sending,
    /// Its run is told of.
    Running,
    /// Everything is here, and it knows.
    Collected,
    /// Nothing more comes.
    Over,
}

/// A rig under way.
pub struct Rig {
    pub files: Files,
    pub away: RemoteRun,
    pub held: Arc<Mutex<()>>,
    pub stage: Stage,
    pub control: Option<Control>,
    /// When it was last heard of.
    pub heard: Instant,
    pub heard_any: bool,
    /// Whether everything was sent there once.
    pub sent: bool,
    /// Since when the connection is given up.
    pub disconnected: Option<Instant>,
    /// Whether something came that is not joined yet, and from when on it may be.
    pub came: bool,
    pub join_from: Instant,
    /// Whether it is not to be reached again.
    pub leaving: Arc<AtomicBool>,
    pub exit: Exit,
    pub is_fresh: bool,
    /// Whether what came from it cannot be joined: then nothing of it goes, here or there.
    pub refused: bool,
}

impl Rig {
    /// Returns a rig that nobody has called yet.
    pub fn new(Prepared { files, away, is_fresh }: Prepared) -> Self {
        let now = Instant::now();
        Self {
            files,
            away,
            held: Arc::default(),
            stage: Stage::Waiting,
            control: None,
            heard: now,
            heard_any: false,
            sent: false,
            disconnected: None,
            came: false,
            join_from: now,
            leaving: Arc::default(),
            exit: Exit::Done,
            is_fresh,
            refused: false,
        }
    }

    /// Returns whether its run may be under way there, where the connection is gone.
    pub fn may_be_there(&self) -> bool {
        self.away.arrived || self.sent || !self.is_fresh
    }
}
