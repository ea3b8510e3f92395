//! What a lap must have produced: there, written by this lap, large enough, with the right sum.

use crate::plain_file::open_plain;
use crate::stop::Stop;
use honest_lap_core::record::Produced;
use honest_lap_core::unit::display_size;
use sha2::{Digest, Sha256};
use std::fs;
use std::io::{self, Read};
use std::os::unix::fs::MetadataExt;
use std::path::{Path, PathBuf};
use std::sync::Arc;
use std::sync::atomic::{AtomicBool, AtomicU64, Ordering};
use std::sync::mpsc::{RecvTimeoutError, channel};
use std::thread::Builder;
use std::time::{Duration, Instant};

/// A file that a lap is to produce, and what was there before it.
pub(crate) struct Expected {
    pub(crate) path: PathBuf,
    /// The file as the study names it.
    pub(crate) named: String,
    pub(crate) at_least: Option<u64>,
    pub(crate) sha256: Option<String>,
    pub(crate) before: Option<Identity>,
    /// Whether it is a picture that is to show the same as others.
    pub(crate) is_picture: bool,
}

/// What changes whenever a file is written, replaced or removed.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) struct Identity {
    device: u64,
    inode: u64,
    changed_s: i64,
    changed_ns: i64,
}

impl Identity {
    pub(crate) fn of(path: &Path) -> Option<Self> {
        let meta = fs::metadata(path).ok()?;
        Some(Self {
            device: meta.dev(),
            inode: meta.ino(),
            changed_s: meta.ctime(),
            changed_ns: meta.ctime_nsec(),
        })
    }
}

/// Returns what is there now, and what is wrong with it.
pub(crate) fn inspect(
    expected: &Expected,
    stop: &Stop,
    seen: &mut dyn FnMut(u64, u64),
) -> (Produced, Option<String>) {
    let named = &expected.named;
    let mut produced = Produced { file: named.clone(), bytes: None, sha256: None, picture: None };
    let meta = match fs::metadata(&expected.path) {
        Ok(meta) if meta.is_file() => meta,
        Ok(_) => return (produced, Some(format!("`{named}` is not a plain file"))),
        Err(err) if err.kind() == io::ErrorKind::NotFound => {
            return (produced, Some(format!("`{named}` is missing")));
        }
        Err(err) => return (produced, Some(format!("`{named}` cannot be looked at: {err}"))),
    };
    produced.bytes = Some(meta.len());
    if expected.before.is_some() && Identity::of(&expected.path) == expected.before {
        return (produced, Some(format!("`{named}` is an old file: this lap did not write it")));
    }
    let of = meta.len();
    match sum(&expected.path, || stop.requested(), &mut |done| seen(done, of)) {
        Ok(sum) => produced.sha256 = Some(sum),
        Err(err) => return (produced, Some(format!("`{named}` cannot be read: {err}"))),
    }
    let wrong = match (&expected.at_least, &expected.sha256) {
        (Some(least), _) if meta.len() < *least => Some(format!(
            "`{named}` has {}, and at least {} is wanted",
            display_size(meta.len()),
            display_size(*least)
        )),
        (_, Some(wanted)) if produced.sha256.as_ref() != Some(wanted) => {
            let found = produced.sha256.as_deref().unwrap_or_default();
            Some(format!("`{named}` has the SHA-256 {found}, and {wanted} is wanted"))
        }
        _ => None,
    };
    (produced, wrong)
}

/// Returns the SHA-256 of a file, in lower-case hexadecimal.
pub fn sha256_of(path: &Path) -> io::Result<String> {
    sum(path, || false, &mut |_| {})
}

/// As [`sha256_of`], unless everything is to end meanwhile.
pub(crate) fn sha256_until(path: &Path, stop: &Stop) -> io::Result<String> {
    sum(path, || stop.requested(), &mut |_| {})
}

fn sum(path: &Path, stopped: impl Fn() -> bool, seen: &mut dyn FnMut(u64)) -> io::Result<String> {
    let path = path.to_owned();
    let own_thread = |work: Work| Builder::new().name("lap-sum".into()).spawn(work).map(drop);
    summed(move || open_plain(&path), own_thread, stopped, seen)
}

/// How often it is told how far a sum is, and looked whether it is to end.
const LOOK: Duration = Duration::from_millis(100);

/// What a thread of its own would do.
type Work = Box<dyn FnOnce() + Send>;

/// Sums what `open` opens, on a thread that `start` starts: a run that does not answer keeps nobody from ending it. Where
/// no thread can be had it is summed here, and can be ended between two pieces.
fn summed<R: Read>(
    open: impl Fn() -> io::Result<R> + Send + Sync + 'static,
    start: impl FnOnce(Work) -> io::Result<()>,
    stopped: impl Fn() -> bool,
    seen: &mut dyn FnMut(u64),
) -> io::Result<String> {
    let ended = || io::Error::new(io::ErrorKind::Interrupted, "it was ended by hand");
    let (done, wanted) = (Arc::new(AtomicU64::new(0)), Arc::new(AtomicBool::new(true)));
    let (read, goes_on, open) = (Arc::clone(&done), Arc::clone(&wanted), Arc::new(open));
    let (send, came) = channel();
    let theirs = Arc::clone(&open);
    let work = move || {
        let step = &mut |so_far| {
            read.store(so_far, Ordering::Relaxed);
            goes_on.load(Ordering::Relaxed)
        };
        // Nobody waits for it any more once it is not wanted.
        let _ = send.send(theirs().and_then(|file| hash(file, step)));
    };
    if start(Box::new(work)).is_err() {
        let mut told = Instant::now();
        let step = &mut |so_far| {
            if told.elapsed() >= LOOK {
                told = Instant::now();
                seen(so_far);
            }
            !stopped()
        };
        return hash(open()?, step)?.ok_or_else(ended);
    }
    loop {
        match came.recv_timeout(LOOK) {
            Ok(sum) => return sum?.ok_or_else(ended),
            Err(RecvTimeoutError::Timeout) if !stopped() => seen(done.load(Ordering::Relaxed)),
            Err(_) => {
                wanted.store(false, Ordering::Relaxed);
                return Err(ended());
            }
        }
    }
}

/// Returns the sum of a file; none where `step`, which is told how far it is, says that it is not wanted any more.
fn hash(mut file: impl Read, step: &mut dyn FnMut(u64) -> bool) -> io::Result<Option<String>> {
    let mut hasher = Sha256::new();
    let mut buffer = vec![0; 1 << 20];
    let mut done = 0;
    while step(done) {
        match file.read(&mut buffer)? {
            0 => {
                let sum = hasher.finalize();
                return Ok(Some(sum.iter().map(|byte| format!("{byte:02x}")).collect()));
            }
            n => {
                hasher.update(&buffer[..n]);
                done += n as u64;
            }
        }
    }
    Ok(None)
}

#[cfg(test)]
mod tests {
    use super::*;

    fn expected(path: &Path) -> Expected {
        Expected {
            path: path.to_owned(),
            named: "out".into(),
            at_least: Some(3),
            // The sum of "abc", from FIPS 180-4.
            sha256: Some("ba7816bf8f01cfea414140de5dae2223b00361a396177a9cb410ff61f20015ad".into()),
            is_picture: false,
            before: Identity::of(path),
        }
    }

    #[test]
    fn says_what_is_wrong_and_nothing_when_all_is_well() {
        let dir = tempfile::tempdir().unwrap();
        let path = dir.path().join("out");
        let fresh = expected(&path);
        let never = Stop::never().unwrap();
        let wrong =
            |expected: &Expected| inspect(expected, &never, &mut |_, _| {}).1.unwrap_or_default();
        assert_eq!(wrong(&fresh), "`out` is missing");
        fs::write(&path, "ab").unwrap();
        assert_eq!(wrong(&fresh), "`out` has 2 B, and at least 3 B is wanted");
        fs::write(&path, "abd").unwrap();
        assert!(wrong(&fresh).contains(
            "has the SHA-256 a52d159f262b2c6ddb724a61840befc36eb30c88877a4030b65cbe86298449c9"
        ));
        fs::write(&path, "abc").unwrap();
        let (produced, none) = inspect(&fresh, &never, &mut |_, _| {});
        assert_eq!((produced.bytes, none), (Some(3), None));
        assert_eq!(wrong(&expected(&path)), "`out` is an old file: this lap did not write it");
        fs::remove_file(&path).unwrap();
        fs::create_dir(&path).unwrap();
        assert_eq!(wrong(&fresh), "`out` is not a plain file");
    }

    #[test]
    fn a_drive_that_does_not_answer_keeps_nobody_from_ending_a_sum() {
        struct Hangs(u32);
        impl Read for Hangs {
            fn read(&mut self, buffer: &mut [u8]) -> io::Result<usize> {
                self.0 += 1;
                if self.0 > 3 {
                    std::thread::sleep(Duration::from_secs(600));
                }
                Ok(buffer.len())
            }
        }
        let (mut last, looks) = (0, std::cell::Cell::new(0));
        let stopped = || {
            looks.set(looks.get() + 1);
            looks.get() > 2
        };
        let start = |work: Work| Builder::new().spawn(work).map(drop);
        let ended = summed(|| Ok(Hangs(0)), start, stopped, &mut |done| last = done);
        assert_eq!(ended.unwrap_err().kind(), io::ErrorKind::Interrupted);
        assert_eq!(last, 3 << 20, "how far it was is told meanwhile");
    }
    #[test]
    fn without_a_thread_it_is_summed_all_the_same_and_can_be_ended() {
        let none = |_: Work| Err(io::Error::from(io::ErrorKind::WouldBlock));
        let abc = || Ok(&b"abc"[..]);
        let sum = summed(abc, none, || false, &mut |_| {}).unwrap();
        assert_eq!(sum, "ba7816bf8f01cfea414140de5dae2223b00361a396177a9cb410ff61f20015ad");
        let endless = || Ok(io::repeat(0));
        let ended = summed(endless, none, || true, &mut |_| {});
        assert_eq!(ended.unwrap_err().kind(), io::ErrorKind::Interrupted);
    }
}
