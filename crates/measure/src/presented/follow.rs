//! Reads what processes have presented, as it comes in.

use super::folder::keep_ahead;
use honest_lap_core::frame::{Api, Present, Stream};
use honest_lap_core::record::Choice;
use honest_lap_present_abi::{self as abi, HEADER_BYTES, HeaderRead, RECORD_BYTES, Record, SUFFIX};
use std::collections::{BTreeMap, BTreeSet};
use std::fs::{self, File};
use std::os::unix::fs::FileExt;
use std::path::{Path, PathBuf};

/// Presents that are read at once.
const CHUNK: u64 = 4096;

/// Everything that has been read so far.
#[derive(Debug, Default)]
pub(super) struct Follower {
    files: BTreeMap<PathBuf, Followed>,
}

/// What one process has presented.
#[derive(Debug)]
struct Followed {
    file: File,
    program: String,
    process: u32,
    /// Records that were looked at.
    read: u64,
    dropped: u64,
    trouble: Option<u32>,
    surfaces: BTreeMap<(Api, u64), Surface>,
}

#[derive(Debug, Default)]
struct Surface {
    presents: Vec<Present>,
    threads: BTreeSet<u32>,
}

/// Presents that were made and could not be recorded, and why.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub(super) struct Lost {
    pub(super) frames: u64,
    pub(super) trouble: Option<u32>,
}

impl Follower {
    /// Reads what is new in `folder`, and keeps room ahead of it; returns how much was new. A
    /// present whose record is only half written is waited for, unless this is the `last` look.
    pub(super) fn look(&mut self, folder: &Path, last: bool) -> u64 {
        for entry in fs::read_dir(folder).into_iter().flatten().flatten() {
            let path = entry.path();
            let ours = path.to_str().is_some_and(|path| path.ends_with(SUFFIX));
            if ours
                && !self.files.contains_key(&path)
                && let Some(followed) = Followed::open(&path)
            {
                self.files.insert(path, followed);
            }
        }
        self.files.values_mut().map(|followed| followed.look(last)).sum()
    }

    /// Returns the streams so far, in the order in which they first presented.
    pub(super) fn streams(&self) -> Vec<Stream> {
        let mut all: Vec<Stream> = Vec::new();
        for followed in self.files.values() {
            for ((api, surface), found) in &followed.surfaces {
                let mut presents = found.presents.clone();
                // Threads take their places before they write.
                presents.sort_unstable();
                all.push(Stream {
                    program: followed.program.clone(),
                    process: followed.process,
                    api: *api,
                    surface: *surface,
                    threads: found.threads.len(),
                    presents,
                });
            }
        }
        all.sort_by_key(|stream| (stream.presents.first().copied(), stream.process));
        all
    }

    /// Returns the presents so far of the stream that `choice` asks for, as they came in: a pass under
    /// way is looked at ten times a second, and copied and sorted only once, at its end.
    pub(super) fn under_way(&self, choice: &Choice) -> Option<&[Present]> {
        let of =
            |followed: &'_ Followed| choice.program.as_ref().is_none_or(|p| *p == followed.program);
        let mut all: Vec<(&Followed, &[Present])> = Vec::new();
        for followed in self.files.values() {
            all.extend(followed.surfaces.values().map(|surface| (followed, &surface.presents[..])));
        }
        all.sort_by_key(|(followed, presents)| (presents.first().copied(), followed.process));
        let numbered = all.into_iter().zip(1..);
        let wanted = numbered
            .filter(|(_, number)| choice.window.is_none_or(|window| window == *number))
            .filter(|((followed, _), _)| of(followed));
        wanted.map(|((_, presents), _)| presents).max_by_key(|presents| presents.len())
    }

    /// Returns what the processes with a file of their own could not record.
    pub(super) fn lost(&self) -> Lost {
        let frames = self.files.values().map(|followed| followed.dropped).sum();
        Lost { frames, trouble: self.files.values().find_map(|followed| followed.trouble) }
    }
}

impl Followed {
    fn open(path: &Path) -> Option<Self> {
        // To write only how far it is allocated.
        let file = File::options().read(true).write(true).open(path).ok()?;
        let header = header(&file)?;
        let program = String::from_utf8_lossy(&header.program).into_owned();
        let program = program.rsplit('/').next().unwrap_or(&program).to_owned();
        Some(Self {
            file,
            program,
            process: header.process,
            read: 0,
            dropped: 0,
            trouble: None,
            surfaces: BTreeMap::new(),
        })
    }

    fn look(&mut self, last: bool) -> u64 {
        let Some(header) = header(&self.file) else { return 0 };
        (self.dropped, self.trouble) = (header.dropped, header.trouble);
        let before = self.read;
        if !last {
            keep_ahead(&self.file, &header, header.next.saturating_sub(before));
        }
        let most = header.next.saturating_sub(before).min(CHUNK);
        let mut buffer = vec![0; most as usize * RECORD_BYTES];
        while self.read < header.next {
            let wanted = (header.next - self.read).min(CHUNK) as usize * RECORD_BYTES;
            let at = HEADER_BYTES as u64 + self.read * RECORD_BYTES as u64;
            let Ok(got) = self.file.read_at(&mut buffer[..wanted], at) else { break };
            let records = buffer[..got].chunks_exact(RECORD_BYTES);
            if records.len() == 0 {
                break;
            }
            for bytes in records {
                let record = Record::from_bytes(bytes.try_into().expect("chunks of this size"));
                if record.written != self.read as u32 + 1 {
                    if !last {
                        return self.read - before;
                    }
                } else {
                    self.take(&record);
                }
                self.read += 1;
            }
        }
        self.read - before
    }

    fn take(&mut self, record: &Record) {
        let api = match abi::Api::from_number(record.api) {
            Some(abi::Api::Glx) => Api::Glx,
            Some(abi::Api::Egl) => Api::Egl,
            Some(abi::Api::Vulkan) => Api::Vulkan,
            // Nobody but the recorder writes here.
            None => return,
        };
        let surface = self.surfaces.entry((api, record.surface)).or_default();
        surface.presents.push(Present { at: record.begun_ns, took: u64::from(record.took_ns) });
        surface.threads.insert(record.thread);
    }
}

fn header(file: &File) -> Option<HeaderRead> {
    let mut bytes = [0; HEADER_BYTES];
    let read = file.read_at(&mut bytes, 0).ok()?;
    HeaderRead::from_bytes(&bytes[..read])
}

#[cfg(test)]
mod tests {
    use super::*;
    use honest_lap_present_abi::{FIRST_BYTES, MAGIC, VERSION};

    /// Writes the file of a process that has begun `next` presents, all of them written but `torn`.
    fn file(folder: &Path, next: u64, torn: Option<u64>) {
        let mut bytes = vec![0_u8; HEADER_BYTES];
        bytes[..8].copy_from_slice(&MAGIC);
        bytes[8..12].copy_from_slice(&VERSION.to_ne_bytes());
        bytes[12..16].copy_from_slice(&(RECORD_BYTES as u32).to_ne_bytes());
        bytes[16..24].copy_from_slice(&next.to_ne_bytes());
        bytes[24..32].copy_from_slice(&3_u64.to_ne_bytes());
        bytes[ALLOCATED..ALLOCATED + 8].copy_from_slice(&(FIRST_BYTES as u64).to_ne_bytes());
        bytes[56..66].copy_from_slice(b"/opt/dome\0");
        for place in 0..next {
            let written = if torn == Some(place) { 0 } else { place as u32 + 1 };
            let (surface, api) = ([7, 8][(place % 3 == 0) as usize], 1 + (place % 3 == 0) as u32);
            let record =
                Record { begun_ns: 1_000 + place, surface, took_ns: 5, thread: 4, api, written };
            bytes.extend(record.to_bytes());
        }
        fs::write(folder.join(format!("4711-1{SUFFIX}")), bytes).unwrap();
    }

    const ALLOCATED: usize = abi::ALLOCATED_AT;

    #[test]
    fn presents_come_in_by_surface_and_half_written_ones_are_waited_for() {
        let dir = tempfile::tempdir().unwrap();
        let mut follower = Follower::default();
        assert_eq!(follower.look(dir.path(), false), 0);
        file(dir.path(), 9_000, Some(6_001));
        assert_eq!(follower.look(dir.path(), false), 6_001);
        file(dir.path(), 9_000, None);
        assert_eq!(follower.look(dir.path(), false), 2_999);
        let streams = follower.streams();
        let seen: Vec<_> =
            streams.iter().map(|s| (s.api, s.surface, s.presents.len(), &s.program[..])).collect();
        assert_eq!(seen, [(Api::Egl, 8, 3_000, "dome"), (Api::Glx, 7, 6_000, "dome")]);
        let under_way = |window| {
            let choice = Choice { window, program: None };
            follower.under_way(&choice).map(<[Present]>::len)
        };
        assert_eq!([None, Some(1), Some(3)].map(under_way), [Some(6_000), Some(3_000), None]);
        assert_eq!(follower.lost(), Lost { frames: 3, trouble: None });
    }

    #[test]
    fn what_a_killed_process_left_half_written_is_no_present() {
        let dir = tempfile::tempdir().unwrap();
        file(dir.path(), 10, Some(4));
        let mut follower = Follower::default();
        follower.look(dir.path(), true);
        let streams = follower.streams();
        assert_eq!(streams.iter().map(|stream| stream.presents.len()).sum::<usize>(), 9);
    }
}
