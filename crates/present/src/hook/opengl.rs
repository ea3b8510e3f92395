//! OpenGL by way of GLX and EGL: the functions that present, and the libraries' own look-ups.
//!
//! Their names, types and meaning are those of the GLX 1.4 and EGL 1.5 specifications and of the
//! extensions `GLX_OML_sync_control`, `EGL_KHR_swap_buffers_with_damage` and its `EXT` twin.
//!
//! Of each there is one that programs are linked against, which hands on from where it was called, and ways through it
//! for look-ups.

use super::ways::ways;
use super::{Hook, WAYS};
use crate::Pointer;
use crate::machine::hand_on;
use crate::presented::presented;
use crate::text;
use core::ffi::{c_char, c_int, c_uchar};
use core::mem::transmute;
use core::ptr::null_mut;
use core::sync::atomic::{AtomicPtr, Ordering::Acquire};
use honest_lap_present_abi::Api;

/// `GLXDrawable`, a `long` of C: as wide as a pointer.
type Drawable = usize;
type GlxSwap = unsafe extern "C" fn(Pointer, Drawable);
type GlxSwapAt = unsafe extern "C" fn(Pointer, Drawable, i64, i64, i64) -> i64;
type EglSwap = unsafe extern "C" fn(Pointer, Pointer) -> u32;
type EglSwapParts = unsafe extern "C" fn(Pointer, Pointer, *const c_int, c_int) -> u32;
type Look = unsafe extern "C" fn(*const c_uchar) -> Pointer;

/// Every function that we stand in front of, but `dlsym`.
static ALL: [&Hook; 8] = [
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
    ALL.iter().copied().find(|hook| unsafe { text::is(name, hook.name) })
}

/// Exports a function that hands on from where it was called, as one more argument.
macro_rules! linked {
    ($hook:ident, $name:literal, $export:ident($($type:ty),*) $(-> $answer:ty)?, $to:ident, $ways:expr) => {
        static $hook: Hook = Hook::new(
            $name,
            $export as unsafe extern "C" fn($($type),*) $(-> $answer)? as Pointer,
            $ways,
        );

        /// # Safety
        /// As of the function of this name.
        #[unsafe(naked)]
        #[unsafe(no_mangle)]
        pub unsafe extern "C" fn $export($(_: $type),*) $(-> $answer)? {
            hand_on!($to: $($type),*)
        }
    };
}

/// Returns what the way `place` through a function goes on to.
#[inline]
fn target<const PLACE: usize>(targets: &[AtomicPtr<core::ffi::c_void>; WAYS]) -> Pointer {
    targets.get(PLACE).map_or(null_mut(), |target| target.load(Acquire))
}

linked!(
    GLX_SWAP,
    c"glXSwapBuffers",
    glXSwapBuffers(Pointer, Drawable),
    glx_swap_linked,
    ways!(glx_swap_way as GlxSwap)
);

unsafe extern "C" fn glx_swap_linked(display: Pointer, drawable: Drawable, caller: usize) {
    // SAFETY: the caller upholds what the function asks for.
    unsafe { glx_swap(GLX_SWAP.linked(caller), display, drawable) }
}

unsafe extern "C" fn glx_swap_way<const PLACE: usize>(display: Pointer, drawable: Drawable) {
    // SAFETY: as above.
    unsafe { glx_swap(target::<PLACE>(&GLX_SWAP.targets), display, drawable) }
}

#[inline(always)]
unsafe fn glx_swap(real: Pointer, display: Pointer, drawable: Drawable) {
    if real.is_null() {
        return;
    }
    // SAFETY: what is behind the hook has this type, and the arguments are the caller's.
    let call = || unsafe { transmute::<Pointer, GlxSwap>(real)(display, drawable) };
    presented(Api::Glx, drawable as u64, real, call, |()| true);
}

linked!(GLX_SWAP_AT, c"glXSwapBuffersMscOML", glXSwapBuffersMscOML(Pointer, Drawable, i64, i64, i64) -> i64, glx_swap_at_linked, ways!(glx_swap_at_way as GlxSwapAt));

unsafe extern "C" fn glx_swap_at_linked(
    display: Pointer,
    drawable: Drawable,
    target: i64,
    divisor: i64,
    remainder: i64,
    caller: usize,
) -> i64 {
    let real = GLX_SWAP_AT.linked(caller);
    // SAFETY: as above.
    unsafe { glx_swap_at(real, display, drawable, [target, divisor, remainder]) }
}

unsafe extern "C" fn glx_swap_at_way<const PLACE: usize>(
    display: Pointer,
    drawable: Drawable,
    at: i64,
    divisor: i64,
    remainder: i64,
) -> i64 {
    let real = target::<PLACE>(&GLX_SWAP_AT.targets);
    // SAFETY: as above.
    unsafe { glx_swap_at(real, display, drawable, [at, divisor, remainder]) }
}

#[inline(always)]
unsafe fn glx_swap_at(
    real: Pointer,
    display: Pointer,
    drawable: Drawable,
    [target, divisor, remainder]: [i64; 3],
) -> i64 {
    if real.is_null() {
        return -1;
    }
    // SAFETY: as above.
    let call = || unsafe {
        transmute::<Pointer, GlxSwapAt>(real)(display, drawable, target, divisor, remainder)
    };
    presented(Api::Glx, drawable as u64, real, call, |count| *count >= 0)
}

linked!(EGL_SWAP, c"eglSwapBuffers", eglSwapBuffers(Pointer, Pointer) -> u32, egl_swap_linked, ways!(egl_swap_way as EglSwap));

unsafe extern "C" fn egl_swap_linked(display: Pointer, surface: Pointer, caller: usize) -> u32 {
    // SAFETY: as above.
    unsafe { egl_swap(EGL_SWAP.linked(caller), display, surface) }
}

unsafe extern "C" fn egl_swap_way<const PLACE: usize>(display: Pointer, surface: Pointer) -> u32 {
    // SAFETY: as above.
    unsafe { egl_swap(target::<PLACE>(&EGL_SWAP.targets), display, surface) }
}

#[inline(always)]
unsafe fn egl_swap(real: Pointer, display: Pointer, surface: Pointer) -> u32 {
    if real.is_null() {
        return 0;
    }
    // SAFETY: as above.
    let call = || unsafe { transmute::<Pointer, EglSwap>(real)(display, surface) };
    presented(Api::Egl, surface as u64, real, call, |done| *done != 0)
}

/// Writes the functions of one of the twins that present parts of a surface.
macro_rules! egl_swap_parts {
    ($hook:ident, $name:literal, $export:ident, $linked:ident, $way:ident) => {
        linked!(
            $hook,
            $name,
            $export(Pointer, Pointer, *const c_int, c_int) -> u32,
            $linked,
            ways!($way as EglSwapParts)
        );

        unsafe extern "C" fn $linked(
            display: Pointer,
            surface: Pointer,
            parts: *const c_int,
            count: c_int,
            caller: usize,
        ) -> u32 {
            // SAFETY: as above.
            unsafe { egl_swap_parts($hook.linked(caller), display, surface, (parts, count)) }
        }

        unsafe extern "C" fn $way<const PLACE: usize>(
            display: Pointer,
            surface: Pointer,
            parts: *const c_int,
            count: c_int,
        ) -> u32 {
            let real = target::<PLACE>(&$hook.targets);
            // SAFETY: as above.
            unsafe { egl_swap_parts(real, display, surface, (parts, count)) }
        }
    };
}

egl_swap_parts!(
    EGL_SWAP_PARTS,
    c"eglSwapBuffersWithDamageKHR",
    eglSwapBuffersWithDamageKHR,
    egl_swap_parts_khr_linked,
    egl_swap_parts_khr_way
);
egl_swap_parts!(
    EGL_SWAP_PARTS_EXT,
    c"eglSwapBuffersWithDamageEXT",
    eglSwapBuffersWithDamageEXT,
    egl_swap_parts_ext_linked,
    egl_swap_parts_ext_way
);

#[inline(always)]
unsafe fn egl_swap_parts(
    real: Pointer,
    display: Pointer,
    surface: Pointer,
    (parts, count): (*const c_int, c_int),
) -> u32 {
    if real.is_null() {
        return 0;
    }
    // SAFETY: as above.
    let call =
        || unsafe { transmute::<Pointer, EglSwapParts>(real)(display, surface, parts, count) };
    presented(Api::Egl, surface as u64, real, call, |done| *done != 0)
}

/// Writes the functions of one of the libraries' own look-ups.
macro_rules! look {
    ($hook:ident, $name:literal, $export:ident, $linked:ident, $way:ident) => {
        linked!($hook, $name, $export(*const c_uchar) -> Pointer, $linked, ways!($way as Look));

        unsafe extern "C" fn $linked(name: *const c_uchar, caller: usize) -> Pointer {
            // SAFETY: as above.
            unsafe { look($hook.linked(caller), name) }
        }

        unsafe extern "C" fn $way<const PLACE: usize>(name: *const c_uchar) -> Pointer {
            // SAFETY: as above.
            unsafe { look(target::<PLACE>(&$hook.targets), name) }
        }
    };
}

look!(GLX_LOOK, c"glXGetProcAddress", glXGetProcAddress, glx_look_linked, glx_look_way);
look!(
    GLX_LOOK_ARB,
    c"glXGetProcAddressARB",
    glXGetProcAddressARB,
    glx_look_arb_linked,
    glx_look_arb_way
);
look!(EGL_LOOK, c"eglGetProcAddress", eglGetProcAddress, egl_look_linked, egl_look_way);

/// Looks `name` up by the library's own function, and hands a way through what it found out in its place.
unsafe fn look(real: Pointer, name: *const c_uchar) -> Pointer {
    if real.is_null() {
        return real;
    }
    // SAFETY: what is behind the hook has this type, and the name is the caller's.
    let (found, known) =
        unsafe { (transmute::<Pointer, Look>(real)(name), hook(name.cast::<c_char>())) };
    known.map_or(found, |hook| hook.in_place_of(found, real as usize))
}
