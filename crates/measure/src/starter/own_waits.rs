//! What a lap's own processes waited for, and moved to and from disks.

use crate::os::{GroupView, moved_by_children};
use honest_lap_core::record::OwnWaits;
use honest_lap_core::unit::Nanos;

/// What the kernel has counted up to now.
pub(super) struct OwnBook {
    /// For memory, and for a disk: of all that was ever in the group.
    waited: [Option<Nanos>; 2],
    /// Read, and written: by every child that was reaped.
    moved: Option<[u64; 2]>,
}

impl OwnBook {
    pub(super) fn of(group: Option<&GroupView>) -> Self {
        Self { waited: group.map_or([None; 2], GroupView::waited), moved: moved_by_children() }
    }

    /// Counts what children have moved since among what was moved before.
    pub(super) fn but_for_children_since(self) -> Self {
        Self { moved: moved_by_children(), ..self }
    }

    /// Returns what has come since `before`.
    pub(super) fn since(&self, before: &Self) -> OwnWaits {
        let waited = |what: usize| Some(self.waited[what]?.minus(before.waited[what]?));
        let moved = |what: usize| Some(self.moved?[what].saturating_sub(before.moved?[what]));
        OwnWaits {
            memory: waited(0),
            disk: waited(1),
            read_bytes: moved(0),
            written_bytes: moved(1),
        }
    }
}
