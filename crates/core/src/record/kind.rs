//! What a lap of a workload yields: a kind, with what that kind alone has.

use super::{Against, EnduranceRule, FrameLog, FrameSource, Framed, LoadRule, Presented};
use serde::{Deserialize, Serialize};

/// What a lap of a workload yields.
#[derive(Clone, Debug, Default, PartialEq)]
pub enum Kind {
    /// The time to do one piece of work.
    #[default]
    Task,
    /// Numbers that the program itself reports.
    Score,
    /// A series of frame times.
    Frames(Framed),
    /// The largest load that still holds.
    Capacity(Capacity),
    /// A rate over a long time.
    Endurance(Endurance),
}

/// A search for the largest load that holds.
#[derive(Clone, Debug, PartialEq)]
pub struct Capacity {
    /// The loads, and when one holds.
    pub load: LoadRule,
    /// The frames that tell whether it does, where those do.
    pub framed: Framed,
}

/// A rate over a long time.
#[derive(Clone, Debug, PartialEq)]
pub struct Endurance {
    /// For how long, and how it is run.
    pub rule: EnduranceRule,
    /// The frames that it draws; without any its repetitions are counted.
    pub framed: Framed,
}

/// The name of a kind, as a study writes it.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum KindName {
    /// [`Kind::Task`].
    Task,
    /// [`Kind::Score`].
    Score,
    /// [`Kind::Frames`].
    Frames,
    /// [`Kind::Capacity`].
    Capacity,
    /// [`Kind::Endurance`].
    Endurance,
}

impl KindName {
    /// Returns whether a lap of it may draw frames.
    pub fn may_draw(self) -> bool {
        matches!(self, Self::Frames | Self::Capacity | Self::Endurance)
    }
}

impl Kind {
    /// Returns its name.
    pub fn name(&self) -> KindName {
        match self {
            Self::Task => KindName::Task,
            Self::Score => KindName::Score,
            Self::Frames(_) => KindName::Frames,
            Self::Capacity(_) => KindName::Capacity,
            Self::Endurance(_) => KindName::Endurance,
        }
    }

    /// Returns whether a lap of it is about something else than its time.
    pub fn is_untimed(&self) -> bool {
        self.name() != KindName::Task
    }

    /// Returns the frames of a lap of it, if it may draw any.
    pub fn framed(&self) -> Option<&Framed> {
        match self {
            Self::Task | Self::Score => None,
            Self::Frames(framed)
            | Self::Capacity(Capacity { framed, .. })
            | Self::Endurance(Endurance { framed, .. }) => Some(framed),
        }
    }

    /// Returns the loads that it is tried at, if it is.
    pub fn load(&self) -> Option<&LoadRule> {
        match self {
            Self::Capacity(capacity) => Some(&capacity.load),
            Self::Task | Self::Score | Self::Frames(_) | Self::Endurance(_) => None,
        }
    }

    /// Returns for how long it is run, if it is run for long.
    pub fn endurance(&self) -> Option<&EnduranceRule> {
        match self {
            Self::Endurance(endurance) => Some(&endurance.rule),
            Self::Task | Self::Score | Self::Frames(_) | Self::Capacity(_) => None,
        }
    }

    /// Returns the log that its frames are written to, if they are.
    pub fn frame_log(&self) -> Option<&FrameLog> {
        match self.framed()?.source.as_ref()? {
            FrameSource::Log(log) => Some(log),
            FrameSource::Presented(_) => None,
        }
    }

    /// Returns what of the frames that it presents is noted, if they are.
    pub fn presented(&self) -> Option<&Presented> {
        match self.framed()?.source.as_ref()? {
            FrameSource::Presented(presented) => Some(presented),
            FrameSource::Log(_) => None,
        }
    }

    /// Returns whether a lap of it draws frames that are noted.
    pub fn draws(&self) -> bool {
        self.framed().is_some_and(|framed| framed.source.is_some())
    }

    /// Returns what its passes are held against.
    pub fn against(&self) -> Against {
        let framed = self.framed();
        Against {
            display: framed.and_then(|framed| framed.display),
            plays_at: framed.and_then(|framed| framed.plays_at),
        }
    }
}
