//! Standing in front of the functions by which OpenGL programs present.
//!
//! A program reaches such a function linked against it, or looks it up as it runs; both end here.

mod behind;
mod lookup;
mod opengl;

use crate::book;
use crate::guard::quietly;
use crate::sys::{self, Pointer};
use behind::real_dlsym;
use core::ffi::CStr;
use core::ptr::null_mut;
use core::sync::atomic::{AtomicPtr, Ordering::Acquire, Ordering::Release};
use honest_lap_present_abi::Api;
use std::cell::Cell;

thread_local! {
    /// How many presents this thread is inside of: one that another one makes is the same frame.
    static DEPTH: Cell<u32> = const { Cell::new(0) };
}

/// A function that we stand in front of.
struct Hook {
    name: &'static CStr,
    ours: Pointer,
    /// What lies behind us in the order of libraries.
    next: AtomicPtr<core::ffi::c_void>,
    /// What the program's own look-up found: a driver that it opened for itself alone.
    found: AtomicPtr<core::ffi::c_void>,
}

// SAFETY: `ours` points to a function, and the other two are atomics.
unsafe impl Sync for Hook {}

impl Hook {
    const fn new(name: &'static CStr, ours: Pointer) -> Self {
        let (next, found) = (AtomicPtr::new(null_mut()), AtomicPtr::new(null_mut()));
        Self { name, ours, next, found }
    }

    /// Returns the function to go on to. A call made inside another one goes to what the program
    /// found: two recorders that stand in front of each other would otherwise never end.
    fn real(&self, nested: bool) -> Pointer {
        let found = self.found.load(Acquire);
        if nested && !found.is_null() {
            return found;
        }
        let mut next = self.next.load(Acquire);
        if next.is_null() {
            // SAFETY: the name ends in a zero.
            next = unsafe { real_dlsym()(sys::RTLD_NEXT, self.name.as_ptr()) };
            if next == self.ours {
                next = null_mut();
            }
            self.next.store(next, Release);
        }
        if next.is_null() { found } else { next }
    }

    /// Hands ourselves out in place of `real`, which the program looked up; nothing for nothing.
    fn in_place_of(&self, real: Pointer) -> Pointer {
        if real.is_null() {
            return real;
        }
        if real != self.ours {
            self.found.store(real, Release);
        }
        self.ours
    }
}

/// Makes the call that `hook` stands in front of, by `call`, and records it as a present where it
/// was one. `None` where there is nothing to call.
#[inline]
fn presented<R>(
    api: Api,
    surface: u64,
    hook: &Hook,
    call: impl FnOnce(Pointer) -> R,
    shown: impl FnOnce(&R) -> bool,
) -> Option<R> {
    let inside = DEPTH.with(|depth| depth.replace(depth.get().saturating_add(1)));
    let begun = sys::now_ns();
    let real = hook.real(inside > 0);
    let answer = (!real.is_null()).then(|| call(real));
    DEPTH.with(|depth| depth.set(inside));
    if inside == 0 && answer.as_ref().is_some_and(shown) {
        quietly(|| book::record(api, surface, begun, sys::now_ns()));
    }
    answer
}

/// As [`presented`], for a Vulkan queue, whose next function the layer knows.
#[inline]
pub(crate) fn around<R>(call: impl FnOnce() -> R) -> (R, Option<(u64, u64)>) {
    let inside = DEPTH.with(|depth| depth.replace(depth.get().saturating_add(1)));
    let begun = sys::now_ns();
    let answer = call();
    DEPTH.with(|depth| depth.set(inside));
    (answer, (inside == 0).then(|| (begun, sys::now_ns())))
}
