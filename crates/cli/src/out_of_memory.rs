//! Memory that the system does not give: said in a line, with the status of a failed measurement, instead of an abort.

use rustix::io::write;
use rustix::stdio::stderr;
use std::alloc::{GlobalAlloc, Layout, System};

/// The exit status, as `lap --help` lists it.
const STATUS: i32 = 3;

const SAID: &[u8] = b"error: out of memory: the system gives no more of it\n\
                      help: end other programs, or raise the limit that is set (`ulimit -v`); every lap announced so far is \
                      in the logbook\n";

/// What a run's threads may want at once beside what is loaded: without it the standard library aborts in a new thread,
/// which cannot be told by then.
const ROOM: usize = 16 << 20;

/// Ends the process where the system would not give it room for its threads. Nothing of it is touched, or kept.
pub fn look_for_room() {
    drop(std::hint::black_box(Vec::<u8>::with_capacity(ROOM)));
}

/// The system's allocator, whose refusal ends the process: a logbook is then as after a power cut, which it is made for.
pub struct OrEnd;

/// Says that there is no memory, in two system calls, since whatever else could be called may want some.
#[cold]
fn end() -> ! {
    // There is nowhere left to say that standard error is gone.
    let _ = write(stderr(), SAID);
    signal_hook::low_level::exit(STATUS)
}

fn given(memory: *mut u8) -> *mut u8 {
    if memory.is_null() { end() } else { memory }
}

#[expect(unsafe_code, reason = "an allocator deals in raw memory")]
// SAFETY: every call is the system allocator's own, with what the caller has promised to it.
unsafe impl GlobalAlloc for OrEnd {
    unsafe fn alloc(&self, layout: Layout) -> *mut u8 {
        // SAFETY: as the caller promised.
        given(unsafe { System.alloc(layout) })
    }

    unsafe fn alloc_zeroed(&self, layout: Layout) -> *mut u8 {
        // SAFETY: as the caller promised.
        given(unsafe { System.alloc_zeroed(layout) })
    }

    unsafe fn realloc(&self, memory: *mut u8, layout: Layout, size: usize) -> *mut u8 {
        // SAFETY: as the caller promised.
        given(unsafe { System.realloc(memory, layout, size) })
    }

    unsafe fn dealloc(&self, memory: *mut u8, layout: Layout) {
        // SAFETY: as the caller promised.
        unsafe { System.dealloc(memory, layout) }
    }
}
