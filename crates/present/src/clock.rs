//! The clock that the tool reads too, in nanoseconds.

use crate::Pointer;
use crate::kernel::{self, Timespec};
use crate::libraries::each;
use crate::machine::CLOCK;
use crate::text;
use core::ffi::c_int;
use core::mem::transmute;
use core::ptr::null_mut;
use core::sync::atomic::{AtomicPtr, Ordering::Relaxed};

type Gettime = unsafe extern "C" fn(c_int, *mut Timespec) -> c_int;

const MONOTONIC: c_int = 1;

/// What reads the clock; there always is one, so that none needs to be looked for on the way of a present.
static READER: AtomicPtr<core::ffi::c_void> = AtomicPtr::new(by_call as Gettime as Pointer);

/// Reads the clock by way of the kernel itself.
unsafe extern "C" fn by_call(_: c_int, time: *mut Timespec) -> c_int {
    // SAFETY: whoever calls says where to write.
    unsafe { kernel::clock(&mut *time) };
    0
}

/// Finds how the clock is read without a call to the kernel.
pub(crate) fn find() {
    let mut found = null_mut();
    each(|library| {
        // It is no file: its name has no folder, and some C libraries give it none at all.
        // SAFETY: the loader's names end in a zero.
        if unsafe { text::file_name(library.name) } == library.name {
            found = library.function(CLOCK);
        }
        !found.is_null()
    });
    if !found.is_null() {
        READER.store(found, Relaxed);
    }
}

#[inline(always)]
pub(crate) fn now_ns() -> u64 {
    let mut time = Timespec::default();
    // SAFETY: it is the kernel's or ours, has this type, and writes one `timespec`, which ours is.
    unsafe { transmute::<Pointer, Gettime>(READER.load(Relaxed))(MONOTONIC, &raw mut time) };
    (time.seconds as u64).wrapping_mul(1_000_000_000).wrapping_add(time.nanoseconds as u64)
}
