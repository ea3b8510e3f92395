//! Tables from Vulkan's handles to what is known of them: no lock, and as much room as is needed.
//!
//! The first rows are part of the library; more are pages of the system's, asked for when a handle is made that finds
//! no room, and never given back.

use crate::Pointer;
use crate::kernel;
use core::ptr::null_mut;
use core::sync::atomic::{
    AtomicPtr, AtomicU64, Ordering::AcqRel, Ordering::Acquire, Ordering::Relaxed, Ordering::Release,
};

/// Rows of the first block; each block after it has twice as many.
const FIRST: usize = 64;
/// Blocks: room for more handles than there is address space for.
const BLOCKS: usize = 24;
/// Rows that are tried in a block, from where the key's hash falls on.
const TRIES: usize = 8;

/// A row that somebody is filling in.
const BUSY: u64 = 1;

/// What is known under a key, `N` numbers; a key of 0 is none.
pub(super) struct Row<const N: usize> {
    key: AtomicU64,
    known: [AtomicU64; N],
}

impl<const N: usize> Row<N> {
    const fn empty() -> Self {
        Self { key: AtomicU64::new(0), known: [const { AtomicU64::new(0) }; N] }
    }

    /// Returns the number at a place.
    #[inline]
    pub(super) fn get<const PLACE: usize>(&self) -> u64 {
        self.known.get(PLACE).map_or(0, |known| known.load(Relaxed))
    }

    /// Forgets it: its handle is about to be destroyed.
    pub(super) fn forget(&self) {
        self.key.store(0, Release);
    }
}

/// All rows.
pub(super) struct Table<const N: usize> {
    first: [Row<N>; FIRST],
    /// Blocks after the first.
    more: [AtomicPtr<Row<N>>; BLOCKS],
}

impl<const N: usize> Table<N> {
    pub(super) const fn new() -> Self {
        let first = [const { Row::empty() }; FIRST];
        Self { first, more: [const { AtomicPtr::new(null_mut()) }; BLOCKS] }
    }

    /// Returns the rows of a block in which `key` may be.
    fn rows(
        block: *const Row<N>,
        length: usize,
        key: u64,
    ) -> impl Iterator<Item = &'static Row<N>> {
        // Handles are addresses, or small numbers: both spread by this (D. E. Knuth, The Art of Computer Programming,
        // volume 3, 6.4: multiplication by the golden section of a word).
        let hash = (key.wrapping_mul(0x9e37_79b9_7f4a_7c15) >> 20) as usize;
        // SAFETY: a block has `length` rows, a power of two, and stays.
        (0..TRIES).map(move |further| unsafe { &*block.add((hash + further) & (length - 1)) })
    }

    /// Returns every block that there is, with its length.
    fn blocks(&self) -> impl Iterator<Item = (*const Row<N>, usize)> {
        let more = self
            .more
            .iter()
            .enumerate()
            .map(|(number, block)| (block.load(Acquire).cast_const(), FIRST << (number + 1)));
        let more = more.take_while(|(block, _)| !block.is_null());
        core::iter::once((self.first.as_ptr(), FIRST)).chain(more)
    }

    /// Returns what is known under `key`.
    #[inline]
    pub(super) fn of(&'static self, key: u64) -> Option<&'static Row<N>> {
        if key <= BUSY {
            return None;
        }
        self.blocks()
            .flat_map(|(block, length)| Self::rows(block, length, key))
            .find(|row| row.key.load(Acquire) == key)
    }

    /// Keeps what is known under a new key, or under one that was used before; returns whether there was room, which
    /// lacks only where the system has no more memory.
    pub(super) fn keep(&'static self, key: u64, known: [u64; N]) -> bool {
        if key <= BUSY {
            return false;
        }
        let write = |row: &Row<N>| {
            row.key.store(BUSY, Release);
            for (place, value) in row.known.iter().zip(known) {
                place.store(value, Relaxed);
            }
            row.key.store(key, Release);
        };
        if let Some(row) = self.of(key) {
            write(row);
            return true;
        }
        let take = |row: &&Row<N>| row.key.compare_exchange(0, BUSY, AcqRel, Relaxed).is_ok();
        let in_block = |block, length| Self::rows(block, length, key).find(take);
        if let Some(row) = in_block(self.first.as_ptr(), FIRST) {
            write(row);
            return true;
        }
        for (number, block) in self.more.iter().enumerate() {
            let length = FIRST << (number + 1);
            if block.load(Acquire).is_null() {
                let Some(made) = kernel::memory(length * size_of::<Row<N>>()) else { return false };
                // Somebody else's may have come first; ours is then left unused, which is a page or two.
                let _ = block.compare_exchange(null_mut(), made.cast(), AcqRel, Acquire);
            }
            if let Some(row) = in_block(block.load(Acquire), length) {
                write(row);
                return true;
            }
        }
        false
    }
}

/// Returns what a handle is known by: the loader's own table, which it begins with, and which a
/// device shares with its queues, an instance with its physical devices; 0 for none.
///
/// # Safety
/// `handle` is null or a living dispatchable handle.
#[inline]
pub(super) unsafe fn key(handle: Pointer) -> u64 {
    // SAFETY: the caller upholds it.
    if handle.is_null() { 0 } else { unsafe { *handle.cast::<usize>() as u64 } }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_was_kept_is_found_until_it_is_forgotten() {
        static TABLE: Table<2> = Table::new();
        assert!(TABLE.keep(4096, [7, 8]));
        let found = TABLE.of(4096).unwrap();
        assert_eq!((found.get::<0>(), found.get::<1>()), (7, 8));
        assert!(TABLE.keep(4096, [9, 8]), "a handle that is used again");
        assert_eq!(TABLE.of(4096).unwrap().get::<0>(), 9);
        found.forget();
        assert!(TABLE.of(4096).is_none() && TABLE.of(0).is_none());
    }

    #[test]
    fn there_is_room_for_as_many_as_there_are_and_for_all_at_once() {
        static TABLE: Table<1> = Table::new();
        const EACH: u64 = 5_000;
        let keep = |thread: u64| {
            (0..EACH).all(|n| TABLE.keep(0x7f00_0000_0000 + (thread * EACH + n) * 64, [n + 1]))
        };
        let kept = std::thread::scope(|scope| {
            let all: Vec<_> = (0..4).map(|thread| scope.spawn(move || keep(thread))).collect();
            all.into_iter().all(|thread| thread.join().unwrap())
        });
        assert!(kept);
        for n in 0..4 * EACH {
            let row = TABLE.of(0x7f00_0000_0000 + n * 64).unwrap();
            assert_eq!(row.get::<0>(), n % EACH + 1);
        }
    }

    #[test]
    fn what_shares_a_key_has_it() {
        let mut dispatch = 0_u8;
        let mut device: [Pointer; 2] = [(&raw mut dispatch).cast(), null_mut()];
        let mut queue = device;
        // SAFETY: both begin with a pointer, as handles do.
        unsafe {
            assert_eq!(key((&raw mut device).cast()), key((&raw mut queue).cast()));
            assert_eq!(key(null_mut()), 0);
        }
    }
}
