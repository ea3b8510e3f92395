//! The libraries that are loaded, and their own look-ups, which ours stands in front of.

use crate::Pointer;
use crate::elf::Library;
use crate::machine::iterate;
use crate::text;
use core::arch::global_asm;
use core::ffi::{CStr, c_char, c_int};
use core::mem::transmute;
use core::ptr::null_mut;
use core::sync::atomic::{AtomicBool, AtomicPtr, Ordering::Relaxed};

pub(crate) type Dlsym = unsafe extern "C" fn(Pointer, *const c_char) -> Pointer;
type Dlopen = unsafe extern "C" fn(*const c_char, c_int) -> Pointer;
type Dlclose = unsafe extern "C" fn(Pointer) -> c_int;
type Visit = unsafe extern "C" fn(*const Library, usize, Pointer) -> c_int;
type Visitors = unsafe extern "C" fn(Visit, Pointer) -> c_int;

const LAZY: c_int = 1;
const ONLY_IF_LOADED: c_int = 4;

// Asked for weakly, and of no version: whatever C library is there has it, and one that has not is no reason not to load.
global_asm!(".weak dl_iterate_phdr");

/// Whether a look-up in everything sees what only its caller is linked with: glibc's does, musl's does not.
static SEES_OWN: AtomicBool = AtomicBool::new(true);

/// The C library's own `dlsym`.
pub(crate) static DLSYM: AtomicPtr<core::ffi::c_void> = AtomicPtr::new(null_mut());

/// Shows every library that is loaded to `visit`, the program first, until it answers true.
pub(crate) fn each(mut visit: impl FnMut(&Library) -> bool) {
    unsafe extern "C" fn pass_on<F: FnMut(&Library) -> bool>(
        library: *const Library,
        _: usize,
        visit: Pointer,
    ) -> c_int {
        // SAFETY: the loader shows a library, and hands our own pointer through.
        unsafe { c_int::from((*visit.cast::<F>())(&*library)) }
    }
    fn by<F: FnMut(&Library) -> bool>(_: &F) -> Visit {
        pass_on::<F>
    }
    let iterate = iterate();
    if !iterate.is_null() {
        // SAFETY: it is the C library's function of this type, which calls `visit` before it returns.
        unsafe { transmute::<Pointer, Visitors>(iterate)(by(&visit), (&raw mut visit).cast()) };
    }
}

/// Returns a function of the C library itself, whoever stands in front of it.
fn of_c_library(name: &CStr) -> Pointer {
    let mut found = null_mut();
    each(|library| {
        // SAFETY: the loader's names end in a zero.
        let file = unsafe { text::file_name(library.name) };
        // SAFETY: as above.
        let named = |names: &[&[u8]]| names.iter().any(|name| unsafe { text::begins(file, name) });
        let musl = named(&[b"libc.musl", b"ld-musl"]);
        if musl || named(&[b"libc.so", b"libdl.so", b"libdl-"]) {
            found = library.function(name);
        }
        if musl {
            SEES_OWN.store(false, Relaxed);
        }
        !found.is_null()
    });
    found
}

/// Returns the C library's own `dlsym`, which ours hides.
pub(crate) fn dlsym() -> Dlsym {
    let mut real = DLSYM.load(Relaxed);
    if real.is_null() {
        real = of_c_library(c"dlsym");
        DLSYM.store(real, Relaxed);
    }
    if real.is_null() {
        return nothing;
    }
    // SAFETY: it is the C library's `dlsym`, which has this type.
    unsafe { transmute::<Pointer, Dlsym>(real) }
}

/// Returns whether a look-up in everything sees what only its caller is linked with.
pub(crate) fn everything_is_own_too() -> bool {
    SEES_OWN.load(Relaxed)
}

/// Finds nothing: what is left where a C library has no `dlsym`.
unsafe extern "C" fn nothing(_: Pointer, _: *const c_char) -> Pointer {
    null_mut()
}

/// Returns what `name` means to the library that holds the address `caller`, by what it is linked with: for one that
/// was opened for itself alone, whose libraries nobody else sees.
pub(crate) fn seen_from(caller: usize, name: &CStr) -> Pointer {
    let (open, close) = (of_c_library(c"dlopen"), of_c_library(c"dlclose"));
    let mut path: *const c_char = null_mut();
    each(|library| {
        let there = library.holds(caller);
        if there {
            path = library.name;
        }
        there
    });
    if path.is_null() || open.is_null() || close.is_null() {
        return null_mut();
    }
    // SAFETY: they are the C library's, and have these types; nothing is loaded that is not loaded, and what was
    // counted once more is counted once less again. The library stays meanwhile, since its code is calling.
    unsafe {
        let library = transmute::<Pointer, Dlopen>(open)(path, LAZY | ONLY_IF_LOADED);
        if library.is_null() {
            return null_mut();
        }
        let found = dlsym()(library, name.as_ptr());
        transmute::<Pointer, Dlclose>(close)(library);
        found
    }
}

/// Returns a number that changes whenever a library is loaded or unloaded.
pub(crate) fn generation() -> u64 {
    let mut found = 0;
    each(|library| {
        found = library.generation();
        true
    });
    found
}

/// Returns the functions `name` of all libraries but that which holds the address `ours`: the first, and whether there is
/// another.
pub(crate) fn all_of(name: &CStr, ours: usize) -> (Pointer, bool) {
    let (mut first, mut more): (Pointer, bool) = (null_mut(), false);
    each(|library| {
        if !library.holds(ours) {
            let found = library.function(name);
            more |= !found.is_null() && !first.is_null() && found != first;
            first = if first.is_null() { found } else { first };
        }
        more
    });
    (first, more)
}
