//! What the recorder asks of the system, without a C library between: whichever one the program has is the program's.

use crate::Pointer;
use crate::machine::{CALLS, O_NOFOLLOW, call};
use core::ffi::{CStr, c_char, c_int};

pub(crate) const PAGE_BYTES: usize = 4096;

const PROT_READ_WRITE: usize = 3;
const MAP_SHARED: usize = 1;
const MAP_PRIVATE: usize = 2;
const MAP_ANONYMOUS: usize = 0x20;
const MAP_NORESERVE: usize = 0x4000;
const MREMAP_MAYMOVE: usize = 1;
const MADV_WIPEONFORK: usize = 18;
const O_RDWR: usize = 2;
const O_CLOEXEC: usize = 0o2_000_000;
const AT_FDCWD: usize = -100_isize as usize;
const RLIMIT_AS: usize = 9;
const CLOCK_MONOTONIC: usize = 1;

/// A moment as the kernel tells it.
#[repr(C)]
#[derive(Default)]
pub(crate) struct Timespec {
    pub(crate) seconds: isize,
    pub(crate) nanoseconds: isize,
}

/// Returns a mapping that a call made; `None` where it made none.
fn mapping(answer: isize) -> Option<Pointer> {
    (!(-4095..0).contains(&answer)).then_some(answer as Pointer)
}

/// Opens the plain file at `path` to be read and written, if it is there.
///
/// # Safety
/// The path ends in a zero.
pub(crate) unsafe fn open(path: *const c_char) -> Option<c_int> {
    let flags = O_RDWR | O_NOFOLLOW | O_CLOEXEC;
    // SAFETY: the caller upholds it.
    let fd = unsafe { call(CALLS.openat, [AT_FDCWD, path as usize, flags, 0, 0, 0]) };
    c_int::try_from(fd).ok().filter(|fd| *fd >= 0)
}

pub(crate) fn close(fd: c_int) {
    // SAFETY: it is ours.
    unsafe { call(CALLS.close, [fd as usize, 0, 0, 0, 0, 0]) };
}

/// Returns how long a file is; 0 where it is none that has a length.
pub(crate) fn length(fd: c_int) -> u64 {
    const END: usize = 2;
    // SAFETY: it is ours.
    u64::try_from(unsafe { call(CALLS.lseek, [fd as usize, 0, END, 0, 0, 0]) }).unwrap_or(0)
}

/// Maps the first `length` bytes of a file, shared with all who do.
pub(crate) fn map(fd: c_int, length: usize) -> Option<Pointer> {
    let flags = MAP_SHARED | MAP_NORESERVE;
    // SAFETY: it is a new mapping.
    mapping(unsafe { call(CALLS.mmap, [0, length, PROT_READ_WRITE, flags, fd as usize, 0]) })
}

/// Returns a second mapping of what `mapped` maps, `length` bytes long, with no need of the file; the first stays.
///
/// # Safety
/// `mapped` is a shared mapping.
pub(crate) unsafe fn map_longer(mapped: Pointer, length: usize) -> Option<Pointer> {
    // SAFETY: asked for 0 bytes of the old one, the kernel makes a new one beside it.
    mapping(unsafe { call(CALLS.mremap, [mapped as usize, 0, length, MREMAP_MAYMOVE, 0, 0]) })
}

/// Takes a mapping back.
///
/// # Safety
/// It is ours, and nobody uses it.
pub(crate) unsafe fn unmap(mapped: Pointer, length: usize) {
    // SAFETY: the caller upholds it.
    unsafe { call(CALLS.munmap, [mapped as usize, length, 0, 0, 0, 0]) };
}

/// Returns fresh memory, all zeros.
pub(crate) fn memory(length: usize) -> Option<Pointer> {
    let flags = MAP_PRIVATE | MAP_ANONYMOUS;
    // SAFETY: it is a new mapping.
    mapping(unsafe { call(CALLS.mmap, [0, length, PROT_READ_WRITE, flags, usize::MAX, 0]) })
}

/// Has the page at `at` be all zeros in every child of a fork; returns whether the kernel knows how to.
///
/// # Safety
/// It is a page of [`memory`].
pub(crate) unsafe fn wipe_on_fork(at: Pointer) -> bool {
    // SAFETY: the caller upholds it.
    unsafe { call(CALLS.madvise, [at as usize, PAGE_BYTES, MADV_WIPEONFORK, 0, 0, 0]) == 0 }
}

pub(crate) fn process_number() -> u32 {
    // SAFETY: it takes nothing and cannot fail.
    unsafe { call(CALLS.getpid, [0; 6]) as u32 }
}

/// Reads where a link leads to into `to`, `length` bytes at most, and returns how many it took.
///
/// # Safety
/// So many bytes from `to` on are ours.
pub(crate) unsafe fn read_link(path: &CStr, to: *mut u8, length: usize) -> usize {
    let with = [AT_FDCWD, path.as_ptr() as usize, to as usize, length, 0, 0];
    // SAFETY: the path ends in a zero, and the caller upholds the rest.
    usize::try_from(unsafe { call(CALLS.readlinkat, with) }).unwrap_or(0)
}

/// Returns how much address space this process may have.
pub(crate) fn most_address_space() -> u64 {
    let mut limit = [usize::MAX; 2];
    // SAFETY: it writes two numbers, which ours are.
    unsafe { call(CALLS.getrlimit, [RLIMIT_AS, (&raw mut limit) as usize, 0, 0, 0, 0]) };
    limit[0] as u64
}

/// Reads the monotonic clock by way of the kernel itself.
pub(crate) fn clock(time: &mut Timespec) {
    // SAFETY: it writes one `timespec`, which ours is.
    unsafe { call(CALLS.clock_gettime, [CLOCK_MONOTONIC, time as *mut _ as usize, 0, 0, 0, 0]) };
}
