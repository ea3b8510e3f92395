//! What a lap's own processes had to do with disks and memory, whatever its neighbours did.

use crate::unit::Nanos;
use serde::{Deserialize, Serialize};

/// What the kernel accounts to a lap's processes beside processor time. Unknown values are left out of what is stored.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
#[serde(default)]
pub struct OwnWaits {
    /// Time in which one of them waited for memory; known where a control group holds them together.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub memory: Option<Nanos>,
    /// Time in which one of them waited for a disk, likewise.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub disk: Option<Nanos>,
    /// What was read from disks for them, in bytes: not what was in memory already. What they swapped in is among it.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub read_bytes: Option<u64>,
    /// What they wrote to files that are on disks, in bytes, whenever the system brings it there.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub written_bytes: Option<u64>,
}

impl OwnWaits {
    pub(super) fn is_nothing(&self) -> bool {
        *self == Self::default()
    }

    /// Returns those of this and of `next` together; what one of them does not know is unknown of both.
    pub fn and(self, next: Self) -> Self {
        let time = |a: Option<Nanos>, b: Option<Nanos>| Some(a?.plus(b?));
        let bytes = |a: Option<u64>, b: Option<u64>| Some(a?.saturating_add(b?));
        Self {
            memory: time(self.memory, next.memory),
            disk: time(self.disk, next.disk),
            read_bytes: bytes(self.read_bytes, next.read_bytes),
            written_bytes: bytes(self.written_bytes, next.written_bytes),
        }
    }

    /// Returns all that was moved between them and disks; `None` where nothing is known of it.
    pub fn moved_bytes(&self) -> Option<u64> {
        Some(self.read_bytes?.saturating_add(self.written_bytes?))
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_one_repetition_does_not_know_is_unknown_of_all() {
        let first = OwnWaits {
            disk: Some(Nanos(3)),
            read_bytes: Some(10),
            written_bytes: Some(1),
            ..OwnWaits::default()
        };
        let next = OwnWaits { memory: Some(Nanos(1)), ..first };
        let both = first.and(next);
        assert_eq!((both.disk, both.memory), (Some(Nanos(6)), None));
        assert_eq!(both.moved_bytes(), Some(22));
    }
}
