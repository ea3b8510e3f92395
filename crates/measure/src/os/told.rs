//! What every system tells in the same form.

use honest_lap_core::unit::Nanos;

/// A living process.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(crate) struct Process {
    pub(crate) pid: i32,
    pub(crate) parent: i32,
    pub(crate) name: String,
    /// The session that it is in: the number of the process that began it.
    pub(crate) session: i32,
    /// When it began, in ticks since the machine did.
    pub(crate) began: u64,
    /// Memory that it holds, in bytes; shared pages count for each that shares them.
    pub(crate) resident_bytes: u64,
    /// The processor time that it used, with that of its children that it waited for.
    pub(crate) used: Nanos,
}

/// How a child ended, and its peak memory, its own waited-for children included.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Reaped {
    pub(crate) exit_code: Option<i32>,
    pub(crate) signal: Option<i32>,
    /// Peak resident memory of the largest process among them.
    pub(crate) peak_bytes: u64,
}

/// Processor time.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub(crate) struct Used {
    pub(crate) user: Nanos,
    pub(crate) system: Nanos,
}

impl Used {
    /// Returns what was used since `before`.
    pub(crate) fn since(self, before: Self) -> Self {
        Self { user: self.user.minus(before.user), system: self.system.minus(before.system) }
    }

    /// Returns what was used by this and by `other`.
    pub(crate) fn plus(self, other: Self) -> Self {
        Self { user: self.user.plus(other.user), system: self.system.plus(other.system) }
    }

    /// Returns both together.
    pub(crate) fn whole(self) -> Nanos {
        self.user.plus(self.system)
    }
}
