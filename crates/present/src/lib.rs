//! Loaded into graphics programs: notes the moment of every frame that they present.
//!
//! One file in two roles: preloaded, it stands in front of the functions by which OpenGL programs
//! present (`hook/`), linked or looked up; as a Vulkan layer it stands in front of
//! `vkQueuePresentKHR` (`layer/`). Both write records as honest-lap-present-abi lays them out.
//!
//! It runs inside other people's programs: it never prints, never waits, lets no panic out, keeps
//! `errno`, holds no descriptor, and on any trouble stops recording and counts what it drops.
#![expect(unsafe_code, reason = "it stands between C programs and C libraries")]
#![cfg(target_os = "linux")]

mod book;
mod guard;
mod hook;
mod layer;
mod lobby;
mod sys;
mod text;

/// Runs when the library is loaded, ahead of the program.
extern "C" fn begin() {
    guard::mute();
    guard::quietly(|| {
        if text::variable(honest_lap_present_abi::FOLDER).is_some() {
            // SAFETY: the function stays for as long as this library does, which is never unloaded.
            unsafe { sys::pthread_atfork(None, None, Some(in_child)) };
            lobby::enter();
        }
    });
}

unsafe extern "C" fn in_child() {
    book::begin_anew();
}

#[used]
#[cfg_attr(not(test), unsafe(link_section = ".init_array"))]
static BEGIN: extern "C" fn() = begin;
