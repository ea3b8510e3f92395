//! The file that presents are recorded in: mapped when the recorder is loaded, and written a record a present.
//!
//! The reader makes the file longer ahead of need, and says how many records there is room for: beyond that a present is
//! counted and not recorded. So a full disk is no signal in the host, and the host's own limits and rules are no matter.

use crate::Pointer;
use crate::kernel;
use crate::process;
use crate::thread;
use core::ffi::{c_char, c_int};
use core::ptr::null_mut;
use core::sync::atomic::{
    AtomicBool, AtomicPtr, AtomicU32, AtomicU64, Ordering::AcqRel, Ordering::Acquire,
    Ordering::Relaxed, Ordering::Release,
};
use honest_lap_present_abi::{
    Api, HEADER_BYTES, Header, MAGIC, RECORD_BYTES, RECORDS_AT, Record, VERSION,
};

/// How much is mapped at first: room for half a million presents. Each window after it is twice as long.
const FIRST_WINDOW: usize = 16 << 20;
const WINDOWS: usize = 8;
/// The share of its address space that a process with little of it is asked for.
const SHARE: u64 = 16;

/// A mapping of the file from its beginning on.
struct Window {
    /// Where its records begin; null before it is mapped.
    records: AtomicPtr<Record>,
    /// How many of them it has.
    count: u64,
}

/// The file's header, or where there is no file one that says so much to nobody: there always is one.
static HEADER: AtomicPtr<Header> = AtomicPtr::new((&raw const NO_HEADER).cast_mut());
static NO_HEADER: Header = Header {
    magic: MAGIC,
    version: VERSION,
    record_bytes: 0,
    next: AtomicU64::new(0),
    dropped: AtomicU64::new(0),
    room: AtomicU64::new(0),
    loaded: AtomicU32::new(0),
    processes: AtomicU32::new(0),
    unmapped: AtomicU32::new(0),
    unsure: AtomicU32::new(0),
};
/// The first has no record; each after it is longer than the one before, which stays, since others may be writing to it.
static WINDOWS_OF_IT: [Window; WINDOWS] = {
    let mut all = [const { Window { records: AtomicPtr::new(null_mut()), count: 0 } }; WINDOWS];
    let mut number = 1;
    while number < WINDOWS {
        all[number].count = ((length_of(number) - RECORDS_AT) / RECORD_BYTES) as u64;
        number += 1;
    }
    all
};
/// The longest.
static LONGEST: AtomicPtr<Window> = AtomicPtr::new((&raw const WINDOWS_OF_IT).cast_mut().cast());
/// Whether a longer one could not be mapped, which is not tried again.
static NO_MORE: AtomicBool = AtomicBool::new(false);

const fn length_of(window: usize) -> usize {
    FIRST_WINDOW << (window - 1)
}

/// Maps the file at `path`, and says in it that the recorder is loaded.
///
/// # Safety
/// The path ends in a zero.
pub(crate) unsafe fn open(path: *const c_char) {
    // SAFETY: the caller upholds it.
    let Some(fd) = (unsafe { kernel::open(path) }) else { return };
    // What is shorter would be a signal at the first look.
    let whole = kernel::length(fd) >= HEADER_BYTES as u64;
    let page = if whole { kernel::map(fd, HEADER_BYTES) } else { None };
    if let Some(page) = page {
        let header = page.cast::<Header>();
        // SAFETY: the mapping is as long as a header, and stays.
        begin(unsafe { &*header }, fd);
    }
    kernel::close(fd);
}

/// Maps the records that `header` stands ahead of, if it is one.
fn begin(header: &'static Header, fd: c_int) {
    if header.magic != MAGIC || header.version != VERSION {
        return;
    }
    header.loaded.fetch_add(1, Relaxed);
    HEADER.store(core::ptr::from_ref(header).cast_mut(), Relaxed);
    let fits = kernel::most_address_space() / SHARE >= FIRST_WINDOW as u64;
    match if fits { kernel::map(fd, FIRST_WINDOW) } else { None } {
        Some(window) => {
            keep(&WINDOWS_OF_IT[1], window);
        }
        None => {
            header.unmapped.fetch_add(1, Relaxed);
        }
    }
}

/// Counts a function of which it is not sure that it is called as it was meant, or recorded.
pub(crate) fn unsure_of_one() {
    // SAFETY: it is ours, or a mapping that begins with a header and stays.
    unsafe { &*HEADER.load(Relaxed) }.unsure.fetch_add(1, Relaxed);
}

/// Makes a mapping a window, and the longest; returns whether it was kept.
fn keep(window: &'static Window, mapped: Pointer) -> bool {
    // SAFETY: it is longer than what lies ahead of the records.
    let records = unsafe { mapped.byte_add(RECORDS_AT) }.cast();
    let kept = window.records.compare_exchange(null_mut(), records, AcqRel, Acquire).is_ok();
    let mut longest = LONGEST.load(Acquire);
    let made = core::ptr::from_ref(window).cast_mut();
    // They lie in one list, each behind the one before.
    while longest < made {
        match LONGEST.compare_exchange(longest, made, AcqRel, Acquire) {
            Ok(_) => break,
            Err(other) => longest = other,
        }
    }
    kept
}

/// Records a present that began and ended at these moments.
#[inline(always)]
pub(crate) fn record(api: Api, surface: u64, begun_ns: u64, ended_ns: u64) {
    // SAFETY: it is ours, or a mapping that begins with a header and stays.
    let header = unsafe { &*HEADER.load(Relaxed) };
    let place = header.next.fetch_add(1, Relaxed);
    // SAFETY: it is one of the list.
    let longest = unsafe { &*LONGEST.load(Acquire) };
    let is_room = place < header.room.load(Acquire);
    let records = match is_room && place < longest.count {
        true => longest.records.load(Relaxed),
        false => {
            let records = if is_room { longer(place) } else { null_mut() };
            if records.is_null() {
                header.dropped.fetch_add(1, Relaxed);
                return;
            }
            records
        }
    };
    let took_ns = ended_ns.wrapping_sub(begun_ns).min(u64::from(u32::MAX)) as u32;
    // SAFETY: the processes lie ahead of the records.
    let by = unsafe { process::by(api, header, records) };
    // SAFETY: the place is ours alone, inside the mapping, allocated, and aligned, as records begin at a whole number of
    // them. `written` is only ever stored to as an atomic.
    unsafe {
        let at = records.add(place as usize);
        (&raw mut (*at).begun_ns).write(begun_ns);
        (&raw mut (*at).surface).write(surface);
        (&raw mut (*at).took_ns).write(took_ns);
        (&raw mut (*at).thread).write(thread::number());
        (&raw mut (*at).by).write(by);
        AtomicU32::from_ptr(&raw mut (*at).written).store(place as u32 + 1, Release);
    }
}

/// Maps the next window, without the file. Whoever comes meanwhile does so too, and one of them is kept: nobody waits.
#[cold]
fn longer(place: u64) -> *mut Record {
    let longest = LONGEST.load(Acquire);
    let wanted = WINDOWS_OF_IT.iter().position(|window| place < window.count);
    // SAFETY: it is one of the list.
    let records = unsafe { &*longest }.records.load(Relaxed);
    let (Some(number), false) = (wanted, records.is_null() || NO_MORE.load(Relaxed)) else {
        return null_mut();
    };
    let length = length_of(number);
    // SAFETY: the longest is mapped, from the beginning of the file on.
    let made = unsafe { kernel::map_longer(records.byte_sub(RECORDS_AT).cast(), length) };
    let (Some(made), Some(window)) = (made, WINDOWS_OF_IT.get(number)) else {
        NO_MORE.store(true, Relaxed);
        return null_mut();
    };
    if !keep(window, made) {
        // SAFETY: nobody else knows it.
        unsafe { kernel::unmap(made, length) };
    }
    window.records.load(Acquire)
}
