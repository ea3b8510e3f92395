//! Who this process is: its environment and program as they were when the recorder was loaded, and its forks.

use crate::kernel::{self, PAGE_BYTES};
use crate::machine::environment;
use crate::text;
use core::arch::global_asm;
use core::ffi::c_char;
use core::sync::atomic::{
    AtomicBool, AtomicPtr, AtomicU32, Ordering::AcqRel, Ordering::Acquire, Ordering::Relaxed,
    Ordering::Release,
};
use honest_lap_present_abi::{Api, Header, MOST_PROCESSES, NOBODY, PROCESS_BYTES, Process, Record};

// As that of libraries: weakly, and of no version.
global_asm!(".weak environ");

/// The path of the program, ended by a zero.
static PROGRAM: [AtomicU32; PROGRAM_WORDS] = [const { AtomicU32::new(0) }; PROGRAM_WORDS];
const PROGRAM_WORDS: usize = (PROCESS_BYTES - 8) / 4;

/// What is no more after a fork: on a page that the kernel wipes in the child.
#[repr(C)]
struct Me {
    /// 0 before this process has said who it is; then its place as records hold it, and [`SAID`].
    place: AtomicU32,
    /// The process's number, as it was when the recorder was loaded; 0 in a child of it.
    number: AtomicU32,
}

/// More than any interface is, which records hold in the lowest byte.
const SAID: u32 = 0x80;

/// A process that had no memory for that: nobody knows which one it is.
static NO_ONE: Me =
    Me { place: AtomicU32::new(in_records(NOBODY) + SAID), number: AtomicU32::new(0) };
static ME: AtomicPtr<Me> = AtomicPtr::new((&raw const NO_ONE).cast_mut());
/// Whether the kernel wipes the page; one that does not is asked for the process's number every time.
static WIPED: AtomicBool = AtomicBool::new(false);

/// Returns the path that the environment holds under `name`.
pub(crate) fn variable(name: &str) -> Option<*const c_char> {
    let environ: *const *const *const c_char = environment().cast();
    // SAFETY: it is null or the C library's own, which is null or a list of texts that ends with null.
    unsafe {
        let mut at = *environ.as_ref()?;
        while let Some(&entry) = at.as_ref().filter(|entry| !entry.is_null()) {
            if text::begins(entry, name.as_bytes()) && text::begins(entry.add(name.len()), b"=/") {
                return Some(entry.add(name.len() + 1));
            }
            at = at.add(1);
        }
    }
    None
}

/// Remembers which program this is, and makes ready to see forks.
pub(crate) fn begin() {
    let (to, room) = ((&raw const PROGRAM).cast::<u8>().cast_mut(), PROCESS_BYTES - 9);
    // SAFETY: the room is one short of all of it, so that the last byte stays zero; nobody else is here yet.
    unsafe { kernel::read_link(c"/proc/self/exe", to, room) };
    if let Some(page) = kernel::memory(PAGE_BYTES) {
        // SAFETY: it is a page of our own.
        WIPED.store(unsafe { kernel::wipe_on_fork(page) }, Relaxed);
        let me = page.cast::<Me>();
        // SAFETY: as above.
        unsafe { (*me).number.store(kernel::process_number(), Relaxed) };
        ME.store(me, Relaxed);
    }
}

/// Returns a place as records hold it: above the byte that says by which interface.
const fn in_records(place: u32) -> u32 {
    place << 8
}

/// Returns what records by `api` say of it and of this process, which has its place among those that have said in the file that
/// begins with `header` who they are.
///
/// # Safety
/// `records` is where its records begin, and what lies ahead of them is mapped too.
#[inline(always)]
pub(crate) unsafe fn by(api: Api, header: &Header, records: *mut Record) -> u32 {
    // SAFETY: it is our page, or a part of this library.
    let me = unsafe { &*ME.load(Relaxed) };
    let known = me.place.load(Acquire);
    // SAFETY: the caller upholds it.
    let said = if known != 0 { known } else { unsafe { say(me, header, records) } };
    said.wrapping_add((api as u32).wrapping_sub(SAID))
}

/// Says who this process is, and returns its place, said.
///
/// # Safety
/// As above.
#[cold]
unsafe fn say(me: &Me, header: &Header, records: *mut Record) -> u32 {
    let known = me.number.load(Relaxed);
    if !WIPED.load(Relaxed) {
        // SAFETY: the caller upholds it.
        return unsafe { not_wiped(known, header, records) };
    }
    // Only a child has to ask.
    let number = if known != 0 { known } else { kernel::process_number() };
    // SAFETY: the caller upholds it.
    let place = unsafe { enter(number, header, records) };
    first_of(&me.place, place)
}

/// As above, where a page is not wiped in a child: the first process has its place, and of its children it is not known
/// which is which.
///
/// # Safety
/// As above.
unsafe fn not_wiped(first: u32, header: &Header, records: *mut Record) -> u32 {
    static ENTERED: AtomicU32 = AtomicU32::new(0);
    if kernel::process_number() != first {
        return in_records(NOBODY) + SAID;
    }
    let entered = ENTERED.load(Acquire);
    if entered != 0 {
        return entered;
    }
    // SAFETY: as above.
    let place = unsafe { enter(first, header, records) };
    first_of(&ENTERED, place)
}

/// Keeps a place, and returns the one that is kept: threads that come at once each enter, and all go by the first of them, so
/// that nobody waits.
fn first_of(kept: &AtomicU32, place: u32) -> u32 {
    let place = in_records(place) + SAID;
    kept.compare_exchange(0, place, AcqRel, Acquire).map_or_else(|first| first, |_| place)
}

/// Writes down who this process is, and returns the place of that.
///
/// # Safety
/// As above.
unsafe fn enter(number: u32, header: &Header, records: *mut Record) -> u32 {
    let place = header.processes.fetch_add(1, Relaxed);
    if place as usize >= MOST_PROCESSES {
        return NOBODY;
    }
    // SAFETY: the processes lie right ahead of the records, and the place is ours alone.
    unsafe {
        let entry = records.cast::<Process>().sub(MOST_PROCESSES).add(place as usize);
        (&raw mut (*entry).number).write(number);
        let to = (&raw mut (*entry).program).cast::<u32>();
        for (word, known) in PROGRAM.iter().enumerate() {
            to.add(word).write_volatile(known.load(Relaxed));
        }
        (*entry).known.store(1, Release);
    }
    place
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn only_paths_are_taken_from_the_environment() {
        // SAFETY: what the environment holds ends in a zero.
        assert!(variable("PATH").is_some_and(|path| unsafe { text::begins(path, b"/") }));
        assert_eq!(variable("PAT"), None);
        assert_eq!(variable("HONEST_LAP_NO_SUCH_VARIABLE"), None);
    }
}
