//! Loaded into graphics programs: notes the moment of every frame that they present.
//!
//! One file in two roles: preloaded, it stands in front of the functions by which OpenGL programs
//! present (`hook/`), linked or looked up; as a Vulkan layer it stands in front of
//! `vkQueuePresentKHR` (`layer/`). Both write records as honest-lap-present-abi lays them out.
//!
//! It runs inside other people's programs, so it brings nothing along: no standard library, no C library of its own
//! (it loads beside any), no memory but its own pages, no lock. All that it needs of the system it asks for when it is
//! loaded; on the way of a present it makes no system call. It never prints and never waits, keeps `errno` by not
//! touching it, holds no descriptor, and counts what it could not record. No panic is left in it, or it would not link.
#![cfg_attr(not(test), no_std)]
#![expect(unsafe_code, reason = "it stands between C programs and C libraries")]
#![cfg(all(
    target_os = "linux",
    any(target_arch = "x86_64", target_arch = "aarch64", target_arch = "x86")
))]

mod book;
mod clock;
mod elf;
mod hook;
mod kernel;
mod layer;
mod libraries;
mod machine;
mod presented;
mod process;
mod text;
mod thread;

/// A pointer as C passes it: to anything, or to a function.
type Pointer = *mut core::ffi::c_void;

/// Runs when the library is loaded, ahead of the program.
extern "C" fn begin() {
    if let Some(path) = process::variable(honest_lap_present_abi::FILE) {
        clock::find();
        process::begin();
        // SAFETY: what the environment holds ends in a zero.
        unsafe { book::open(path) };
    }
}

#[used]
#[cfg_attr(not(test), unsafe(link_section = ".init_array"))]
static BEGIN: extern "C" fn() = begin;

/// There is none to call: what could panic asks for a function that is nowhere, and the recorder is not made.
#[cfg(the_recorder_itself)]
#[panic_handler]
fn no_panic(_: &core::panic::PanicInfo<'_>) -> ! {
    unsafe extern "C" {
        fn a_panic_was_left_in_the_recorder() -> !;
    }
    // SAFETY: it links only where nothing calls this.
    unsafe { a_panic_was_left_in_the_recorder() }
}
