//! What lies behind our own `dlsym`: the C library's.

use crate::sys::{self, Pointer};
use core::ffi::c_char;
use core::ptr::null_mut;
use core::sync::atomic::{AtomicPtr, Ordering::Relaxed};

pub(super) type Dlsym = unsafe extern "C" fn(Pointer, *const c_char) -> Pointer;

pub(super) static REAL: AtomicPtr<core::ffi::c_void> = AtomicPtr::new(null_mut());

/// Returns the C library's own `dlsym`, which ours hides. `dlvsym` is not hidden, so it finds it.
pub(super) fn real_dlsym() -> Dlsym {
    let mut real = REAL.load(Relaxed);
    for version in [c"GLIBC_2.34", c"GLIBC_2.2.5", c"GLIBC_2.17"] {
        if !real.is_null() {
            break;
        }
        // SAFETY: both names end in a zero.
        real = unsafe { sys::dlvsym(sys::RTLD_NEXT, c"dlsym".as_ptr(), version.as_ptr()) };
        REAL.store(real, Relaxed);
    }
    if real.is_null() {
        return nothing;
    }
    // SAFETY: it is the C library's `dlsym`, which has this type.
    unsafe { core::mem::transmute::<Pointer, Dlsym>(real) }
}

/// Finds nothing: what is left where a C library has no `dlsym` of a version that we know.
unsafe extern "C" fn nothing(_: Pointer, _: *const c_char) -> Pointer {
    null_mut()
}
