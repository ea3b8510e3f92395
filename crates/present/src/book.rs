//! The file of this process: opened at its first present, mapped, and written a record a present.
//!
//! No descriptor is held, since programs close what they do not know. Blocks are allocated before
//! they are written to: a full disk must not become a signal in the host. On any trouble recording
//! stops, and what is dropped is counted.

use crate::lobby;
use crate::sys::{self, KeepErrno};
use crate::text::{PATH_BYTES, Text, variable};
use core::ffi::{CStr, c_char, c_int};
use core::fmt::Write;
use core::ptr::null_mut;
use core::sync::atomic::{
    AtomicBool, AtomicPtr, AtomicU32, Ordering::Acquire, Ordering::Relaxed, Ordering::Release,
};
use honest_lap_present_abi::{
    Api, BLANK, BLANKS, FIRST_BYTES, FOLDER, HEADER_BYTES, Header, MAGIC, MOST_RECORDS,
    RECORD_BYTES, Record, SUFFIX, VERSION,
};
use std::cell::Cell;

/// Address space that the file may grow into.
const MOST_BYTES: usize = HEADER_BYTES + MOST_RECORDS * RECORD_BYTES;
/// By how much we grow the file where its reader has not done so ahead of us.
const GROW_BYTES: usize = 256 << 10;
/// Presents between two looks at the memory ahead: 64 KiB of it.
const BATCH: usize = 2048;
const BATCH_BYTES: usize = BATCH * RECORD_BYTES;
const PAGE: usize = 4096;

/// Where the file is mapped; null before the first present.
static BASE: AtomicPtr<u8> = AtomicPtr::new(null_mut());
/// Whether nothing can be recorded in this process.
static OFF: AtomicBool = AtomicBool::new(false);
/// Held while the file is opened or grown.
static LOCK: AtomicBool = AtomicBool::new(false);
/// The file's path, to open it again by; written while the lock is held.
static mut PATH: [u8; PATH_BYTES] = [0; PATH_BYTES];

thread_local! {
    static THREAD: Cell<u32> = const { Cell::new(0) };
}

struct Locked;

impl Locked {
    fn take() -> Self {
        while LOCK.swap(true, Acquire) {
            // SAFETY: it takes nothing.
            unsafe { sys::sched_yield() };
        }
        Self
    }
}

impl Drop for Locked {
    fn drop(&mut self) {
        LOCK.store(false, Release);
    }
}

/// Records a present that began and ended at these moments.
#[inline]
pub(crate) fn record(api: Api, surface: u64, begun_ns: u64, ended_ns: u64) {
    let mut base = BASE.load(Acquire);
    if base.is_null() {
        if OFF.load(Relaxed) {
            return lobby::drop_one();
        }
        base = open();
        if base.is_null() {
            return lobby::drop_one();
        }
    }
    // SAFETY: a base that is not null is a mapping that begins with a whole header and stays.
    let header = unsafe { &*base.cast::<Header>() };
    if header.trouble.load(Relaxed) != 0 {
        header.dropped.fetch_add(1, Relaxed);
        return;
    }
    let place = header.next.fetch_add(1, Relaxed) as usize;
    let end = HEADER_BYTES + (place + 1) * RECORD_BYTES;
    if place >= MOST_RECORDS || end as u64 > header.allocated.load(Acquire) && !grow(header, end) {
        header.dropped.fetch_add(1, Relaxed);
        header.trouble.compare_exchange(0, sys::EFBIG as u32, Relaxed, Relaxed).ok();
        return;
    }
    let thread = THREAD.with(|thread| match thread.get() {
        0 => {
            thread.set(sys::thread_id());
            thread.get()
        }
        known => known,
    });
    let took_ns = u32::try_from(ended_ns.saturating_sub(begun_ns)).unwrap_or(u32::MAX);
    let whole = Record { begun_ns, surface, took_ns, thread, api: api as u32, written: 0 };
    // SAFETY: the place is ours alone, inside the mapping, allocated, and aligned, as the header is
    // a whole number of records. `written` is only ever stored to as an atomic.
    unsafe {
        let at = base.add(end - RECORD_BYTES).cast::<Record>();
        at.write(whole);
        AtomicU32::from_ptr(&raw mut (*at).written).store(place as u32 + 1, Release);
    }
    if place % BATCH == BATCH / 2 {
        let ahead = (place / BATCH + 1) * BATCH_BYTES + HEADER_BYTES;
        populate(base, ahead, header.allocated.load(Relaxed) as usize);
    }
}

/// Has the kernel bring the pages of a batch in before they are written to, a batch ahead: one call
/// for many pages, and none of them faults in the middle of a present.
fn populate(base: *mut u8, from: usize, allocated: usize) {
    let from = from & !(PAGE - 1);
    let to = (from + BATCH_BYTES + PAGE).min(allocated & !(PAGE - 1));
    if from < to {
        let _keep = KeepErrno::new();
        // SAFETY: the range lies inside the mapping and is allocated; contents do not change. A
        // kernel that does not know the advice refuses it, and pages come in one by one.
        unsafe { sys::madvise(base.add(from).cast(), to - from, sys::MADV_POPULATE_WRITE) };
    }
}

/// Allocates the file up to `end` and beyond; returns whether it is.
#[cold]
fn grow(header: &Header, end: usize) -> bool {
    let _keep = KeepErrno::new();
    let _locked = Locked::take();
    let allocated = header.allocated.load(Acquire) as usize;
    if end <= allocated {
        return true;
    }
    if header.trouble.load(Relaxed) != 0 {
        return false;
    }
    let to = (end + GROW_BYTES).min(MOST_BYTES);
    let trouble = allocate(allocated, to);
    if trouble != 0 {
        header.trouble.store(trouble as u32, Relaxed);
        return false;
    }
    header.allocated.store(to as u64, Release);
    populate(BASE.load(Acquire), allocated, to);
    true
}

/// Allocates the bytes of the file between two places; returns an error number, 0 for none.
fn allocate(from: usize, to: usize) -> c_int {
    if to as u64 > sys::largest_file() {
        return sys::EFBIG;
    }
    // SAFETY: the path ends in a zero, as its last byte is never written; the lock is held.
    let fd = unsafe {
        let flags = sys::O_RDWR | sys::O_CLOEXEC | sys::O_NOFOLLOW;
        sys::open((&raw const PATH).cast::<c_char>(), flags, 0)
    };
    if fd < 0 {
        return sys::errno().max(1);
    }
    // SAFETY: `fd` is ours, just opened, and closed here.
    unsafe {
        let trouble = sys::posix_fallocate(fd, from as i64, (to - from) as i64);
        sys::close(fd);
        trouble
    }
}

/// Opens the file of this process; null where that cannot be done, and then it is not tried again.
#[cold]
fn open() -> *mut u8 {
    let _keep = KeepErrno::new();
    let _locked = Locked::take();
    let base = BASE.load(Acquire);
    if !base.is_null() || OFF.load(Relaxed) {
        return base;
    }
    match create() {
        Ok(base) => {
            BASE.store(base, Release);
            base
        }
        Err(trouble) => {
            OFF.store(true, Relaxed);
            lobby::tell_trouble(trouble);
            null_mut()
        }
    }
}

/// Creates the file and maps it; an error is an error number. The lock is held.
fn create() -> Result<*mut u8, c_int> {
    let folder = variable(FOLDER).ok_or(sys::ENOENT)?;
    let opened_ns = sys::now_ns();
    // SAFETY: it takes nothing.
    let process = unsafe { sys::getpid() };
    let mut path = Text { bytes: [0; PATH_BYTES], length: 0 };
    let named = path.push(folder.to_bytes()).and_then(|()| {
        write!(path, "/{process}-{opened_ns}{SUFFIX}").map_err(|_| sys::ENAMETOOLONG)
    });
    named?;
    // SAFETY: the lock is held, so nobody else touches it.
    unsafe { (&raw mut PATH).write(path.bytes) };
    if FIRST_BYTES as u64 > sys::largest_file() {
        return Err(sys::EFBIG);
    }
    // One that the reader has made ready costs no allocating here, in the middle of a frame.
    let ready = take_blank(folder);
    // SAFETY: the path ends in a zero.
    let fd = unsafe {
        let new = if ready { 0 } else { sys::O_CREAT | sys::O_EXCL };
        let flags = sys::O_RDWR | sys::O_NOFOLLOW | sys::O_CLOEXEC | new;
        sys::open((&raw const PATH).cast::<c_char>(), flags, 0o600)
    };
    if fd < 0 {
        return Err(sys::errno().max(1));
    }
    // SAFETY: `fd` is ours; the mapping is a new one.
    let (trouble, base) = unsafe {
        let allocated = if ready { 0 } else { sys::posix_fallocate(fd, 0, FIRST_BYTES as i64) };
        match allocated {
            0 => {
                let flags = sys::MAP_SHARED | sys::MAP_NORESERVE;
                let base = sys::mmap(null_mut(), MOST_BYTES, sys::PROT_READ_WRITE, flags, fd, 0);
                (if base == sys::MAP_FAILED { sys::errno().max(1) } else { 0 }, base)
            }
            trouble => (trouble, sys::MAP_FAILED),
        }
    };
    // SAFETY: `fd` is ours; a file that nobody maps is of no use to the reader.
    unsafe {
        sys::close(fd);
        if trouble != 0 {
            sys::unlink((&raw const PATH).cast::<c_char>());
            return Err(trouble);
        }
    }
    let base = base.cast::<u8>();
    populate(base, 0, FIRST_BYTES);
    populate(base, BATCH_BYTES, FIRST_BYTES);
    // SAFETY: the file is new and zero, which is a header that says nothing; nobody else knows it
    // yet, and a reader takes it for none before it has its magic.
    unsafe {
        let header = &mut *base.cast::<Header>();
        header.version = VERSION;
        header.record_bytes = RECORD_BYTES as u32;
        header.process = process as u32;
        header.opened_ns = opened_ns;
        *header.allocated.get_mut() = FIRST_BYTES as u64;
        let room = header.program.len() - 1;
        sys::readlink(c"/proc/self/exe".as_ptr(), header.program.as_mut_ptr().cast(), room);
        core::sync::atomic::fence(Release);
        (&raw mut header.magic).write_volatile(MAGIC);
    }
    Ok(base)
}

/// Renames a file that the reader has made ready to our own name; returns whether there was one.
fn take_blank(folder: &CStr) -> bool {
    (0..BLANKS).any(|number| {
        let mut blank = Text { bytes: [0; PATH_BYTES], length: 0 };
        let named =
            blank.push(folder.to_bytes()).is_ok() && write!(blank, "/{BLANK}{number}").is_ok();
        // SAFETY: both paths end in a zero, and the lock is held.
        named && unsafe { sys::rename(blank.bytes.as_ptr().cast(), (&raw const PATH).cast()) } == 0
    })
}

/// In the child of a fork: its presents are its own, in a file of its own.
pub(crate) fn begin_anew() {
    BASE.store(null_mut(), Release);
    OFF.store(false, Relaxed);
    LOCK.store(false, Release);
    THREAD.with(|thread| thread.set(0));
}
