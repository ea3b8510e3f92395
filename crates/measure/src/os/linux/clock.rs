//! The one place that reads a clock.

use honest_lap_core::unit::Stamp;
use rustix::time::{ClockId, Timespec, clock_gettime};

/// Returns the moment on the monotonic clock, which stands still while the machine sleeps.
pub fn now() -> Stamp {
    stamp(clock_gettime(ClockId::Monotonic))
}

/// Returns the moment on the clock that runs on while the machine sleeps.
pub(crate) fn now_with_sleep() -> Stamp {
    stamp(clock_gettime(ClockId::Boottime))
}

/// Returns the processor time that this thread has used.
pub(crate) fn worked() -> Stamp {
    stamp(clock_gettime(ClockId::ThreadCPUTime))
}

fn stamp(time: Timespec) -> Stamp {
    // They count from boot, or from the thread's beginning: neither part is negative.
    Stamp(time.tv_sec as u64 * 1_000_000_000 + time.tv_nsec as u64)
}
