//! One rig, followed on a thread of its own: reached, sent to, listened to, and reached again where the connection is lost.

use super::note::RemoteRun;
use honest_lap_core::record::{Remark, Subject};
use honest_lap_logbook::carry::Head;
use honest_lap_logbook::{Logbook, LogbookError, add_packed};
use honest_lap_measure::UnderWay;
use honest_lap_reach::{
    Begin, CommandLine, Connecting, Connection, Control, Message, Packed, Parcel, Program,
    ReachError,
};
use std::path::{Path, PathBuf};
use std::sync::atomic::{AtomicBool, Ordering};
use std::sync::mpsc::Sender;
use std::sync::{Arc, Mutex, PoisonError};
use std::time::Duration;

/// How long it is waited before each further try to reach a rig whose connection was lost.
const AGAIN: [Duration; 3] =
    [Duration::from_secs(1), Duration::from_secs(5), Duration::from_secs(25)];
/// How often it is looked meanwhile whether anybody still wants it.
const LOOK: Duration = Duration::from_millis(100);

/// Something that happens with a rig.
pub enum Event {
    /// The command line is started; whatever is said to the rig goes this way from now on.
    Connecting(Control),
    /// The rig has answered.
    Connected,
    /// So many bytes are sent, of so many.
    Sending(u64, u64),
    /// Everything is sent.
    Sent,
    /// The connection is well.
    Alive,
    /// A lap is under way there.
    UnderWay(Box<UnderWay>),
    /// Lines that the run there said.
    Output(Vec<u8>),
    /// Laps came home, into the rig's file.
    LapsArrived,
    /// The run has ended, with that status; `None` where it was cut off.
    Ended(Option<u8>),
    /// The connection was lost; the rig is reached again in this time.
    Retry(Duration),
    /// Nothing of the run is there any more.
    Gone,
    /// Nothing more comes.
    Over(Result<(), ReachError>),
}

/// What is needed to follow a rig.
pub struct Follow {
    /// What runs there.
    pub away: RemoteRun,
    /// The file in which what came is added up, and what holds it while the main thread reads it.
    pub came: PathBuf,
    pub held: Arc<Mutex<()>>,
    /// What could be sent.
    pub programs: Arc<[Program]>,
    pub study: PathBuf,
    pub files: Arc<[PathBuf]>,
    /// A logbook of what is known of the rig.
    pub known: Option<PathBuf>,
    /// A folder of its own.
    pub work: PathBuf,
    /// Whether it is no longer wanted.
    pub leaving: Arc<AtomicBool>,
    /// Whether anything was heard over the present connection.
    pub heard: bool,
    /// Whether the rig was reached before.
    pub reached: bool,
    /// Whether the run was cut off there.
    pub is_cut: bool,
}

impl Follow {
    /// Follows the rig until nothing more comes.
    pub fn run(mut self, tell: &dyn Fn(Event)) {
        let mut tries = AGAIN.into_iter();
        let over = loop {
            self.heard = false;
            let ended = self.once(tell);
            if self.heard {
                tries = AGAIN.into_iter();
            }
            let lost = match ended {
                Err(ReachError::Lost { .. }) => true,
                // It was there before.
                Err(ReachError::Unreached { .. }) => self.away.arrived || self.reached,
                _ => false,
            };
            // A rig that never said anything is tried once more, and not waited for.
            let wait = tries.next().filter(|wait| self.away.arrived || *wait == AGAIN[0]);
            let wait = wait.filter(|_| lost && !self.is_cut);
            let Some(wait) = wait.filter(|_| !self.leaving.load(Ordering::Relaxed)) else {
                break ended;
            };
            tell(Event::Retry(wait));
            let mut left = wait;
            while !left.is_zero() && !self.leaving.load(Ordering::Relaxed) {
                let step = left.min(LOOK);
                std::thread::sleep(step);
                left -= step;
            }
        };
        tell(Event::Over(over));
    }

    /// Reaches the rig once, and listens for as long as the connection lasts.
    fn once(&mut self, tell: &dyn Fn(Event)) -> Result<(), ReachError> {
        let mark = self.away.order.mark.clone();
        let connecting = Connecting::begin(&CommandLine::new(&self.away.reach), &mark)?;
        let control = connecting.control();
        tell(Event::Connecting(control.clone()));
        let connection = connecting.answer(&mark)?;
        tell(Event::Connected);
        self.reached = true;
        let listened = self.listen(connection, tell);
        // Where it was not listened to the end, whoever is there still waits to be told what to do.
        if listened.is_err() {
            control.disconnect();
        }
        listened
    }

    fn listen(&mut self, connection: Connection, tell: &dyn Fn(Event)) -> Result<(), ReachError> {
        if self.away.arrived && !connection.is_there() {
            tell(Event::Gone);
            return connection.leave();
        }
        let parcel = match connection.is_there() {
            true => None,
            false => Some(self.parcel(&connection)?),
        };
        let of = parcel.as_ref().map_or(0, |parcel| parcel.bytes);
        let (from, remarks) = self.here()?;
        let begin = Begin {
            parcel: parcel.as_ref(),
            from,
            remarks,
            said: self.away.said,
            resume: self.away.cut,
        };
        let laps = self.work.join("came");
        if parcel.is_none() {
            tell(Event::Sent);
        }
        let mut sent = |bytes| {
            tell(Event::Sending(bytes, of));
            if bytes == of {
                tell(Event::Sent);
            }
        };
        connection.follow(begin, &laps, &mut sent, &mut |message| {
            self.away.arrived = true;
            self.heard = true;
            tell(match message {
                Message::Laps => {
                    self.add(&laps)?;
                    Event::LapsArrived
                }
                Message::UnderWay(note) => match serde_json::from_slice(&note) {
                    Ok(under_way) => Event::UnderWay(Box::new(under_way)),
                    // None is under way, or it is noted in a way of another version's.
                    Err(_) => Event::Alive,
                },
                Message::Output(lines) => {
                    self.away.said += lines.len() as u64;
                    Event::Output(lines)
                }
                Message::Ended(status) => {
                    self.is_cut = status.is_none();
                    Event::Ended(status)
                }
                Message::Alive => Event::Alive,
            });
            Ok(())
        })
    }

    /// Adds laps that came to what is here of the session. A rig tells of the session that was ordered, and of no other.
    fn add(&self, laps: &Path) -> Result<(), ReachError> {
        let _held = self.held.lock().unwrap_or_else(PoisonError::into_inner);
        add_packed(laps, &self.came).map_err(strange)?;
        let came = Logbook::open(&self.came).map_err(strange)?;
        let is_it =
            |head: &Head| head.mark == self.away.order.mark && head.rig == self.away.recorded_as;
        let heads = came.heads().map_err(strange)?;
        let [head] = &heads[..] else {
            return Err(ReachError::Strange { what: format!("{} sessions", heads.len()) });
        };
        let of_it = |remark: &Remark| match &remark.subject {
            Subject::Session(session) => *session == head.session,
            Subject::Lap(lap) => lap.session == head.session,
            _ => false,
        };
        let remarks = came.remarks().map_err(strange)?;
        if !is_it(head) || !remarks.iter().all(of_it) {
            let what = format!("records of something else than the session on {}", self.away.rig);
            return Err(ReachError::Strange { what });
        }
        Ok(())
    }

    /// Packs what that machine is to get.
    fn parcel(&self, connection: &Connection) -> Result<Packed, ReachError> {
        let parcel = Parcel {
            program: connection.program(&self.programs)?,
            study: &self.study,
            files: &self.files,
            known: self.known.as_deref().map(|path| (path, crate::study_file::LOGBOOK_FILE)),
            order: &self.away.order,
        };
        parcel.pack(&self.work.join("parcel.tar"))
    }

    /// Returns which record of the session is the first that is not here, and the place of the last remark that is.
    fn here(&self) -> Result<(u32, i64), ReachError> {
        if !self.came.exists() {
            return Ok((0, self.away.remarks));
        }
        let _held = self.held.lock().unwrap_or_else(PoisonError::into_inner);
        let came = Logbook::open(&self.came).map_err(strange)?;
        let heads = came.heads().map_err(strange)?;
        let head = heads.iter().find(|head| head.mark == self.away.order.mark);
        let remarks = came.last_remark().map_err(strange)?;
        Ok((head.map_or(0, |head| head.last + 1), remarks.max(self.away.remarks)))
    }
}

fn strange(err: LogbookError) -> ReachError {
    ReachError::Strange { what: err.to_string() }
}

/// Starts the thread that follows a rig; what happens goes to `events`, with the rig's number.
pub fn start(rig: usize, follow: Follow, events: Sender<(usize, Event)>) -> std::io::Result<()> {
    let name = format!("rig-{}", follow.away.rig);
    let work = move || {
        // Whoever listened has left: then there is nobody to tell.
        follow.run(&|event| {
            let _ = events.send((rig, event));
        });
    };
    std::thread::Builder::new().name(name).spawn(work).map(drop)
}

/// Copies what came so far, whole, to `to`; returns whether there is anything.
pub fn copy_of(came: &Path, held: &Mutex<()>, to: &Path) -> std::io::Result<bool> {
    let _held = held.lock().unwrap_or_else(PoisonError::into_inner);
    if !came.exists() {
        return Ok(false);
    }
    std::fs::copy(came, to).map(|_| true)
}
