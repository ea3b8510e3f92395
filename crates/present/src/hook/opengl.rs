//! OpenGL by way of GLX and EGL: the functions that present, and the libraries' own look-ups.
//!
//! Their names, types and meaning are those of the GLX 1.4 and EGL 1.5 specifications and of the
//! extensions `GLX_OML_sync_control`, `EGL_KHR_swap_buffers_with_damage` and its `EXT` twin.

use super::{Hook, presented};
use crate::sys::Pointer;
use core::ffi::{CStr, c_char, c_int, c_uchar, c_ulong};
use core::mem::transmute;
use honest_lap_present_abi::Api;

type GlxSwap = unsafe extern "C" fn(Pointer, c_ulong);
type GlxSwapAt = unsafe extern "C" fn(Pointer, c_ulong, i64, i64, i64) -> i64;
type EglSwap = unsafe extern "C" fn(Pointer, Pointer) -> u32;
type EglSwapParts = unsafe extern "C" fn(Pointer, Pointer, *const c_int, c_int) -> u32;
type Look = unsafe extern "C" fn(*const c_uchar) -> Pointer;

static GLX_SWAP: Hook = Hook::new(c"glXSwapBuffers", glXSwapBuffers as GlxSwap as Pointer);
static GLX_SWAP_AT: Hook =
    Hook::new(c"glXSwapBuffersMscOML", glXSwapBuffersMscOML as GlxSwapAt as Pointer);
static GLX_LOOK: Hook = Hook::new(c"glXGetProcAddress", glXGetProcAddress as Look as Pointer);
static GLX_LOOK_ARB: Hook =
    Hook::new(c"glXGetProcAddressARB", glXGetProcAddressARB as Look as Pointer);
static EGL_SWAP: Hook = Hook::new(c"eglSwapBuffers", eglSwapBuffers as EglSwap as Pointer);
static EGL_SWAP_PARTS: Hook = Hook::new(
    c"eglSwapBuffersWithDamageKHR",
    eglSwapBuffersWithDamageKHR as EglSwapParts as Pointer,
);
static EGL_SWAP_PARTS_EXT: Hook = Hook::new(
    c"eglSwapBuffersWithDamageEXT",
    eglSwapBuffersWithDamageEXT as EglSwapParts as Pointer,
);
static EGL_LOOK: Hook = Hook::new(c"eglGetProcAddress", eglGetProcAddress as Look as Pointer);

/// Every function that we stand in front of, but `dlsym`.
pub(super) static ALL: &[&Hook] = &[
    &GLX_SWAP,
    &GLX_SWAP_AT,
    &GLX_LOOK,
    &GLX_LOOK_ARB,
    &EGL_SWAP,
    &EGL_SWAP_PARTS,
    &EGL_SWAP_PARTS_EXT,
    &EGL_LOOK,
];

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

/// # Safety
/// As of the function of this name.
#[unsafe(no_mangle)]
pub unsafe extern "C" fn glXSwapBuffers(display: Pointer, drawable: c_ulong) {
    // SAFETY: what is behind the hook has this type, and the arguments are the caller's.
    let call = |real| unsafe { transmute::<Pointer, GlxSwap>(real)(display, drawable) };
    presented(Api::Glx, drawable, &GLX_SWAP, call, |()| true);
}

/// # Safety
/// As of the function of this name.
#[unsafe(no_mangle)]
pub unsafe extern "C" fn glXSwapBuffersMscOML(
    display: Pointer,
    drawable: c_ulong,
    target: i64,
    divisor: i64,
    remainder: i64,
) -> i64 {
    // SAFETY: as above.
    let call = |real| unsafe {
        transmute::<Pointer, GlxSwapAt>(real)(display, drawable, target, divisor, remainder)
    };
    let shown = |count: &i64| *count >= 0;
    presented(Api::Glx, drawable, &GLX_SWAP_AT, call, shown).unwrap_or(-1)
}

/// # Safety
/// As of the function of this name.
#[unsafe(no_mangle)]
pub unsafe extern "C" fn eglSwapBuffers(display: Pointer, surface: Pointer) -> u32 {
    // SAFETY: as above.
    let call = |real| unsafe { transmute::<Pointer, EglSwap>(real)(display, surface) };
    presented(Api::Egl, surface as u64, &EGL_SWAP, call, |done| *done != 0).unwrap_or(0)
}

/// # Safety
/// As of the function of this name.
unsafe fn swap_parts(
    hook: &Hook,
    display: Pointer,
    surface: Pointer,
    parts: *const c_int,
    count: c_int,
) -> u32 {
    // SAFETY: as above.
    let call =
        |real| unsafe { transmute::<Pointer, EglSwapParts>(real)(display, surface, parts, count) };
    presented(Api::Egl, surface as u64, hook, call, |done| *done != 0).unwrap_or(0)
}

/// # Safety
/// As of the function of this name.
#[unsafe(no_mangle)]
pub unsafe extern "C" fn eglSwapBuffersWithDamageKHR(
    display: Pointer,
    surface: Pointer,
    parts: *const c_int,
    count: c_int,
) -> u32 {
    // SAFETY: the caller upholds it.
    unsafe { swap_parts(&EGL_SWAP_PARTS, display, surface, parts, count) }
}

/// # Safety
/// As of the function of this name.
#[unsafe(no_mangle)]
pub unsafe extern "C" fn eglSwapBuffersWithDamageEXT(
    display: Pointer,
    surface: Pointer,
    parts: *const c_int,
    count: c_int,
) -> u32 {
    // SAFETY: the caller upholds it.
    unsafe { swap_parts(&EGL_SWAP_PARTS_EXT, display, surface, parts, count) }
}

/// Looks `name` up by the library's own function, and hands ourselves out in its place.
///
/// # Safety
/// `name` is null or ends in a zero.
unsafe fn look(by: &Hook, name: *const c_uchar) -> Pointer {
    let real = by.real(false);
    if real.is_null() {
        return real;
    }
    // SAFETY: what is behind the hook has this type, and the name is the caller's.
    let (found, known) =
        unsafe { (transmute::<Pointer, Look>(real)(name), hook(name.cast::<c_char>())) };
    known.map_or(found, |hook| hook.in_place_of(found))
}

/// # Safety
/// As of the function of this name.
#[unsafe(no_mangle)]
pub unsafe extern "C" fn glXGetProcAddress(name: *const c_uchar) -> Pointer {
    // SAFETY: the caller upholds it.
    unsafe { look(&GLX_LOOK, name) }
}

/// # Safety
/// As of the function of this name.
#[unsafe(no_mangle)]
pub unsafe extern "C" fn glXGetProcAddressARB(name: *const c_uchar) -> Pointer {
    // SAFETY: the caller upholds it.
    unsafe { look(&GLX_LOOK_ARB, name) }
}

/// # Safety
/// As of the function of this name.
#[unsafe(no_mangle)]
pub unsafe extern "C" fn eglGetProcAddress(name: *const c_uchar) -> Pointer {
    // SAFETY: the caller upholds it.
    unsafe { look(&EGL_LOOK, name) }
}
