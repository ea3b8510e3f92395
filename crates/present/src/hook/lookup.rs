//! Look-ups: `dlsym` and the graphics libraries' own, for programs that find functions as they run.

use super::NEXT;
use super::opengl::hook;
use crate::Pointer;
use crate::libraries::{DLSYM, dlsym as real_dlsym, everything_is_own_too};
use crate::machine::{TwoRegisters, look_up};
use core::ffi::c_char;

/// What a look-up comes to, for the code below: in the first register the answer, in the second whether it is ours.
fn answer(pointer: Pointer) -> TwoRegisters {
    1 << usize::BITS | pointer as usize as TwoRegisters
}

/// Not ours: go on to the C library's as if we were not there.
const NOT_OURS: TwoRegisters = 0;

/// # Safety
/// `name` is null or ends in a zero; `caller` is where the look-up returns to.
unsafe extern "C" fn resolve(handle: Pointer, name: *const c_char, caller: usize) -> TwoRegisters {
    let real = real_dlsym();
    // Another recorder asks for what lies below it: it must never be handed ourselves.
    if handle == NEXT {
        return NOT_OURS;
    }
    // SAFETY: the caller upholds it.
    let Some(hook) = (unsafe { hook(name) }) else { return NOT_OURS };
    // SAFETY: as above.
    let found = unsafe { real(handle, name) };
    // Nobody is at 0.
    let by = if everything_is_own_too() { caller } else { 0 };
    answer(hook.in_place_of(found, by))
}

/// `dlsym` means something else for each caller (what is "next", what is "default"), which it tells
/// by its return address; so what is not ours is jumped to and not called.
///
/// # Safety
/// As of the C library's `dlsym`.
#[unsafe(naked)]
#[cfg_attr(not(test), unsafe(no_mangle))]
pub unsafe extern "C" fn dlsym(handle: Pointer, name: *const c_char) -> Pointer {
    look_up!(resolve, DLSYM)
}

#[cfg(test)]
mod tests {
    use super::*;
    use core::ffi::CStr;
    use core::ptr::null_mut;

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

    #[test]
    fn each_found_function_has_a_way_of_its_own() {
        // SAFETY: the name ends in a zero.
        let hook = unsafe { hook(c"eglSwapBuffersWithDamageEXT".as_ptr()) }.unwrap();
        let targets: Vec<Pointer> = (1..=33).map(|target| (target * 4096) as Pointer).collect();
        let ways: Vec<Pointer> = targets.iter().map(|target| hook.way_to(*target)).collect();
        for (place, way) in ways[..32].iter().enumerate() {
            assert!(!ways[..place].contains(way) && !targets.contains(way));
            assert_eq!(hook.way_to(targets[place]), *way, "asked for again");
            assert_eq!(hook.way_to(*way), *way, "a way through is not gone through twice");
        }
        assert_eq!(ways[32], targets[32], "none is left: as it was found");
    }
}
