//! What the recorder inside a graphics program and its reader agree on: two files and their layout.
//!
//! ```text
//! capture folder
//! ├── lobby                        made by the reader; what every process says that the recorder is loaded into
//! ├── blank-0, blank-1, …          made by the reader: allocated, for a process to take by renaming it
//! ├── 4711-902266101234.presents   of a process, since it first presented: a header, then a record a present
//! └── …
//! ```
//! Numbers are in the machine's own byte order: both sides run on it. A record is complete once its
//! `written` holds its own place counted from 1; what a killed process left half done does not.
//!
//! ```
//! use honest_lap_present_abi::{Api, RECORD_BYTES, Record};
//! let record = Record { begun_ns: 5, surface: 7, took_ns: 3, thread: 11, api: Api::Glx as u32, written: 1 };
//! assert_eq!(Record::from_bytes(&record.to_bytes()), record);
//! assert_eq!(record.to_bytes().len(), RECORD_BYTES);
//! ```
#![warn(missing_docs)]

use core::mem::{offset_of, size_of};
use core::sync::atomic::{AtomicU32, AtomicU64};

/// The variable that says where the capture folder is. Without it the recorder does nothing.
pub const FOLDER: &str = "HONEST_LAP_PRESENTED";
/// The name of the Vulkan layer, as its manifest and the loader's variables say it.
pub const LAYER: &str = "VK_LAYER_HONEST_LAP_presented";
/// The file that every process says a word in.
pub const LOBBY: &str = "lobby";
/// What the name of a process's file ends in.
pub const SUFFIX: &str = ".presents";

/// What the names of blank files begin with; a number from 0 follows.
pub const BLANK: &str = "blank-";
/// How many blank files are kept ready.
pub const BLANKS: u32 = 4;

/// The layout that this crate describes.
pub const VERSION: u32 = 1;
/// How a process's file begins.
pub const MAGIC: [u8; 8] = *b"LAPSHOWN";
/// How the lobby begins.
pub const LOBBY_MAGIC: [u8; 8] = *b"LAPLOBBY";

/// Where records begin: a page, so that the header is never written back with them.
pub const HEADER_BYTES: usize = 4096;
/// The size of a record.
pub const RECORD_BYTES: usize = 32;
/// How long a lobby is.
pub const LOBBY_BYTES: usize = 4096;
/// How long a file is at first: room for 130,944 presents.
pub const FIRST_BYTES: usize = 4 << 20;
/// The most presents of one process; what comes after is counted as dropped.
pub const MOST_RECORDS: usize = (1 << 25) - HEADER_BYTES / RECORD_BYTES;

/// Through which interface a frame was presented.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
#[repr(u32)]
pub enum Api {
    /// OpenGL by way of the X window system.
    Glx = 1,
    /// OpenGL by way of EGL.
    Egl = 2,
    /// Vulkan.
    Vulkan = 3,
}

impl Api {
    /// Returns the interface of this number.
    pub fn from_number(number: u32) -> Option<Self> {
        [Self::Glx, Self::Egl, Self::Vulkan].into_iter().find(|api| *api as u32 == number)
    }
}

/// The beginning of a process's file.
#[repr(C)]
pub struct Header {
    /// [`MAGIC`], written last.
    pub magic: [u8; 8],
    /// [`VERSION`].
    pub version: u32,
    /// [`RECORD_BYTES`].
    pub record_bytes: u32,
    /// How many records were begun.
    pub next: AtomicU64,
    /// Presents that could not be recorded.
    pub dropped: AtomicU64,
    /// The error number for which recording stopped; 0 while it goes on.
    pub trouble: AtomicU32,
    /// The process.
    pub process: u32,
    /// When the file was made, on the monotonic clock.
    pub opened_ns: u64,
    /// How many bytes of the file are allocated. Whoever grows it, the recorder or its reader,
    /// writes it afterwards; it never falls.
    pub allocated: AtomicU64,
    /// The path of the program, ended by a zero.
    pub program: [u8; 1024],
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
    /// The thread that called.
    pub thread: u32,
    /// Through which interface: an [`Api`].
    pub api: u32,
    /// Its place in the file counted from 1, written last.
    pub written: u32,
}

/// What every process says that the recorder is loaded into, together.
#[repr(C)]
pub struct Lobby {
    /// [`LOBBY_MAGIC`].
    pub magic: [u8; 8],
    /// [`VERSION`].
    pub version: u32,
    /// How many times it was loaded.
    pub loaded: AtomicU32,
    /// Presents of processes that have no file of their own.
    pub dropped: AtomicU64,
    /// The last error number for which a process could make none.
    pub trouble: AtomicU32,
    /// For alignment.
    pub unused: u32,
}

const _: () = assert!(size_of::<Record>() == RECORD_BYTES && offset_of!(Record, written) == 28);
const _: () = assert!(size_of::<Header>() <= HEADER_BYTES && offset_of!(Header, next) == 16);
const _: () = assert!(offset_of!(Header, dropped) == 24 && offset_of!(Header, trouble) == 32);
const _: () = assert!(offset_of!(Header, allocated) == 48 && offset_of!(Header, program) == 56);
const _: () = assert!(size_of::<Lobby>() == 32 && offset_of!(Lobby, dropped) == 16);
const _: () = assert!(HEADER_BYTES.is_multiple_of(RECORD_BYTES));

/// Where [`Header::allocated`] stands in the file.
pub const ALLOCATED_AT: usize = offset_of!(Header, allocated);

/// What a header says, read from bytes.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct HeaderRead {
    /// How many records were begun.
    pub next: u64,
    /// Presents that could not be recorded.
    pub dropped: u64,
    /// The error number for which recording stopped, if it did.
    pub trouble: Option<u32>,
    /// The process.
    pub process: u32,
    /// When the file was made.
    pub opened_ns: u64,
    /// How many bytes of the file are allocated.
    pub allocated: u64,
    /// The path of the program.
    pub program: Vec<u8>,
}

impl HeaderRead {
    /// Reads the beginning of a file; `None` where it is none of ours, or not finished.
    pub fn from_bytes(bytes: &[u8]) -> Option<Self> {
        let whole = bytes.get(..size_of::<Header>())?;
        let (u32_at, u64_at) = (|at| u32_at(whole, at), |at| u64_at(whole, at));
        let ours = whole.starts_with(&MAGIC)
            && u32_at(offset_of!(Header, version)) == VERSION
            && u32_at(offset_of!(Header, record_bytes)) as usize == RECORD_BYTES;
        let program = &whole[offset_of!(Header, program)..];
        let end = program.iter().position(|&byte| byte == 0).unwrap_or(program.len());
        ours.then(|| Self {
            next: u64_at(offset_of!(Header, next)),
            dropped: u64_at(offset_of!(Header, dropped)),
            trouble: Some(u32_at(offset_of!(Header, trouble))).filter(|&number| number > 0),
            process: u32_at(offset_of!(Header, process)),
            opened_ns: u64_at(offset_of!(Header, opened_ns)),
            allocated: u64_at(offset_of!(Header, allocated)),
            program: program[..end].to_vec(),
        })
    }
}

impl Record {
    /// Reads one record.
    pub fn from_bytes(bytes: &[u8; RECORD_BYTES]) -> Self {
        Self {
            begun_ns: u64_at(bytes, offset_of!(Self, begun_ns)),
            surface: u64_at(bytes, offset_of!(Self, surface)),
            took_ns: u32_at(bytes, offset_of!(Self, took_ns)),
            thread: u32_at(bytes, offset_of!(Self, thread)),
            api: u32_at(bytes, offset_of!(Self, api)),
            written: u32_at(bytes, offset_of!(Self, written)),
        }
    }

    /// Returns the bytes of a record, as the recorder leaves them.
    pub fn to_bytes(&self) -> [u8; RECORD_BYTES] {
        let mut bytes = [0; RECORD_BYTES];
        let mut put = |at: usize, value: &[u8]| bytes[at..at + value.len()].copy_from_slice(value);
        put(offset_of!(Self, begun_ns), &self.begun_ns.to_ne_bytes());
        put(offset_of!(Self, surface), &self.surface.to_ne_bytes());
        put(offset_of!(Self, took_ns), &self.took_ns.to_ne_bytes());
        put(offset_of!(Self, thread), &self.thread.to_ne_bytes());
        put(offset_of!(Self, api), &self.api.to_ne_bytes());
        put(offset_of!(Self, written), &self.written.to_ne_bytes());
        bytes
    }
}

/// What a lobby says, read from bytes.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub struct LobbyRead {
    /// How many times the recorder was loaded.
    pub loaded: u32,
    /// Presents of processes that have no file of their own.
    pub dropped: u64,
    /// The last error number for which a process could make none.
    pub trouble: Option<u32>,
}

impl LobbyRead {
    /// Reads a lobby; `None` where it is none.
    pub fn from_bytes(bytes: &[u8]) -> Option<Self> {
        let whole = bytes.get(..size_of::<Lobby>())?;
        let trouble = u32_at(whole, offset_of!(Lobby, trouble));
        whole.starts_with(&LOBBY_MAGIC).then(|| Self {
            loaded: u32_at(whole, offset_of!(Lobby, loaded)),
            dropped: u64_at(whole, offset_of!(Lobby, dropped)),
            trouble: Some(trouble).filter(|&number| number > 0),
        })
    }
}

/// Returns the bytes of a lobby in which nobody has said a word yet.
pub fn empty_lobby() -> [u8; LOBBY_BYTES] {
    let mut bytes = [0; LOBBY_BYTES];
    bytes[..8].copy_from_slice(&LOBBY_MAGIC);
    let version = offset_of!(Lobby, version);
    bytes[version..version + 4].copy_from_slice(&VERSION.to_ne_bytes());
    bytes
}

fn u32_at(bytes: &[u8], at: usize) -> u32 {
    u32::from_ne_bytes(core::array::from_fn(|byte| bytes[at + byte]))
}

fn u64_at(bytes: &[u8], at: usize) -> u64 {
    u64::from_ne_bytes(core::array::from_fn(|byte| bytes[at + byte]))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_header_is_read_only_when_it_is_finished_and_ours() {
        let mut bytes = vec![0_u8; HEADER_BYTES];
        assert_eq!(HeaderRead::from_bytes(&bytes), None);
        bytes[8..12].copy_from_slice(&VERSION.to_ne_bytes());
        bytes[12..16].copy_from_slice(&32_u32.to_ne_bytes());
        bytes[16..24].copy_from_slice(&77_u64.to_ne_bytes());
        bytes[32..36].copy_from_slice(&28_u32.to_ne_bytes());
        bytes[ALLOCATED_AT..ALLOCATED_AT + 8].copy_from_slice(&8_192_u64.to_ne_bytes());
        bytes[56..60].copy_from_slice(b"/sky");
        assert_eq!(HeaderRead::from_bytes(&bytes), None, "the magic comes last");
        bytes[..8].copy_from_slice(&MAGIC);
        let read = HeaderRead::from_bytes(&bytes).unwrap();
        assert_eq!((read.next, read.trouble, read.allocated), (77, Some(28), 8_192));
        assert_eq!(read.program, b"/sky");
        bytes[8] = 9;
        assert_eq!(HeaderRead::from_bytes(&bytes), None, "another version");
        assert_eq!(HeaderRead::from_bytes(&bytes[..60]), None);
    }

    #[test]
    fn a_fresh_lobby_says_nothing() {
        assert_eq!(LobbyRead::from_bytes(&empty_lobby()), Some(LobbyRead::default()));
        assert_eq!(LobbyRead::from_bytes(&[0; 64]), None);
    }

    #[test]
    fn interfaces_are_read_back() {
        for api in [Api::Glx, Api::Egl, Api::Vulkan] {
            assert_eq!(Api::from_number(api as u32), Some(api));
        }
        assert_eq!(Api::from_number(0), None);
    }
}
