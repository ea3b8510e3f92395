//! Standing in front of the functions by which OpenGL programs present.
//!
//! A program reaches such a function linked against it, or looks it up as it runs; both end here, and each goes on to
//! the very function that was meant: what was linked to what lies behind us in the order of libraries, and what was
//! looked up by a way through of its own to what the look-up found.

mod callers;
mod lookup;
mod opengl;
mod ways;

use crate::Pointer;
use crate::book;
use crate::libraries::{all_of, dlsym, generation, seen_from};
use callers::Callers;
use core::ffi::CStr;
use core::ptr::null_mut;
use core::sync::atomic::{AtomicPtr, Ordering::AcqRel, Ordering::Acquire, Ordering::Release};

/// Found by the order of libraries, behind whoever asks.
const NEXT: Pointer = -1_isize as Pointer;

/// Ways through one function: more libraries that have it than any program opens.
const WAYS: usize = 32;

/// A function that we stand in front of.
struct Hook {
    name: &'static CStr,
    /// What programs that are linked against it reach.
    ours: Pointer,
    /// What look-ups are answered with, each a function of its own.
    ways: [Pointer; WAYS],
    /// What each of those goes on to.
    targets: [AtomicPtr<core::ffi::c_void>; WAYS],
    /// What lies behind us in the order of libraries.
    next: AtomicPtr<core::ffi::c_void>,
    /// What callers mean for whom nothing does.
    callers: Callers,
}

// SAFETY: `ours` and `ways` point to functions, and the rest are atomics.
unsafe impl Sync for Hook {}

impl Hook {
    const fn new(name: &'static CStr, ours: Pointer, ways: [Pointer; WAYS]) -> Self {
        let targets = [const { AtomicPtr::new(null_mut()) }; WAYS];
        let next = AtomicPtr::new(null_mut());
        Self { name, ours, ways, targets, next, callers: Callers::new() }
    }

    /// Returns what lies behind us in the order of libraries; null where nothing does.
    #[inline(always)]
    fn next(&self) -> Pointer {
        let next = self.next.load(Acquire);
        if next.is_null() { self.find_next() } else { next }
    }

    #[cold]
    fn find_next(&self) -> Pointer {
        // SAFETY: the name ends in a zero.
        let mut next = unsafe { dlsym()(NEXT, self.name.as_ptr()) };
        if next == self.ours {
            next = null_mut();
        }
        self.next.store(next, Release);
        next
    }

    /// Returns what a call from `caller`, which is linked against the function, means: what lies behind us, or where
    /// nothing does, what the library that calls is itself linked with.
    #[inline(always)]
    fn linked(&self, caller: usize) -> Pointer {
        let next = self.next();
        if next.is_null() { self.linked_apart(caller) } else { next }
    }

    /// Returns what a call means that was linked in a library that was opened for itself alone, and so were its own.
    #[cold]
    fn linked_apart(&self, caller: usize) -> Pointer {
        let generation = generation();
        if let Some(known) = self.callers.of(caller, generation) {
            return known;
        }
        let seen = self.seen_from(caller);
        let meant = if seen.is_null() { self.only_one() } else { seen };
        self.callers.keep(caller, generation, meant);
        meant
    }

    /// Returns the function of the one library that has it: a call that a function ends with returns to where that was
    /// called from, and its own library is not known. Of several the first is called, and it is said that it may be wrong.
    fn only_one(&self) -> Pointer {
        let (first, more) = all_of(self.name, self.ours as usize);
        if more {
            book::unsure_of_one();
        }
        first
    }

    /// Returns what code at `by` sees that nobody else does; null where it sees nothing but us.
    #[cold]
    fn seen_from(&self, by: usize) -> Pointer {
        let seen = seen_from(by, self.name);
        if seen == self.ours { null_mut() } else { seen }
    }

    /// Returns what a look-up that found `real` is answered with, which code at `by` made.
    ///
    /// Whoever looks in everything, or names the function itself, finds our own export: that must neither pretend that a
    /// library is there, nor hide one that only the caller sees.
    fn in_place_of(&self, real: Pointer, by: usize) -> Pointer {
        if real != self.ours {
            return self.way_to(real);
        }
        if !self.next().is_null() {
            return real;
        }
        let seen = self.seen_from(by);
        if !seen.is_null() {
            return self.way_to(seen);
        }
        // Found by nobody, as the C library's own word for that is to say.
        self.next()
    }

    /// Returns the way through us to `real`.
    fn way_to(&self, real: Pointer) -> Pointer {
        if real.is_null() || self.ways.contains(&real) {
            return real;
        }
        // As without us, what is looked up and what is linked are the same function.
        if real == self.next() {
            return self.ours;
        }
        for (target, way) in self.targets.iter().zip(self.ways) {
            let taken = target.compare_exchange(null_mut(), real, AcqRel, Acquire);
            if taken.is_ok() || taken == Err(real) {
                return way;
            }
        }
        book::unsure_of_one();
        real
    }
}
