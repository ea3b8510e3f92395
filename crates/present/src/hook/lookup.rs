//! Look-ups: `dlsym` and the graphics libraries' own, for programs that find functions as they run.

use super::Hook;
use super::opengl::ALL;
use crate::sys::{self, Pointer};
use core::ffi::{CStr, c_char};
use core::ptr::null_mut;
use core::sync::atomic::{AtomicPtr, Ordering::Relaxed};

type Dlsym = unsafe extern "C" fn(Pointer, *const c_char) -> Pointer;

static REAL: AtomicPtr<core::ffi::c_void> = AtomicPtr::new(null_mut());

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

/// Returns the function that we stand in front of under `name`.
///
/// # Safety
/// `name` is null or ends in a zero.
pub(super) unsafe fn hook(name: *const c_char) -> Option<&'static Hook> {
    // SAFETY: it is not null, so it has a first byte; most look-ups end here.
    if name.is_null() || !matches!(unsafe { *name } as u8, b'g' | b'e') {
        return None;
    }
    // SAFETY: the caller upholds it.
    let name = unsafe { CStr::from_ptr(name) };
    ALL.iter().copied().find(|hook| hook.name == name)
}

/// What a look-up comes to: in two registers, for the code below.
#[repr(C)]
struct Answer {
    pointer: Pointer,
    /// 0: not ours; go on to the C library's as if we were not there.
    ours: usize,
}

const NOT_OURS: Answer = Answer { pointer: null_mut(), ours: 0 };

/// # Safety
/// `name` is null or ends in a zero.
unsafe extern "C" fn resolve(handle: Pointer, name: *const c_char) -> Answer {
    let real = real_dlsym();
    // Another recorder asks for what lies below it: it must never be handed ourselves.
    if handle == sys::RTLD_NEXT {
        return NOT_OURS;
    }
    // SAFETY: the caller upholds it.
    let Some(hook) = (unsafe { hook(name) }) else { return NOT_OURS };
    // SAFETY: as above.
    let found = unsafe { real(handle, name) };
    // Our own export, seen by a look-up in everything, must not pretend that the library is there.
    let pointer = match found == hook.ours {
        true if hook.real(false).is_null() => null_mut(),
        true => found,
        false => hook.in_place_of(found),
    };
    Answer { pointer, ours: 1 }
}

/// `dlsym` means something else for each caller (what is "next", what is "default"), which it tells
/// by its return address; so what is not ours is jumped to and not called.
///
/// # Safety
/// As of the C library's `dlsym`.
#[cfg(target_arch = "x86_64")]
#[unsafe(naked)]
#[cfg_attr(not(test), unsafe(no_mangle))]
pub unsafe extern "C" fn dlsym(handle: Pointer, name: *const c_char) -> Pointer {
    core::arch::naked_asm!(
        "push rdi", "push rsi", "sub rsp, 8",
        "call {resolve}",
        "add rsp, 8", "pop rsi", "pop rdi",
        "test rdx, rdx", "jz 2f",
        "ret",
        "2: mov rax, qword ptr [rip + {real}]",
        "test rax, rax", "jz 3f",
        "jmp rax",
        "3: ret",
        resolve = sym resolve,
        real = sym REAL,
    )
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_is_not_there_is_not_found_and_what_is_not_ours_is_passed_on() {
        let look = |name: &CStr| {
            // SAFETY: the name ends in a zero; a null handle means everything that is loaded.
            unsafe { dlsym(null_mut(), name.as_ptr()) }
        };
        assert!(!look(c"getpid").is_null());
        assert!(look(c"eglSwapBuffers").is_null(), "no such library is loaded here");
        assert!(look(c"glXNoSuchThing").is_null());
        // SAFETY: the name ends in a zero.
        assert!(unsafe { hook(c"dlsym".as_ptr()) }.is_none());
    }
}
