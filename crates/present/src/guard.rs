//! What keeps our own faults out of the host program.

use core::sync::atomic::{AtomicBool, Ordering};
use std::panic::{AssertUnwindSafe, catch_unwind};

static BROKEN: AtomicBool = AtomicBool::new(false);

/// Does `work`, and never lets a panic out: after one nothing is recorded any more.
#[inline]
pub(crate) fn quietly(work: impl FnOnce()) {
    if BROKEN.load(Ordering::Relaxed) {
        return;
    }
    if catch_unwind(AssertUnwindSafe(work)).is_err() {
        BROKEN.store(true, Ordering::Relaxed);
    }
}

/// Keeps a panic of ours from being printed into the host's streams. This library has a standard
/// library of its own, so a host written in Rust keeps its hook.
pub(crate) fn mute() {
    std::panic::set_hook(Box::new(|_| {}));
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_panic_stays_inside_and_ends_the_recording() {
        let mut done = 0;
        quietly(|| done += 1);
        quietly(|| panic!("a fault of ours"));
        quietly(|| done += 1);
        assert_eq!(done, 1);
    }
}
