//! Several rigs at once: each followed on its thread, what comes joined into this logbook as it comes.

use super::super::result::print_result;
use super::follow::{Event, Follow, copy_of, start};
use super::note::{Away, Files};
use super::screen::Screen;
use crate::args::FormatArg;
use crate::ctx::Ctx;
use crate::error::{CmdError, Exit, Failure};
use crate::joining::{JoinArgs, join, new_keys};
use crate::stop_signals::stop_on_signals;
use crate::study_file::{LOGBOOK_FILE, OpenStudy};
use honest_lap_core::unit::{Nanos, display_span};
use honest_lap_logbook::Logbook;
use honest_lap_measure::Stop;
use honest_lap_reach::{Program, ReachError, Word};
use honest_lap_view::table::Role;
use std::path::PathBuf;
use std::sync::atomic::{AtomicBool, Ordering};
use std::sync::mpsc::{Sender, channel};
use std::sync::{Arc, Mutex};
use std::time::{Duration, Instant};

/// How often it is looked whether somebody wants an end.
const LOOK: Duration = Duration::from_millis(100);
/// A rig that says nothing for so long is not connected any more; it says so every few seconds.
const SILENT: Duration = Duration::from_secs(30);
/// How long it may take in and unpack what was sent before it says anything.
const SILENT_AT_FIRST: Duration = Duration::from_secs(120);
/// Joining takes at most one part in so many of the time: it checks all that came of a run each time.
const JOINING: u32 = 10;

/// A rig that is to be driven.
pub struct Prepared {
    pub files: Files,
    pub away: Away,
}

/// What can be sent.
pub struct Sent {
    pub programs: Arc<[Program]>,
    pub files: Arc<[PathBuf]>,
}

/// How far it is with a rig.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
enum Stage {
    Waiting,
    Calling,
    Sending,
    Running,
    Home,
    Over,
}

/// A rig under way.
struct Rig {
    files: Files,
    away: Away,
    held: Arc<Mutex<()>>,
    stage: Stage,
    word: Option<Word>,
    /// When it was last heard of.
    heard: Instant,
    heard_any: bool,
    /// Whether everything was sent there once.
    sent: bool,
    /// Since when the connection is given up.
    hung_up: Option<Instant>,
    /// Whether something came that is not joined yet, and from when on it may be.
    came: bool,
    join_from: Instant,
    /// Whether it is not to be reached again.
    leaving: Arc<AtomicBool>,
    exit: Exit,
}

/// Drives the rigs until all are over, and prints what their laps say.
pub fn drive(
    prepared: Vec<Prepared>,
    sent: &Sent,
    open: &OpenStudy,
    format: FormatArg,
    ctx: &Ctx,
) -> Result<Exit, CmdError> {
    let stop = stop_on_signals()?;
    let logbook = open.logbook_to_write(ctx)?;
    let known = logbook.signers()?;
    let now = Instant::now();
    let rig = |Prepared { files, away }: Prepared| Rig {
        files,
        away,
        held: Arc::default(),
        stage: Stage::Waiting,
        word: None,
        heard: now,
        heard_any: false,
        sent: false,
        hung_up: None,
        came: false,
        join_from: now,
        leaving: Arc::default(),
        exit: Exit::Done,
    };
    let rigs: Vec<Rig> = prepared.into_iter().map(rig).collect();
    for rig in &rigs {
        rig.files.note(&rig.away)?;
    }
    let names = rigs.iter().map(|rig| rig.away.rig.clone()).collect();
    let screen = Screen::new(names, ctx);
    let mut seat = Seat { rigs, screen, logbook, sent, open, ctx, asked: 0 };
    for group in groups(&seat.rigs) {
        seat.drive_group(&group, &stop)?;
    }
    let Seat { rigs, screen, mut logbook, asked, .. } = seat;
    drop(screen);
    let mut new = logbook.signers()?;
    new.retain(|key, _| !known.contains_key(key));
    new_keys(&new, open, ctx)?;
    let marked = rigs.iter().map(|rig| logbook.session_marked(&rig.away.order.mark));
    let marked = marked.collect::<Result<Vec<_>, _>>()?;
    let mut names = Vec::new();
    for session in marked.into_iter().flatten() {
        if !logbook.laps_of(&session.name)?.is_empty() {
            names.push(session.name);
        }
    }
    if !names.is_empty() {
        print_result(&names, &logbook, &open.study, format, ctx)?;
        ctx.ui.say(Role::Quiet, "next: lap compare");
    }
    // The logbook is given back whole before the status is known.
    logbook = open.logbook_to_write(ctx)?;
    drop(logbook);
    let worst = rigs.iter().map(|rig| rig.exit).max_by_key(|exit| *exit as u8);
    Ok(if asked > 0 { Exit::Measurement } else { worst.unwrap_or(Exit::Done) })
}

/// Returns which rigs are run at once: all that may be, then each that is run apart.
///
/// What is already running there is only listened to, whoever else is.
fn groups(rigs: &[Rig]) -> Vec<Vec<usize>> {
    let alone = |rig: &Rig| rig.away.apart && (!rig.away.arrived || rig.away.cut);
    let (apart, together): (Vec<usize>, Vec<usize>) =
        (0..rigs.len()).partition(|&at| alone(&rigs[at]));
    let mut groups: Vec<Vec<usize>> =
        [together].into_iter().filter(|all| !all.is_empty()).collect();
    groups.extend(apart.into_iter().map(|rig| vec![rig]));
    groups
}

/// Where several rigs are driven from.
struct Seat<'a> {
    rigs: Vec<Rig>,
    screen: Screen<'a>,
    logbook: Logbook,
    sent: &'a Sent,
    open: &'a OpenStudy,
    ctx: &'a Ctx,
    /// How often an end was asked for.
    asked: u64,
}

impl Seat<'_> {
    fn drive_group(&mut self, group: &[usize], stop: &Stop) -> Result<(), CmdError> {
        let (to, events) = channel();
        loop {
            while self.begin_next(group, &to)? {}
            if group.iter().all(|&rig| self.rigs[rig].stage == Stage::Over) {
                return Ok(());
            }
            if let Ok((rig, event)) = events.recv_timeout(LOOK) {
                self.take(rig, event)?;
            }
            for &rig in group {
                self.join_in_time(rig);
                self.hang_up_on_silence(rig);
            }
            let asked = stop.requests();
            if asked > self.asked {
                self.asked = asked;
                self.ask_to_end(group);
            }
        }
    }

    /// Begins to reach the next rig, and returns whether there was one to begin with. At a terminal that is one after the other: a login may ask for something there.
    fn begin_next(
        &mut self,
        group: &[usize],
        to: &Sender<(usize, Event)>,
    ) -> Result<bool, CmdError> {
        let calling = group.iter().any(|&rig| self.rigs[rig].stage == Stage::Calling);
        if calling && self.ctx.ui.is_attended() {
            return Ok(false);
        }
        let next = group.iter().find(|&&rig| self.rigs[rig].stage == Stage::Waiting);
        let Some(&at) = next else { return Ok(false) };
        let rig = &mut self.rigs[at];
        if self.asked > 0 {
            if !rig.away.arrived {
                rig.files.clear();
            }
            rig.stage = Stage::Over;
            self.screen.over(at);
            return Ok(true);
        }
        rig.stage = Stage::Calling;
        rig.heard = Instant::now();
        let work = rig.files.work().to_owned();
        let known = work.join(LOGBOOK_FILE);
        let follow = Follow {
            away: rig.away.clone(),
            came: rig.files.came().to_owned(),
            held: Arc::clone(&rig.held),
            programs: Arc::clone(&self.sent.programs),
            study: self.open.folder.clone(),
            files: Arc::clone(&self.sent.files),
            known: known.exists().then_some(known),
            work,
            leaving: Arc::clone(&rig.leaving),
            heard: false,
            reached: false,
            is_cut: false,
        };
        self.screen.show(at, &format!("reaching it: {}", rig.away.reach));
        start(at, follow, to.clone())
            .map(|()| true)
            .map_err(|err| CmdError::io("start", "a thread".as_ref(), &err))
    }

    fn take(&mut self, at: usize, event: Event) -> Result<(), CmdError> {
        let rig = &mut self.rigs[at];
        if rig.stage == Stage::Over {
            // It was given up.
            return Ok(());
        }
        rig.heard = Instant::now();
        rig.hung_up = None;
        if matches!(event, Event::UnderWay(_) | Event::Said(_) | Event::Came | Event::Alive) {
            rig.heard_any = true;
            if !rig.away.arrived {
                rig.away.arrived = true;
                rig.files.note(&rig.away)?;
            }
        }
        match event {
            Event::Calling(word) => {
                if self.asked > 0 {
                    word.hang_up();
                }
                rig.word = Some(word);
            }
            Event::Reached if rig.stage == Stage::Home => {}
            Event::Reached => {
                rig.stage = Stage::Sending;
                rig.heard_any = false;
                self.screen.show(at, "reached");
            }
            Event::Sending(sent, of) => self.screen.sending(at, sent, of),
            Event::Sent if rig.stage == Stage::Home => {}
            Event::Sent => {
                rig.stage = Stage::Running;
                rig.sent = true;
                self.screen.show(at, "starting");
                if let Some(word) = &rig.word {
                    (0..self.asked).for_each(|_| word.stop());
                }
            }
            Event::Alive => {}
            Event::UnderWay(lap) => self.screen.under_way(at, &lap),
            Event::Said(lines) => {
                rig.away.said += lines.len() as u64;
                rig.files.note(&rig.away)?;
                for line in String::from_utf8_lossy(&lines).lines() {
                    let role = if line.starts_with(' ') { Role::Quiet } else { Role::Plain };
                    self.screen.say(at, role, line);
                }
            }
            Event::Came => rig.came = true,
            Event::Ended(status) => self.ended(at, status)?,
            Event::Again(_) if rig.stage == Stage::Home => {}
            Event::Again(wait) => {
                rig.stage = Stage::Sending;
                let wait = display_span(Nanos(wait.as_nanos() as u64));
                let what = format!("the connection was lost; trying again in {wait}");
                self.screen.say_labelled(at, "warning", Role::Open, &what);
                self.screen.show(at, "not connected; the run goes on there");
            }
            // The last word arrived, and the connection ended with it.
            Event::Gone if rig.stage == Stage::Home => {}
            Event::Gone => {
                rig.files.clear();
                rig.stage = Stage::Home;
                let what = "nothing of the run is there any more; what came home is in the logbook";
                self.screen.say_labelled(at, "warning", Role::Open, what);
            }
            Event::Over(over) => self.over(at, over),
        }
        Ok(())
    }

    /// The run there has ended: once all of it is in this logbook, the folder there goes.
    fn ended(&mut self, at: usize, status: Option<u8>) -> Result<(), CmdError> {
        let joined = self.join(at);
        let rig = &mut self.rigs[at];
        match (joined, status) {
            (Err(err), _) => {
                self.failed(at, err);
                let rig = &self.rigs[at];
                rig.leaving.store(true, Ordering::Relaxed);
                rig.word.iter().for_each(Word::hang_up);
            }
            (Ok(()), Some(status)) => {
                rig.stage = Stage::Home;
                rig.exit = match status {
                    0 => Exit::Done,
                    2 => Exit::Request,
                    _ => Exit::Measurement,
                };
                rig.word.iter().for_each(Word::kept);
            }
            (Ok(()), None) => {
                rig.away.cut = true;
                rig.exit = Exit::Measurement;
                rig.files.note(&rig.away)?;
                let what = "the run was cut off there; `lap run --resume` goes on with it";
                self.screen.say_labelled(at, "warning", Role::Open, what);
                rig.word.iter().for_each(Word::hang_up);
            }
        }
        Ok(())
    }

    fn over(&mut self, at: usize, over: Result<(), ReachError>) {
        // What came with the last words is kept, however it ended.
        if let Err(err) = self.join(at) {
            self.failed(at, err);
        }
        let rig = &mut self.rigs[at];
        match (rig.stage, over) {
            (Stage::Home, _) => rig.files.clear(),
            _ if rig.away.cut && rig.exit != Exit::Done => {}
            (_, Ok(())) => {}
            (_, Err(err)) => {
                rig.exit = Exit::Measurement;
                let lost = matches!(err, ReachError::Lost { .. } | ReachError::Unreached { .. });
                let begun = rig.away.arrived || rig.sent && lost;
                if !begun {
                    rig.files.clear();
                }
                if self.asked == 0 || begun {
                    self.failed(at, told(&err, &self.rigs[at].away, begun));
                }
            }
        }
        let rig = &mut self.rigs[at];
        rig.stage = Stage::Over;
        // Whoever is still there hears that nobody is here.
        rig.word = None;
        self.screen.over(at);
    }

    /// Says what failed with a rig; the others go on.
    fn failed(&mut self, at: usize, err: CmdError) {
        let CmdError::Failed(failure) = err else { return };
        let Failure { exit, problem, details, causes, help } = *failure;
        self.rigs[at].exit = exit;
        self.screen.say_labelled(at, "error", Role::Failed, &problem);
        details.iter().chain(&causes).for_each(|line| self.screen.say(at, Role::Plain, line));
        if let Some(help) = help {
            self.screen.say_of_all("help", Role::Heading, &help);
        }
    }

    fn join_in_time(&mut self, at: usize) {
        let rig = &self.rigs[at];
        if rig.came
            && Instant::now() >= rig.join_from
            && rig.stage < Stage::Home
            && let Err(err) = self.join(at)
        {
            self.failed(at, err);
            // It comes again with the last words; until then it would only be said again.
            self.rigs[at].join_from += SILENT_AT_FIRST;
        }
    }

    /// Joins what came into this logbook, checked like the logbook of any stranger.
    fn join(&mut self, at: usize) -> Result<(), CmdError> {
        let rig = &mut self.rigs[at];
        if !std::mem::take(&mut rig.came) {
            return Ok(());
        }
        let begun = Instant::now();
        let work = rig.files.work().to_owned();
        let copy = work.join("home.db");
        let copied = copy_of(rig.files.came(), &rig.held, &copy);
        let any = copied.map_err(|err| CmdError::io("copy", rig.files.came(), &err))?;
        if any {
            let shown = format!("what came from {}", rig.away.rig);
            let (logbook, ctx) = (&mut self.logbook, self.ctx);
            let joined = self
                .screen
                .aside(|| join(&JoinArgs::default(), (&copy, &shown), &work, logbook, false, ctx));
            joined?;
        }
        self.rigs[at].join_from = Instant::now() + begun.elapsed() * JOINING;
        Ok(())
    }

    /// Gives a connection up on which nothing moves any more, and then whoever reads from it.
    fn hang_up_on_silence(&mut self, at: usize) {
        let rig = &mut self.rigs[at];
        let most = if rig.heard_any { SILENT } else { SILENT_AT_FIRST };
        let open = matches!(rig.stage, Stage::Sending | Stage::Running);
        match rig.hung_up {
            None if open && rig.heard.elapsed() > most => {
                rig.word.iter().for_each(Word::hang_up);
                rig.hung_up = Some(Instant::now());
            }
            // Something there holds the other end, whatever became of the command line.
            Some(since) if rig.stage < Stage::Over && since.elapsed() > SILENT => {
                rig.leaving.store(true, Ordering::Relaxed);
                self.over(at, Err(ReachError::Lost { said: Vec::new() }));
            }
            _ => {}
        }
    }

    /// Passes on that somebody wants an end.
    fn ask_to_end(&mut self, group: &[usize]) {
        let running: Vec<&str> = group
            .iter()
            .filter(|&&rig| self.rigs[rig].stage == Stage::Running)
            .map(|&rig| self.rigs[rig].away.rig.as_str())
            .collect();
        let leave = self.asked > 2;
        if leave {
            let what = "left; what still runs there is collected by `lap run --resume`";
            self.screen.say_of_all("note", Role::Open, what);
        } else if !running.is_empty() {
            let what =
                format!("ending the laps on {}; Ctrl-C twice more leaves", running.join(", "));
            self.screen.say_of_all("stopping", Role::Open, &what);
        }
        for &rig in group {
            let rig = &self.rigs[rig];
            rig.leaving.store(true, Ordering::Relaxed);
            let Some(word) = &rig.word else { continue };
            match rig.stage {
                Stage::Running if !leave => word.stop(),
                Stage::Waiting | Stage::Home | Stage::Over => {}
                _ => word.hang_up(),
            }
        }
    }
}

/// Returns what went wrong between here and a rig, with what to do about it.
fn told(err: &ReachError, away: &Away, begun: bool) -> CmdError {
    let help = match err {
        _ if begun => "the run goes on there; `lap run --resume` collects it".to_owned(),
        ReachError::Unreached { .. } | ReachError::NotStarted { .. } => format!(
            "try it by hand: {} true; on {} itself: lap run --rig {} --here",
            away.reach, away.rig, away.rig
        ),
        ReachError::NoProgram { .. } => {
            "name a `lap` that was built for it: --binary FILE".to_owned()
        }
        ReachError::NotTaken { .. } => {
            format!("nothing was left there; look at it by hand: {} sh", away.reach)
        }
        _ => "nothing is lost here; try again".to_owned(),
    };
    let CmdError::Failed(mut failure) = CmdError::caused(Exit::Measurement, err, Some(&help))
    else {
        unreachable!("an error with its cause is a failure")
    };
    failure.details = err.said().to_vec();
    CmdError::Failed(failure)
}

impl From<ReachError> for CmdError {
    fn from(err: ReachError) -> Self {
        Self::caused(Exit::Measurement, &err, None)
    }
}
