//! The reader's side: headers, processes and records from bytes.

use super::layout::{
    Api, HEADER_BYTES, Header, MAGIC, PROCESS_BYTES, Process, RECORD_BYTES, ROOM_AT, Record,
    VERSION,
};
use alloc::vec::Vec;
use core::mem::{offset_of, size_of};

/// What a header says, read from bytes.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub struct HeaderRead {
    /// How many records were begun.
    pub next: u64,
    /// Presents for which there was no room.
    pub dropped: u64,
    /// How many records there is room for.
    pub room: u64,
    /// How many times the recorder was loaded.
    pub loaded: u32,
    /// How many processes have presented.
    pub processes: u32,
    /// How many times the recorder was loaded and could not map the records.
    pub unmapped: u32,
    /// Functions of which it is not sure that they are called as they were meant, or recorded.
    pub unsure: u32,
}

impl HeaderRead {
    /// Reads the beginning of a file; `None` where it is none of ours.
    pub fn from_bytes(bytes: &[u8]) -> Option<Self> {
        let whole = bytes.get(..size_of::<Header>())?;
        let (u32_at, u64_at) = (|at| u32_at(whole, at), |at| u64_at(whole, at));
        let ours = whole.starts_with(&MAGIC)
            && u32_at(offset_of!(Header, version)) == VERSION
            && u32_at(offset_of!(Header, record_bytes)) as usize == RECORD_BYTES;
        ours.then(|| Self {
            next: u64_at(offset_of!(Header, next)),
            dropped: u64_at(offset_of!(Header, dropped)),
            room: u64_at(ROOM_AT),
            loaded: u32_at(offset_of!(Header, loaded)),
            processes: u32_at(offset_of!(Header, processes)),
            unmapped: u32_at(offset_of!(Header, unmapped)),
            unsure: u32_at(offset_of!(Header, unsure)),
        })
    }
}

/// Who a process says that it is.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct ProcessRead {
    /// Its number.
    pub number: u32,
    /// The path of its program.
    pub program: Vec<u8>,
}

impl ProcessRead {
    /// Reads one entry; `None` while it is not there.
    pub fn from_bytes(bytes: &[u8; PROCESS_BYTES]) -> Option<Self> {
        let program = &bytes[offset_of!(Process, program)..];
        let end = program.iter().position(|&byte| byte == 0).unwrap_or(program.len());
        (u32_at(bytes, offset_of!(Process, known)) == 1).then(|| Self {
            number: u32_at(bytes, offset_of!(Process, number)),
            program: program[..end].to_vec(),
        })
    }

    /// Returns the bytes of an entry, as the recorder leaves them; of a longer path as much as fits.
    pub fn to_bytes(&self) -> [u8; PROCESS_BYTES] {
        let mut bytes = [0; PROCESS_BYTES];
        bytes[..4].copy_from_slice(&1_u32.to_ne_bytes());
        bytes[4..8].copy_from_slice(&self.number.to_ne_bytes());
        let length = self.program.len().min(PROCESS_BYTES - 9);
        bytes[8..8 + length].copy_from_slice(&self.program[..length]);
        bytes
    }
}

impl Api {
    /// Returns the interface of this number.
    pub fn from_number(number: u8) -> Option<Self> {
        [Self::Glx, Self::Egl, Self::Vulkan].into_iter().find(|api| *api as u8 == number)
    }
}

impl Record {
    /// Returns through which interface it was presented; `None` where that is none.
    pub fn api(&self) -> Option<Api> {
        Api::from_number(self.by.to_le_bytes()[0])
    }

    /// Returns the place of its process, counted from 0.
    pub fn process(&self) -> u32 {
        self.by >> 8
    }

    /// Reads one record.
    pub fn from_bytes(bytes: &[u8; RECORD_BYTES]) -> Self {
        Self {
            begun_ns: u64_at(bytes, offset_of!(Self, begun_ns)),
            surface: u64_at(bytes, offset_of!(Self, surface)),
            took_ns: u32_at(bytes, offset_of!(Self, took_ns)),
            thread: u32_at(bytes, offset_of!(Self, thread)),
            by: u32_at(bytes, offset_of!(Self, by)),
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
        put(offset_of!(Self, by), &self.by.to_ne_bytes());
        put(offset_of!(Self, written), &self.written.to_ne_bytes());
        bytes
    }
}

/// Returns the header of a file with room for so many records, in which nobody has said a word yet.
pub fn empty_header(room: u64) -> [u8; HEADER_BYTES] {
    let mut bytes = [0; HEADER_BYTES];
    bytes[..8].copy_from_slice(&MAGIC);
    let mut put = |at: usize, value: &[u8]| bytes[at..at + value.len()].copy_from_slice(value);
    put(offset_of!(Header, version), &VERSION.to_ne_bytes());
    put(offset_of!(Header, record_bytes), &(RECORD_BYTES as u32).to_ne_bytes());
    put(ROOM_AT, &room.to_ne_bytes());
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
    use super::super::layout::NOBODY;
    use super::*;

    #[test]
    fn a_header_is_read_only_when_it_is_ours() {
        let mut bytes = empty_header(8_192);
        bytes[16..24].copy_from_slice(&77_u64.to_ne_bytes());
        let read = HeaderRead::from_bytes(&bytes);
        assert_eq!(read, Some(HeaderRead { next: 77, room: 8_192, ..HeaderRead::default() }));
        bytes[8] = 9;
        assert_eq!(HeaderRead::from_bytes(&bytes), None, "another version");
        assert_eq!(HeaderRead::from_bytes(&bytes[..50]), None);
        assert_eq!(HeaderRead::from_bytes(&[0; 64]), None);
    }

    #[test]
    fn a_process_is_known_once_it_has_said_all() {
        let process = ProcessRead { number: 4711, program: b"/opt/dome".to_vec() };
        let mut bytes = process.to_bytes();
        assert_eq!(ProcessRead::from_bytes(&bytes), Some(process));
        bytes[..4].fill(0);
        assert_eq!(ProcessRead::from_bytes(&bytes), None);
    }

    #[test]
    fn interfaces_and_processes_are_read_back() {
        for api in [Api::Glx, Api::Egl, Api::Vulkan] {
            let by = Record::by(api, NOBODY);
            let record = Record { begun_ns: 0, surface: 0, took_ns: 0, thread: 0, by, written: 0 };
            assert_eq!((record.api(), record.process()), (Some(api), NOBODY));
        }
        assert_eq!(Api::from_number(0), None);
    }
}
