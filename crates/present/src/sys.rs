//! The C library's functions that are used here, and their constants on Linux.
//!
//! Declared by hand: this library is loaded into other people's programs and brings nothing along.

use core::ffi::{CStr, c_char, c_int, c_long, c_ulong, c_void};

pub(crate) type Pointer = *mut c_void;

pub(crate) const RTLD_NEXT: Pointer = -1_isize as Pointer;
pub(crate) const O_RDWR: c_int = 2;
pub(crate) const O_CREAT: c_int = 0o100;
pub(crate) const O_EXCL: c_int = 0o200;
pub(crate) const O_NOFOLLOW: c_int = 0o400_000;
pub(crate) const O_CLOEXEC: c_int = 0o2_000_000;
pub(crate) const PROT_READ_WRITE: c_int = 3;
pub(crate) const MAP_SHARED: c_int = 1;
pub(crate) const MAP_NORESERVE: c_int = 0x4000;
pub(crate) const MAP_FAILED: Pointer = -1_isize as Pointer;
pub(crate) const MADV_POPULATE_WRITE: c_int = 23;
pub(crate) const ENOENT: c_int = 2;
pub(crate) const EFBIG: c_int = 27;
pub(crate) const ENAMETOOLONG: c_int = 36;
const CLOCK_MONOTONIC: c_int = 1;
const RLIMIT_FSIZE: c_int = 1;
const SYS_GETTID: c_long = if cfg!(target_arch = "x86_64") { 186 } else { 178 };

#[repr(C)]
struct Timespec {
    seconds: i64,
    nanoseconds: i64,
}

#[repr(C)]
struct Rlimit {
    now: c_ulong,
    most: c_ulong,
}

type AtFork = Option<unsafe extern "C" fn()>;

unsafe extern "C" {
    pub(crate) fn dlvsym(handle: Pointer, name: *const c_char, version: *const c_char) -> Pointer;
    pub(crate) fn open(path: *const c_char, flags: c_int, mode: c_int) -> c_int;
    pub(crate) fn close(fd: c_int) -> c_int;
    pub(crate) fn rename(from: *const c_char, to: *const c_char) -> c_int;
    pub(crate) fn unlink(path: *const c_char) -> c_int;
    pub(crate) fn posix_fallocate(fd: c_int, from: i64, length: i64) -> c_int;
    pub(crate) fn mmap(
        at: Pointer,
        length: usize,
        protection: c_int,
        flags: c_int,
        fd: c_int,
        from: i64,
    ) -> Pointer;
    pub(crate) fn munmap(at: Pointer, length: usize) -> c_int;
    pub(crate) fn madvise(at: Pointer, length: usize, advice: c_int) -> c_int;
    pub(crate) fn getpid() -> c_int;
    pub(crate) fn sched_yield() -> c_int;
    pub(crate) fn readlink(path: *const c_char, to: *mut c_char, length: usize) -> isize;
    pub(crate) fn pthread_atfork(before: AtFork, parent: AtFork, child: AtFork) -> c_int;
    fn getenv(name: *const c_char) -> *const c_char;
    fn clock_gettime(clock: c_int, to: *mut Timespec) -> c_int;
    fn getrlimit(what: c_int, to: *mut Rlimit) -> c_int;
    fn syscall(number: c_long, ...) -> c_long;
    fn __errno_location() -> *mut c_int;
}

/// Returns the monotonic clock in nanoseconds: the one that the tool reads.
#[inline]
pub(crate) fn now_ns() -> u64 {
    let mut time = Timespec { seconds: 0, nanoseconds: 0 };
    // SAFETY: it writes one `timespec`, which ours is.
    unsafe { clock_gettime(CLOCK_MONOTONIC, &raw mut time) };
    (time.seconds as u64).wrapping_mul(1_000_000_000).wrapping_add(time.nanoseconds as u64)
}

/// Returns the kernel's number of the calling thread.
pub(crate) fn thread_id() -> u32 {
    // SAFETY: this call takes nothing and cannot fail.
    unsafe { syscall(SYS_GETTID) as u32 }
}

/// Returns the largest file that this process may write; past it the kernel would end it by a signal.
pub(crate) fn largest_file() -> u64 {
    let mut limit = Rlimit { now: 0, most: 0 };
    // SAFETY: it writes one `rlimit`, which ours is.
    if unsafe { getrlimit(RLIMIT_FSIZE, &raw mut limit) } == 0 { limit.now } else { u64::MAX }
}

/// Returns what the environment holds under `name`, if anything.
pub(crate) fn environment(name: &CStr) -> Option<&'static CStr> {
    // SAFETY: `name` ends in a zero; the text is copied before anything else could change it.
    let found = unsafe { getenv(name.as_ptr()) };
    // SAFETY: what is not null is a text of the environment, which ends in a zero.
    (!found.is_null()).then(|| unsafe { CStr::from_ptr(found) })
}

/// Keeps the program's error number through whatever is done while it lives.
pub(crate) struct KeepErrno(c_int);

impl KeepErrno {
    pub(crate) fn new() -> Self {
        Self(errno())
    }
}

impl Drop for KeepErrno {
    fn drop(&mut self) {
        // SAFETY: the location belongs to this thread for as long as it lives.
        unsafe { *__errno_location() = self.0 }
    }
}

/// Returns the error number of the last call that failed.
pub(crate) fn errno() -> c_int {
    // SAFETY: as above.
    unsafe { *__errno_location() }
}
