//! The layout itself: what both sides write, with its sizes asserted.

use core::mem::{offset_of, size_of};
use core::sync::atomic::{AtomicU32, AtomicU64};

/// The variable that says where the file is. Without it the recorder does nothing.
pub const FILE: &str = "HONEST_LAP_PRESENTED";
/// The name of the Vulkan layer, as its manifest and the loader's variables say it.
pub const LAYER: &str = "VK_LAYER_HONEST_LAP_presented";

/// The layout that this crate describes.
pub const VERSION: u32 = 2;
/// How the file begins.
pub const MAGIC: [u8; 8] = *b"LAPSHOWN";

/// How long the header is.
pub const HEADER_BYTES: usize = 4096;
/// The size of a process's entry.
pub const PROCESS_BYTES: usize = 1024;
/// The most processes that can say who they are; those that come later are known by [`NOBODY`].
pub const MOST_PROCESSES: usize = 512;
/// The place of a process that could not say who it is.
pub const NOBODY: u32 = (1 << 24) - 1;
/// Where records begin.
pub const RECORDS_AT: usize = HEADER_BYTES + MOST_PROCESSES * PROCESS_BYTES;
/// The size of a record.
pub const RECORD_BYTES: usize = 32;
/// The most presents of one lap; what comes after is counted as dropped.
pub const MOST_RECORDS: usize = (1 << 25) - RECORDS_AT / RECORD_BYTES;

/// Through which interface a frame was presented.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
#[repr(u8)]
pub enum Api {
    /// OpenGL by way of the X window system.
    Glx = 1,
    /// OpenGL by way of EGL.
    Egl = 2,
    /// Vulkan.
    Vulkan = 3,
}

/// The beginning of the file.
#[repr(C)]
pub struct Header {
    /// [`MAGIC`].
    pub magic: [u8; 8],
    /// [`VERSION`].
    pub version: u32,
    /// [`RECORD_BYTES`].
    pub record_bytes: u32,
    /// How many records were begun.
    pub next: AtomicU64,
    /// Presents for which there was no room; each of them has a place all the same.
    pub dropped: AtomicU64,
    /// How many records there is room for. The reader alone writes it; it never falls.
    pub room: AtomicU64,
    /// How many times the recorder was loaded.
    pub loaded: AtomicU32,
    /// How many processes have presented.
    pub processes: AtomicU32,
    /// How many times the recorder was loaded and could not map the records.
    pub unmapped: AtomicU32,
    /// Functions of which it is not sure that they are called as they were meant, or recorded: more were looked up than
    /// there are ways through the recorder, or several libraries have what a caller without a name is linked against.
    pub unsure: AtomicU32,
}

/// A process that has presented.
#[repr(C)]
pub struct Process {
    /// 1 once the rest is there.
    pub known: AtomicU32,
    /// Its number.
    pub number: u32,
    /// The path of its program, ended by a zero.
    pub program: [u8; PROCESS_BYTES - 8],
}

/// One present.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[repr(C)]
pub struct Record {
    /// When the call was made, on the monotonic clock.
    pub begun_ns: u64,
    /// What it was presented to: an X drawable, an EGL surface, a Vulkan surface.
    pub surface: u64,
    /// How long the call took; the most that fits where it took longer.
    pub took_ns: u32,
    /// Which thread of its process called, counted from 1.
    pub thread: u32,
    /// Through which interface, and of which process: see [`Record::by`].
    pub by: u32,
    /// Its place in the file counted from 1, written last.
    pub written: u32,
}

impl Record {
    /// Returns an interface in the lowest byte, and above it the place of a process, counted from 0.
    pub const fn by(api: Api, process: u32) -> u32 {
        api as u32 | process << 8
    }
}

const _: () = assert!(size_of::<Record>() == RECORD_BYTES && offset_of!(Record, written) == 28);
const _: () = assert!(size_of::<Header>() == 56 && offset_of!(Header, next) == 16);
const _: () = assert!(offset_of!(Header, dropped) == 24 && offset_of!(Header, room) == 32);
const _: () = assert!(offset_of!(Header, loaded) == 40 && offset_of!(Header, unmapped) == 48);
const _: () = assert!(size_of::<Process>() == PROCESS_BYTES && offset_of!(Process, program) == 8);
const _: () = assert!(RECORDS_AT.is_multiple_of(HEADER_BYTES));

/// Where [`Header::room`] stands in the file.
pub const ROOM_AT: usize = offset_of!(Header, room);
