//! What is kept for each thread: which one it is, and whether it is inside a present.
//!
//! In the loader's own storage for threads, reached as compilers do where no call may be needed (U. Drepper, *ELF
//! Handling For Thread-Local Storage*, 2005: the initial executable model).

use crate::Pointer;
use crate::machine::own_of_thread;
use core::arch::global_asm;
use core::sync::atomic::{AtomicU32, Ordering::Relaxed};

global_asm!(
    ".pushsection .tbss, \"awT\", %nobits",
    ".p2align 4",
    ".globl lap_recorder_thread",
    ".hidden lap_recorder_thread",
    ".type lap_recorder_thread, %object",
    "lap_recorder_thread: .zero 32",
    ".size lap_recorder_thread, 32",
    ".popsection",
);

/// What a thread has.
#[repr(C, align(16))]
struct Own {
    /// Where on the stack its outermost present was begun; 0 outside of one.
    outermost: usize,
    /// The function that this present goes on to.
    by: usize,
    /// Its number, counted from 1; 0 before its first present.
    number: u32,
}

static THREADS: AtomicU32 = AtomicU32::new(0);

#[inline(always)]
fn own() -> *mut Own {
    own_of_thread().cast()
}

/// Returns the number of this thread, which no other of the process has.
#[inline(always)]
pub(crate) fn number() -> u32 {
    // SAFETY: it is this thread's own.
    let own = unsafe { &mut *own() };
    if own.number == 0 {
        own.number = THREADS.fetch_add(1, Relaxed).wrapping_add(1);
    }
    own.number
}

/// A present that this thread is inside of.
pub(crate) struct Inside {
    /// Whether another one makes it: it is the same frame.
    pub(crate) nested: bool,
}

impl Inside {
    /// Begins a present that goes on to the function `by`.
    #[inline(always)]
    pub(crate) fn enter(by: Pointer) -> Self {
        let mark = 0_u8;
        let here = (&raw const mark) as usize;
        // SAFETY: it is this thread's own.
        let own = unsafe { &mut *own() };
        // One that was left by a jump never ends. Stacks grow down, so it is not above one that is begun where it was; and no
        // function that presents calls itself.
        let nested = here < own.outermost && by as usize != own.by;
        if !nested {
            (own.outermost, own.by) = (here, by as usize);
        }
        Self { nested }
    }

    #[inline(always)]
    pub(crate) fn leave(self) {
        if !self.nested {
            // SAFETY: it is this thread's own.
            unsafe { (*own()).outermost = 0 };
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn threads_are_numbered_and_keep_their_numbers() {
        let mine = number();
        let other = std::thread::spawn(|| (number(), number())).join().unwrap();
        assert_eq!(number(), mine);
        assert!(other.0 == other.1 && other.0 != mine && mine > 0);
    }

    #[test]
    fn a_present_inside_of_another_is_told_and_one_that_was_jumped_out_of_is_forgotten() {
        let [swap, other] = [4096 as Pointer, 8192 as Pointer];
        #[inline(never)]
        fn deeper(by: Pointer) -> bool {
            let inside = Inside::enter(by);
            let nested = inside.nested;
            inside.leave();
            std::hint::black_box(nested)
        }
        let outer = Inside::enter(swap);
        assert!(!outer.nested && deeper(other));
        outer.leave();
        assert!(!deeper(other));
        // As a jump leaves it: begun, and never ended.
        assert!(!Inside::enter(swap).nested && !deeper(swap));
    }
}
