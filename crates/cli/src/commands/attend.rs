//! `lap attend`: on a machine that is run from elsewhere, starts the run and tells of it until it has ended.
//!
//! It is started in the folder that was sent, and writes to its standard output what `honest_lap_reach` reads. The run goes
//! on without it: a connection that is lost ends this alone.

use crate::ctx::Ctx;
use crate::error::{CmdError, Exit};
use crate::lock::is_running;
use crate::study_file::LOGBOOK_FILE;
use honest_lap_logbook::Logbook;
use honest_lap_logbook::carry::Part;
use honest_lap_measure::{Place, sha256_of};
use honest_lap_reach::{MOST_TEXT, Message, MessageWriter, Order};
use rustix::process::{Pid, Signal, kill_process_group, nice, test_kill_process_group};
use std::fs::{self, File};
use std::io::{self, BufRead, Read, Seek, SeekFrom, Stdout, Write};
use std::os::unix::fs::MetadataExt;
use std::os::unix::process::CommandExt;
use std::path::{Path, PathBuf};
use std::process::{Child, Command, Stdio};
use std::sync::mpsc::{Receiver, RecvTimeoutError, channel};
use std::time::{Duration, Instant};

/// Start the run that was sent here, and tell of it
#[derive(clap::Args, Debug)]
pub struct AttendArgs {
    /// The first record that the other side does not have
    #[arg(long)]
    from: u32,
    /// The place of the last remark that the other side has
    #[arg(long)]
    remarks: i64,
    /// How many bytes of what the run said the other side has
    #[arg(long)]
    said: u64,
    /// Whether a run that was cut off goes on
    #[arg(long)]
    how: String,
}

/// How often it is looked for news: two questions to the file system, beside whatever is measured here.
const LOOK: Duration = Duration::from_millis(250);
/// How often it is said that the connection is well.
const ALIVE: Duration = Duration::from_secs(5);
/// How long a run may be without its lock before it counts as cut off: it takes that soon after it began.
const GRACE: Duration = Duration::from_secs(5);
/// The same on a machine that is slow to begin, where its processes are there.
const GRACE_OF_SLOW: Duration = Duration::from_secs(60);
/// The lowest priority there is: what is measured here comes first.
const LOWEST: i32 = 19;

/// The files of a run, in the folder that was sent.
const SAID: &str = "said";
const ENDED: &str = "ended";
const PACKED: &str = "laps.db";

pub fn run(args: &AttendArgs, ctx: &Ctx) -> Result<Exit, CmdError> {
    let folder = ctx.folder.clone();
    let path = folder.join(Order::FILE);
    let order = fs::read(&path).map_err(|err| CmdError::io("read", &path, &err))?;
    let order: Order = serde_json::from_slice(&order)
        .map_err(|err| CmdError::io("read", &path, &io::Error::from(err)))?;
    if let Some((name, sha256)) = &order.beside {
        let path = folder.join(name);
        let came = sha256_of(&path).map_err(|err| CmdError::io("read", &path, &err))?;
        if came != *sha256 {
            return Err(CmdError::request(
                format!("{name} did not arrive as it left, by its SHA-256"),
                "nothing was run; try again",
            ));
        }
    }
    let mut run = Run {
        place: Place::new(&folder.join(Order::STUDY), &ctx.tool()?)?,
        folder,
        child: None,
        unlocked: None,
        to_stop: 0,
    };
    let resume = args.how == "resume" && run.is_cut_off();
    if resume || !run.folder.join(Order::BEGUN).exists() {
        let words = run.words(&order, resume)?;
        run.start(&words).map_err(|err| CmdError::io("start", Order::PROGRAM.as_ref(), &err))?;
    }
    // The run itself is started by now, at the priority of any.
    let _ = nice(LOWEST);
    let mut tell = Updates {
        to: MessageWriter::new(io::stdout()),
        mark: order.mark,
        from: args.from,
        remarks: args.remarks,
        signatures: 0,
        looked_at: None,
        under_way: Vec::new(),
        said: args.said,
        spoken: Instant::now(),
    };
    match attend(&mut run, &mut tell) {
        // The connection is gone, and the run goes on.
        Err(CmdError::ReaderLeft) => Ok(Exit::Done),
        other => other.map(|()| Exit::Done),
    }
}

/// Tells of the run until it has ended and everything is known to be kept elsewhere, or whoever listens has gone.
fn attend(run: &mut Run, tell: &mut Updates) -> Result<(), CmdError> {
    let words = words();
    let mut ended = None;
    loop {
        let now_ended = run.ended();
        if ended.is_none() {
            if now_ended.is_some() {
                // Two changes within one tick of the file system's clock look like one.
                tell.looked_at = None;
            }
            tell.news(run)?;
            if let Some(how) = now_ended {
                tell.say(&Message::Ended(how))?;
                ended = Some(how);
            }
        }
        run.stop();
        if tell.spoken.elapsed() >= ALIVE {
            tell.say(&Message::Alive)?;
        }
        match words.recv_timeout(LOOK) {
            Ok(word) if word == "stop" => run.to_stop += 1,
            Ok(word) if word == "done" && ended.is_some() => return run.clear(),
            Ok(_) | Err(RecvTimeoutError::Timeout) => {}
            Err(RecvTimeoutError::Disconnected) => return Ok(()),
        }
    }
}

/// Returns the other side's words, as they come; whoever listens has gone once they end.
fn words() -> Receiver<String> {
    let (to, from) = channel();
    std::thread::spawn(move || {
        for line in io::stdin().lock().lines() {
            let Ok(line) = line else { return };
            if to.send(line).is_err() {
                return;
            }
        }
    });
    from
}

/// The run of this folder.
struct Run {
    folder: PathBuf,
    place: Place,
    /// What starts it, where that was here.
    child: Option<Child>,
    /// Since when it has had no lock.
    unlocked: Option<Instant>,
    /// How often it is still to be asked to end.
    to_stop: u32,
}

impl Run {
    /// Returns the words that run it, or go on with what it has recorded.
    fn words(&self, order: &Order, resume: bool) -> Result<Vec<String>, CmdError> {
        let path = Path::new(self.place.study()).join(LOGBOOK_FILE);
        let begun = match resume && path.exists() {
            true => Logbook::open(&path)?.session_marked(&order.mark)?,
            false => None,
        };
        Ok(match begun {
            Some(session) => [&order.resume[..], &[session.name.to_string()]].concat(),
            None => order.run.clone(),
        })
    }

    /// Starts it on its own: it outlives this, its words go into a file, and so does its exit status.
    fn start(&mut self, words: &[String]) -> io::Result<()> {
        let _ = fs::remove_file(self.folder.join(ENDED));
        let mut begun = File::create(self.folder.join(Order::BEGUN))?;
        // A signal to the whole group is for the tool; the shell stays to note how it ended.
        let script = format!(
            "trap : INT; ./{} \"$@\" >/dev/null 2>>{SAID}; echo $? >{ENDED}",
            Order::PROGRAM
        );
        let child = Command::new("sh")
            .args(["-c", &script, "lap"])
            .args(words)
            .current_dir(&self.folder)
            .stdin(Stdio::null())
            .stdout(Stdio::null())
            .stderr(Stdio::null())
            .process_group(0)
            .spawn()?;
        write!(begun, "{}", child.id())?;
        self.child = Some(child);
        Ok(())
    }

    /// Returns whether it was begun, and has neither ended nor goes on.
    fn is_cut_off(&self) -> bool {
        let there = |name| self.folder.join(name).exists();
        there(Order::BEGUN) && !there(ENDED) && !is_running(&self.place)
    }

    /// Returns how it ended, if it has: with a status, or cut off.
    fn ended(&mut self) -> Option<Option<u8>> {
        // Whether the shell that notes the status is still there; it would also stay, ended, until somebody asks.
        let noted_soon =
            self.child.as_mut().is_some_and(|child| matches!(child.try_wait(), Ok(None)));
        if let Ok(status) = fs::read_to_string(self.folder.join(ENDED))
            && let Ok(status) = status.trim().parse()
        {
            return Some(Some(status));
        }
        if noted_soon || is_running(&self.place) {
            self.unlocked = None;
            return None;
        }
        // Where its processes are there, it may only be about to take its lock; after a new start of the machine their
        // number may be anybody's.
        let there = self.group().is_some_and(|group| test_kill_process_group(group).is_ok());
        let grace = if there { GRACE_OF_SLOW } else { GRACE };
        let since = self.unlocked.get_or_insert_with(Instant::now);
        (since.elapsed() >= grace).then_some(None)
    }

    /// Returns the number of its processes' group.
    fn group(&self) -> Option<Pid> {
        let noted = fs::read_to_string(self.folder.join(Order::BEGUN)).ok()?;
        Pid::from_raw(noted.trim().parse().ok()?)
    }

    /// Asks it to end, as Ctrl-C would, once it is there to be asked.
    fn stop(&mut self) {
        // The lock says that the number is still its own.
        if self.to_stop == 0 || !is_running(&self.place) {
            return;
        }
        if let Some(group) = self.group() {
            let _ = kill_process_group(group, Signal::INT);
        }
        self.to_stop -= 1;
    }

    /// Removes everything that was sent or made here.
    fn clear(&self) -> Result<(), CmdError> {
        let gone = fs::remove_dir_all(&self.folder);
        // The folder around it stays where another run is in it.
        let _ = self.folder.parent().map(fs::remove_dir);
        gone.map_err(|err| CmdError::io("remove", &self.folder, &err))
    }
}

/// What the other side knows, and what it is told with.
struct Updates {
    to: MessageWriter<Stdout>,
    mark: String,
    from: u32,
    remarks: i64,
    signatures: usize,
    /// When the logbook was last written to as it was last looked at, and its size.
    looked_at: Option<(i64, i64, u64)>,
    under_way: Vec<u8>,
    said: u64,
    spoken: Instant,
}

impl Updates {
    fn say(&mut self, news: &Message) -> Result<(), CmdError> {
        self.to.write(news).map_err(|err| CmdError::output(&err))?;
        self.spoken = Instant::now();
        Ok(())
    }

    /// Tells what is new. What was said of a lap follows the lap.
    fn news(&mut self, run: &Run) -> Result<(), CmdError> {
        let said = run.folder.join(SAID);
        let said_to = fs::metadata(&said).map_or(0, |meta| meta.len());
        self.laps(run)?;
        let under_way = fs::read(run.place.under_way()).unwrap_or_default();
        if under_way != self.under_way && under_way.len() as u64 <= MOST_TEXT {
            self.say(&Message::UnderWay(under_way.clone()))?;
            self.under_way = under_way;
        }
        while self.said < said_to {
            let text = piece(&said, self.said, said_to)
                .map_err(|err| CmdError::io("read", &said, &err))?;
            // A line comes whole, unless it is longer than anybody reads.
            let end = text.iter().rposition(|&byte| byte == b'\n').map_or(0, |at| at + 1);
            let end = if end == 0 && text.len() as u64 >= MOST_TEXT / 2 { text.len() } else { end };
            if end == 0 {
                break;
            }
            self.said += end as u64;
            self.say(&Message::Output(text[..end].to_vec()))?;
        }
        Ok(())
    }

    /// Sends what the logbook has behind what the other side has.
    fn laps(&mut self, run: &Run) -> Result<(), CmdError> {
        let path = Path::new(run.place.study()).join(LOGBOOK_FILE);
        let Ok(meta) = fs::metadata(&path) else { return Ok(()) };
        let written = (meta.mtime(), meta.mtime_nsec(), meta.len());
        if self.looked_at == Some(written) {
            return Ok(());
        }
        let logbook = Logbook::open(&path)?;
        let head = logbook.heads()?.into_iter().find(|head| head.mark == self.mark);
        self.looked_at = Some(written);
        let Some(head) = head else { return Ok(()) };
        let marks = logbook.signature_marks()?;
        let signatures = marks.iter().filter(|(mark, ..)| *mark == self.mark).count();
        let remarks = logbook.last_remark()?;
        if (head.last < self.from) && signatures == self.signatures && remarks == self.remarks {
            return Ok(());
        }
        let packed = run.folder.join(PACKED);
        let _ = fs::remove_file(&packed);
        let part = Part { mark: self.mark.clone(), from: self.from, to: head.last };
        logbook.pack(&part, self.remarks, &packed)?;
        self.to.laps(&packed).map_err(|err| CmdError::output(&err))?;
        self.spoken = Instant::now();
        (self.from, self.signatures, self.remarks) = (head.last + 1, signatures, remarks);
        Ok(())
    }
}

fn piece(path: &Path, from: u64, to: u64) -> io::Result<Vec<u8>> {
    let mut file = File::open(path)?;
    file.seek(SeekFrom::Start(from))?;
    let mut text = Vec::new();
    file.take((to - from).min(MOST_TEXT / 2)).read_to_end(&mut text)?;
    Ok(text)
}
