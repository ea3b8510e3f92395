//! Reads what processes have presented, as it comes in, and believes of it what can be.

use super::shared::Shared;
use honest_lap_core::frame::{Api, Present, Stream};
use honest_lap_core::record::Choice;
use honest_lap_present_abi::{self as abi, NOBODY, RECORD_BYTES, Record};
use std::collections::{BTreeMap, BTreeSet, VecDeque};

/// Presents that are read at once.
const CHUNK: usize = 4096;
/// Looks for which a record is waited for that has a place and is not written: its process was killed in the midst of it, or
/// found no room.
const PATIENCE: usize = 10;
/// Windows that one lap may have; no program has so many.
const MOST_WINDOWS: usize = 1024;

/// Everything that has been read so far.
#[derive(Debug)]
pub(super) struct Follower {
    /// When the lap began, on the monotonic clock.
    begun: u64,
    /// Records that were looked at.
    read: u64,
    /// How many records had a place at each of the last looks: what was not written by then is not coming.
    begun_by: VecDeque<u64>,
    who: BTreeMap<u32, Who>,
    windows: BTreeMap<(u32, Api, u64), Window>,
    /// When each thread last ended presenting to each window.
    threads: BTreeMap<(u32, u32, Api, u64), u64>,
    refused: Refused,
}

/// Who presented.
#[derive(Clone, Debug, Default)]
struct Who {
    program: String,
    process: u32,
}

#[derive(Debug, Default)]
struct Window {
    presents: Vec<Present>,
    threads: BTreeSet<u32>,
}

/// Presents that were made and could not be recorded, and why.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub(super) struct Lost {
    pub(super) frames: u64,
    pub(super) trouble: Option<u32>,
}

/// Records that nothing can have presented.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub(super) struct Refused {
    /// Those outside of the lap's own time.
    pub(super) outside: u64,
    /// Those that say what cannot be: no interface, two presents of one thread to one window at once, more windows than there are.
    pub(super) impossible: u64,
}

impl Follower {
    /// Begins with nothing, for a lap that begins at the moment `begun`.
    pub(super) fn new(begun: u64) -> Self {
        Self {
            begun,
            read: 0,
            begun_by: VecDeque::new(),
            who: BTreeMap::new(),
            windows: BTreeMap::new(),
            threads: BTreeMap::new(),
            refused: Refused::default(),
        }
    }

    /// Reads what is new, and keeps room ahead of it; returns how much was new. A present whose record is only half written
    /// is waited for, unless this is the `last` look. `clock` tells the moment.
    pub(super) fn look(&mut self, shared: &mut Shared, clock: impl Fn() -> u64, last: bool) -> u64 {
        let next = shared.header().next;
        // Whatever has a place by now has ended.
        let now = clock();
        self.begun_by.push_back(next);
        let settled = match self.begun_by.len() > PATIENCE {
            true => self.begun_by.pop_front().unwrap_or_default(),
            false => 0,
        };
        let before = self.read;
        if !last {
            shared.keep_ahead(next, next.saturating_sub(before));
        }
        let mut buffer = vec![0; CHUNK * RECORD_BYTES];
        while self.read < next {
            let wanted = usize::try_from(next - self.read).unwrap_or(CHUNK).min(CHUNK);
            let got = shared.records(self.read, &mut buffer[..wanted * RECORD_BYTES]);
            if got == 0 {
                break;
            }
            for bytes in buffer[..got * RECORD_BYTES].chunks_exact(RECORD_BYTES) {
                let record = Record::from_bytes(bytes.try_into().expect("chunks of this size"));
                let written = u64::from(record.written) == self.read + 1;
                if !written && !last && self.read >= settled {
                    return self.read - before;
                }
                if written {
                    self.take(&record, now, shared);
                }
                self.read += 1;
            }
        }
        self.read - before
    }

    fn take(&mut self, record: &Record, now: u64, shared: &Shared) {
        let ended = record.begun_ns.saturating_add(u64::from(record.took_ns));
        if record.begun_ns < self.begun || ended > now {
            self.refused.outside += 1;
            return;
        }
        let Some(api) = api_of(record) else {
            self.refused.impossible += 1;
            return;
        };
        let process = record.process();
        let key = (process, api, record.surface);
        let known = self.windows.contains_key(&key);
        // Threads of processes that could not say who they are cannot be told apart.
        let thread = (process, record.thread, api, record.surface);
        let busy = self.threads.get(&thread).filter(|_| process != NOBODY);
        if busy.is_some_and(|busy| *busy > record.begun_ns)
            || !known && self.windows.len() >= MOST_WINDOWS
        {
            self.refused.impossible += 1;
            return;
        }
        self.threads.insert(thread, ended);
        self.who.entry(process).or_insert_with(|| who(process, shared));
        let window = self.windows.entry(key).or_default();
        window.presents.push(Present { at: record.begun_ns, took: u64::from(record.took_ns) });
        window.threads.insert(record.thread);
    }

    /// Returns the streams so far, in the order in which they first presented.
    pub(super) fn streams(&self) -> Vec<Stream> {
        let stream = |((process, api, surface), window): (&(u32, Api, u64), &Window)| {
            let Who { program, process } = self.who.get(process).cloned().unwrap_or_default();
            let mut presents = window.presents.clone();
            // Threads take their places before they write.
            presents.sort_unstable();
            let (api, surface, threads) = (*api, *surface, window.threads.len());
            Stream { program, process, api, surface, threads, presents }
        };
        let mut all: Vec<Stream> = self.windows.iter().map(stream).collect();
        all.sort_by_key(|stream| (stream.presents.first().copied(), stream.process));
        all
    }

    /// Returns the presents so far of the stream that `choice` asks for, as they came in: a pass under
    /// way is looked at ten times a second, and copied and sorted only once, at its end.
    pub(super) fn under_way(&self, choice: &Choice) -> Option<&[Present]> {
        let mut all: Vec<(Option<&Who>, &[Present])> = self
            .windows
            .iter()
            .map(|((process, ..), window)| (self.who.get(process), &window.presents[..]))
            .collect();
        all.sort_by_key(|(who, presents)| (presents.first().copied(), who.map(|who| who.process)));
        let of = |who: Option<&Who>| {
            choice.program.as_ref().is_none_or(|program| who.is_some_and(|w| w.program == *program))
        };
        let numbered = all.into_iter().zip(1..);
        let wanted = numbered
            .filter(|(_, number)| choice.window.is_none_or(|window| window == *number))
            .filter(|((who, _), _)| of(*who));
        wanted.map(|((_, presents), _)| presents).max_by_key(|presents| presents.len())
    }

    /// Returns what nothing can have presented.
    pub(super) fn refused(&self) -> Refused {
        self.refused
    }
}

fn api_of(record: &Record) -> Option<Api> {
    Some(match record.api()? {
        abi::Api::Glx => Api::Glx,
        abi::Api::Egl => Api::Egl,
        abi::Api::Vulkan => Api::Vulkan,
    })
}

fn who(process: u32, shared: &Shared) -> Who {
    let Some(said) = shared.process(process) else {
        return Who { program: "a program that is not known".to_owned(), process: 0 };
    };
    let path = String::from_utf8_lossy(&said.program);
    let program = path.rsplit('/').next().unwrap_or(&path).to_owned();
    Who { program, process: said.number }
}

#[cfg(test)]
mod tests {
    use super::*;
    use honest_lap_present_abi::{HEADER_BYTES, ProcessRead, RECORDS_AT};
    use std::fs::File;
    use std::os::unix::fs::FileExt;
    use std::path::Path;

    /// A lap that begins at 1,000, with a file that one process has said in who it is.
    fn lap(dir: &Path, mark: &str) -> (Shared, File, Follower) {
        let shared = Shared::make(dir.join("capture"), mark).unwrap();
        let file = File::options().write(true).open(shared.path()).unwrap();
        let dome = ProcessRead { number: 4711, program: b"/opt/dome".to_vec() };
        file.write_all_at(&dome.to_bytes(), HEADER_BYTES as u64).unwrap();
        (shared, file, Follower::new(1_000))
    }

    /// Writes that `next` presents were begun, and all of them but the one at `torn`, by two windows in turns.
    fn write(file: &File, next: u64, torn: Option<u64>) {
        file.write_all_at(&next.to_ne_bytes(), 16).unwrap();
        let mut bytes = Vec::new();
        for place in 0..next {
            let written = if torn == Some(place) { 0 } else { place as u32 + 1 };
            let third = place.is_multiple_of(3);
            let (surface, api) = if third { (8, abi::Api::Egl) } else { (7, abi::Api::Glx) };
            let begun_ns = 1_000 + 10 * place;
            let by = Record::by(api, 0);
            let record = Record { begun_ns, surface, took_ns: 5, thread: 4, by, written };
            bytes.extend(record.to_bytes());
        }
        file.write_all_at(&bytes, RECORDS_AT as u64).unwrap();
    }

    #[test]
    fn presents_come_in_by_window_and_half_written_ones_are_waited_for() {
        let dir = tempfile::tempdir().unwrap();
        let (mut shared, file, mut follower) = lap(dir.path(), "follow-test");
        assert_eq!(follower.look(&mut shared, || 1_000, false), 0);
        write(&file, 9_000, Some(6_001));
        assert_eq!(follower.look(&mut shared, || 200_000, false), 6_001);
        write(&file, 9_000, None);
        assert_eq!(follower.look(&mut shared, || 200_000, false), 2_999);
        let streams = follower.streams();
        let seen: Vec<_> =
            streams.iter().map(|s| (s.api, s.surface, s.presents.len(), &s.program[..])).collect();
        assert_eq!(seen, [(Api::Egl, 8, 3_000, "dome"), (Api::Glx, 7, 6_000, "dome")]);
        assert_eq!((streams[0].process, streams[0].threads), (4711, 1));
        let under_way = |window| {
            let choice = Choice { window, program: None };
            follower.under_way(&choice).map(<[Present]>::len)
        };
        assert_eq!([None, Some(1), Some(3)].map(under_way), [Some(6_000), Some(3_000), None]);
        assert_eq!(follower.refused(), Refused::default());
    }

    #[test]
    fn what_a_killed_process_left_half_written_is_no_present_and_keeps_nobody_waiting() {
        let dir = tempfile::tempdir().unwrap();
        let (mut shared, file, mut follower) = lap(dir.path(), "torn-test");
        write(&file, 10, Some(4));
        let looks = (0..=PATIENCE).map(|_| follower.look(&mut shared, || 2_000, false));
        assert_eq!(looks.sum::<u64>(), 10, "the others of other processes are read all the same");
        assert_eq!(follower.streams().iter().map(|stream| stream.presents.len()).sum::<usize>(), 9);
    }

    #[test]
    fn what_nothing_can_have_presented_is_refused() {
        let dir = tempfile::tempdir().unwrap();
        let (mut shared, file, mut follower) = lap(dir.path(), "forged-test");
        let by = Record::by(abi::Api::Glx, 0);
        let good = Record { begun_ns: 2_000, surface: 7, took_ns: 50, thread: 1, by, written: 0 };
        let all = [
            good,
            Record { begun_ns: 999, ..good },
            Record { begun_ns: 8_960, ..good },
            Record { begun_ns: u64::MAX, took_ns: u32::MAX, ..good },
            Record { begun_ns: 2_049, ..good },
            Record { by: 9, ..good },
            Record { begun_ns: 2_050, ..good },
        ];
        for (place, record) in all.into_iter().enumerate() {
            let record = Record { written: place as u32 + 1, ..record };
            let at = (RECORDS_AT + place * RECORD_BYTES) as u64;
            file.write_all_at(&record.to_bytes(), at).unwrap();
        }
        file.write_all_at(&(all.len() as u64).to_ne_bytes(), 16).unwrap();
        follower.look(&mut shared, || 9_000, true);
        assert_eq!(follower.refused(), Refused { outside: 3, impossible: 2 });
        assert_eq!(follower.streams()[0].presents.len(), 2);
        // A header that says more than there is room for: nothing lies there, and nothing is waited for.
        file.write_all_at(&u64::MAX.to_ne_bytes(), 16).unwrap();
        follower.look(&mut shared, || 9_000, true);
        assert_eq!(follower.streams()[0].presents.len(), 2);
    }
}
