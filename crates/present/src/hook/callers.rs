//! What callers mean by a function, for as long as no library comes or goes.

use crate::Pointer;
use core::ptr::null_mut;
use core::sync::atomic::{
    AtomicPtr, AtomicU64, AtomicUsize, Ordering::AcqRel, Ordering::Acquire, Ordering::Relaxed,
    Ordering::Release,
};

/// Callers that are remembered; others are looked up every time.
const MOST: usize = 8;
/// A place that somebody is filling in.
const BUSY: usize = 1;

struct Caller {
    address: AtomicUsize,
    generation: AtomicU64,
    means: AtomicPtr<core::ffi::c_void>,
}

/// Callers, and what each of them means.
pub(super) struct Callers([Caller; MOST]);

impl Callers {
    pub(super) const fn new() -> Self {
        Self(
            [const {
                Caller {
                    address: AtomicUsize::new(0),
                    generation: AtomicU64::new(0),
                    means: AtomicPtr::new(null_mut()),
                }
            }; MOST],
        )
    }

    /// Returns what the caller at `address` means, where that was found out in this generation of libraries.
    pub(super) fn of(&self, address: usize, generation: u64) -> Option<Pointer> {
        let caller = self.0.iter().find(|caller| caller.address.load(Acquire) == address)?;
        let found = caller.generation.load(Acquire);
        let means = caller.means.load(Acquire);
        // It may have been given to another meanwhile.
        let still = caller.address.load(Acquire) == address;
        (still && found == generation).then_some(means)
    }

    pub(super) fn keep(&self, address: usize, generation: u64, means: Pointer) {
        for caller in &self.0 {
            let held = caller.address.load(Acquire);
            let old = caller.generation.load(Acquire) != generation;
            if held == 0 || held != BUSY && (old || held == address) {
                if caller.address.compare_exchange(held, BUSY, AcqRel, Relaxed).is_ok() {
                    caller.means.store(means, Release);
                    caller.generation.store(generation, Release);
                    caller.address.store(address, Release);
                }
                return;
            }
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn callers_are_known_until_a_library_comes_or_goes() {
        let callers = Callers::new();
        let means = |target: usize| (target * 4096) as Pointer;
        for caller in 2..12 {
            callers.keep(caller, 7, means(caller));
        }
        assert_eq!(callers.of(2, 7), Some(means(2)));
        assert_eq!(callers.of(11, 7), None, "more than are remembered");
        assert_eq!(callers.of(2, 8), None, "another generation");
        callers.keep(11, 8, means(50));
        assert_eq!((callers.of(11, 8), callers.of(2, 7)), (Some(means(50)), None));
    }
}
