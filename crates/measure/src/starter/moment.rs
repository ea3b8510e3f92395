//! The moment at which a lap's program was started, for the threads beside the one that starts it.

use honest_lap_core::unit::Stamp;
use std::sync::Arc;
use std::sync::atomic::{AtomicU32, AtomicU64, Ordering};

/// When the program was started and which process it is, once that is known.
///
/// It is written down and not sent: to wake a thread at the start would cost the lap the time of a core.
#[derive(Clone, Debug, Default)]
pub(super) struct Begun(Arc<Written>);

#[derive(Debug, Default)]
struct Written {
    /// Nanoseconds of the clock; 0 until then.
    at: AtomicU64,
    /// The process; 0 until then.
    program: AtomicU32,
}

impl Begun {
    /// Writes down the last reading of the clock before the start.
    pub(super) fn begin(&self, at: Stamp) {
        self.0.at.store(at.0.max(1), Ordering::Release);
    }

    /// Writes down which process it became.
    pub(super) fn became(&self, program: u32) {
        self.0.program.store(program, Ordering::Release);
    }

    pub(super) fn at(&self) -> Option<Stamp> {
        Some(self.0.at.load(Ordering::Acquire)).filter(|&at| at > 0).map(Stamp)
    }

    pub(super) fn program(&self) -> Option<u32> {
        Some(self.0.program.load(Ordering::Acquire)).filter(|&program| program > 0)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn nothing_is_said_before_it_is_known() {
        let begun = Begun::default();
        let seen = begun.clone();
        assert_eq!((seen.at(), seen.program()), (None, None));
        begun.begin(Stamp(0));
        assert_eq!((seen.at(), seen.program()), (Some(Stamp(1)), None), "a clock may begin at 0");
        begun.became(7);
        assert_eq!(seen.program(), Some(7));
    }
}
