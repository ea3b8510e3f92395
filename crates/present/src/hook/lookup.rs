//! Look-ups: `dlsym` and the graphics libraries' own, for programs that find functions as they run.

use super::behind::{REAL, real_dlsym};
use super::opengl::hook;
use crate::sys::{self, Pointer};
use core::ffi::c_char;
use core::ptr::null_mut;

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
    use core::ffi::CStr;

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
