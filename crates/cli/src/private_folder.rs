//! Folders for what is checked before it is believed: nobody else may look into one, and Ctrl-C leaves nothing of it.

use crate::background::Background;
use crate::error::CmdError;
use signal_hook::consts::{SIGINT, SIGTERM};
use signal_hook::{flag, low_level};
use std::io;
use std::path::{Path, PathBuf};
use std::sync::atomic::{AtomicBool, Ordering};
use std::sync::{Arc, LazyLock, Mutex, MutexGuard, PoisonError};
use std::time::Duration;
use tempfile::TempDir;

/// How often it is looked whether somebody wants an end.
const LOOK: Duration = Duration::from_millis(50);

/// A folder that is gone when it is dropped, and when the process is asked to end.
pub struct PrivateFolder {
    dir: TempDir,
}

/// The folders there are, and what looks after them.
#[derive(Default)]
struct Live {
    folders: Vec<PathBuf>,
    watch: Option<Background>,
}

/// What the signals do: the process has one of each, whatever it is busy with.
struct Signals {
    /// They end the process by themselves: there is no folder to look after.
    as_usual: Arc<AtomicBool>,
    /// One came while there was.
    asked: Arc<AtomicBool>,
    registered: bool,
}

static LIVE: Mutex<Live> = Mutex::new(Live { folders: Vec::new(), watch: None });
static SIGNALS: LazyLock<Signals> = LazyLock::new(|| {
    let (as_usual, asked) = (Arc::new(AtomicBool::new(true)), Arc::new(AtomicBool::new(false)));
    let register = |signal| -> io::Result<()> {
        flag::register_conditional_default(signal, Arc::clone(&as_usual))?;
        flag::register(signal, Arc::clone(&asked)).map(drop)
    };
    let registered = [SIGINT, SIGTERM].into_iter().all(|signal| register(signal).is_ok());
    Signals { as_usual, asked, registered }
});

fn live() -> MutexGuard<'static, Live> {
    LIVE.lock().unwrap_or_else(PoisonError::into_inner)
}

impl PrivateFolder {
    /// Makes a folder.
    pub fn new() -> Result<Self, CmdError> {
        let made = tempfile::Builder::new().prefix("honest-lap-").tempdir();
        let dir =
            made.map_err(|err| CmdError::io("create", "a temporary folder".as_ref(), &err))?;
        let mut live = live();
        live.folders.push(dir.path().to_owned());
        if live.watch.is_none() && SIGNALS.registered {
            let watch = Background::begin("private-folders", |until| {
                while until.goes_on_after(LOOK) {
                    if SIGNALS.asked.load(Ordering::Relaxed) {
                        end();
                    }
                }
            });
            // Where nothing could look after them, the signals stay what they are.
            SIGNALS.as_usual.store(!watch.is_running(), Ordering::Relaxed);
            live.watch = Some(watch);
        }
        Ok(Self { dir })
    }

    /// Returns where it is.
    pub fn path(&self) -> &Path {
        self.dir.path()
    }
}

/// Ends the process as the signal would have, with nothing left.
fn end() {
    for folder in &live().folders {
        // Another thread may just have put a file there.
        let _ = std::fs::remove_dir_all(folder).or_else(|_| std::fs::remove_dir_all(folder));
    }
    let _ = low_level::emulate_default_handler(SIGINT);
}

impl Drop for PrivateFolder {
    fn drop(&mut self) {
        let mut live = live();
        live.folders.retain(|folder| folder != self.dir.path());
        let watch = if live.folders.is_empty() { live.watch.take() } else { None };
        drop(live);
        if watch.is_some() {
            drop(watch);
            SIGNALS.as_usual.store(true, Ordering::Relaxed);
        }
    }
}
