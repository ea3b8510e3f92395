//! Where several rigs are driven from: each is followed on its thread, and what comes is joined into this logbook as it comes.

use super::follow::{Event, Follow, copy_of, start};
use super::rig::{Rig, Stage};
use super::screen::Screen;
use super::told::told;
use crate::ctx::Ctx;
use crate::error::{CmdError, Exit, Failure};
use crate::joining::{JoinArgs, join};
use crate::study_file::{LOGBOOK_FILE, OpenStudy};
use honest_lap_core::unit::{Nanos, display_span};
use honest_lap_logbook::Logbook;
use honest_lap_measure::Stop;
use honest_lap_reach::{Control, Program, ReachError};
use honest_lap_view::table::Role;
use std::path::PathBuf;
use std::sync::Arc;
use std::sync::atomic::Ordering;
use std::sync::mpsc::{Sender, channel};
use std::time::{Duration, Instant};

/// How often it is looked whether somebody wants an end.
const LOOK: Duration = Duration::from_millis(100);
/// A rig that says nothing for so long is not connected any more; it says so every few seconds.
const SILENT: Duration = Duration::from_secs(30);
/// How long it is waited for a connection to end that nobody wants any more.
const SHORT: Duration = Duration::from_secs(2);
/// How long it may take in and unpack what was sent before it says anything.
const SILENT_AT_FIRST: Duration = Duration::from_secs(120);
/// Joining takes at most one part in so many of the time: it checks all that came of a run each time.
const JOINING: u32 = 10;

/// What can be sent.
pub struct Sent {
    pub programs: Arc<[Program]>,
    pub files: Arc<[PathBuf]>,
}

/// Where several rigs are driven from.
pub struct Seat<'a> {
    pub rigs: Vec<Rig>,
    pub screen: Screen<'a>,
    pub logbook: Logbook,
    pub sent: &'a Sent,
    pub open: &'a OpenStudy,
    pub ctx: &'a Ctx,
    /// How often an end was asked for.
    pub asked: u64,
}

impl Seat<'_> {
    /// Drives the rigs of a group until all of them are over.
    pub fn drive_group(&mut self, group: &[usize], stop: &Stop) -> Result<(), CmdError> {
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
                self.disconnect_on_silence(rig);
            }
            let asked = stop.requests();
            if asked > self.asked {
                self.asked = asked;
                self.ask_to_end(group);
            }
        }
    }

    /// Begins to reach the next rig, and returns whether there was one to begin with.
    ///
    /// At a terminal that is one after the other: a login may ask for something there.
    fn begin_next(
        &mut self,
        group: &[usize],
        to: &Sender<(usize, Event)>,
    ) -> Result<bool, CmdError> {
        let calling = group.iter().any(|&rig| self.rigs[rig].stage == Stage::Connecting);
        if calling && self.ctx.ui.is_attended() {
            return Ok(false);
        }
        let next = group.iter().find(|&&rig| self.rigs[rig].stage == Stage::Waiting);
        let Some(&at) = next else { return Ok(false) };
        let rig = &mut self.rigs[at];
        if self.asked > 0 {
            if rig.is_fresh {
                rig.files.clear();
            }
            rig.stage = Stage::Over;
            self.screen.over(at);
            return Ok(true);
        }
        rig.stage = Stage::Connecting;
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
        self.screen.show(at, &format!("connecting: {}", rig.away.reach));
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
        rig.disconnected = None;
        if matches!(
            event,
            Event::UnderWay(_) | Event::Output(_) | Event::LapsArrived | Event::Alive
        ) {
            rig.heard_any = true;
            if !rig.away.arrived {
                rig.away.arrived = true;
                rig.files.note(&rig.away)?;
            }
        }
        match event {
            Event::Connecting(control) => {
                if self.asked > 0 {
                    control.abort();
                    rig.disconnected = Some(Instant::now());
                }
                rig.control = Some(control);
            }
            Event::Connected if rig.stage == Stage::Collected => {}
            Event::Connected => {
                rig.stage = Stage::Sending;
                rig.heard_any = false;
                self.screen.show(at, "connected");
            }
            Event::Sending(sent, of) => self.screen.sending(at, sent, of),
            Event::Sent if rig.stage == Stage::Collected => {}
            Event::Sent => {
                rig.stage = Stage::Running;
                rig.sent = true;
                self.screen.show(at, "starting");
                if let Some(control) = &rig.control {
                    (0..self.asked).for_each(|_| control.stop());
                }
            }
            Event::Alive => {}
            Event::UnderWay(lap) => self.screen.under_way(at, &lap),
            Event::Output(lines) => {
                rig.away.said += lines.len() as u64;
                rig.files.note(&rig.away)?;
                for line in String::from_utf8_lossy(&lines).lines() {
                    let role = if line.starts_with(' ') { Role::Quiet } else { Role::Plain };
                    self.screen.say(at, role, line);
                }
            }
            Event::LapsArrived => rig.came = true,
            Event::Ended(status) => self.ended(at, status)?,
            Event::Retry(_) if rig.stage == Stage::Collected => {}
            Event::Retry(wait) => {
                rig.stage = Stage::Sending;
                let wait = display_span(Nanos(wait.as_nanos() as u64));
                let what = format!("the connection was lost; trying again in {wait}");
                self.screen.say_labelled(at, "warning", Role::Open, &what);
                self.screen.show(at, "not connected; the run goes on there");
            }
            // It heard that all is here, and the connection ended with it.
            Event::Gone if rig.stage == Stage::Collected => {}
            Event::Gone => {
                rig.files.clear();
                rig.stage = Stage::Collected;
                rig.exit = Exit::Measurement;
                let what = "the run is no longer on that machine; the laps that were received are in the logbook";
                self.screen.say_labelled(at, "warning", Role::Open, what);
            }
            Event::Over(over) => self.over(at, over),
        }
        Ok(())
    }

    /// The run there has ended: once all of it is in this logbook, the folder there goes.
    fn ended(&mut self, at: usize, status: Option<u8>) -> Result<(), CmdError> {
        let is_here = self.join(at);
        let rig = &mut self.rigs[at];
        match (is_here, status) {
            (false, _) => {
                rig.leaving.store(true, Ordering::Relaxed);
                rig.control.iter().for_each(Control::disconnect);
            }
            (true, Some(status)) => {
                rig.stage = Stage::Collected;
                rig.exit = match status {
                    0 => Exit::Done,
                    2 => Exit::Request,
                    _ => Exit::Measurement,
                };
                rig.control.iter().for_each(Control::done);
            }
            (true, None) => {
                rig.away.cut = true;
                rig.exit = Exit::Measurement;
                rig.files.note(&rig.away)?;
                let what = "the run was cut off there; `lap run --resume` goes on with it";
                self.screen.say_labelled(at, "warning", Role::Open, what);
                rig.control.iter().for_each(Control::disconnect);
            }
        }
        Ok(())
    }

    fn over(&mut self, at: usize, over: Result<(), ReachError>) {
        // What came with the last words is kept, however it ended.
        let is_here = self.join(at);
        let rig = &mut self.rigs[at];
        match (rig.stage, over) {
            (Stage::Collected, _) => rig.files.clear(),
            // Both were said.
            _ if !is_here || rig.away.cut && rig.exit != Exit::Done => {}
            (_, Ok(())) => {}
            (_, Err(err)) => {
                rig.exit = Exit::Measurement;
                let lost = matches!(err, ReachError::Lost { .. } | ReachError::Unreached { .. });
                let begun = rig.away.arrived || lost && rig.may_be_there();
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
        rig.control = None;
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
        if rig.came && Instant::now() >= rig.join_from && rig.stage < Stage::Collected {
            self.join(at);
        }
    }

    /// Joins what came into this logbook, checked like the logbook of any stranger; returns whether all that came is here.
    ///
    /// What is refused is said once, and stays where it is.
    fn join(&mut self, at: usize) -> bool {
        let rig = &self.rigs[at];
        if rig.came
            && !rig.refused
            && let Err(err) = self.try_to_join(at)
        {
            self.failed(at, err);
            let rig = &mut self.rigs[at];
            rig.refused = true;
            let came = rig.files.came();
            let came = came.strip_prefix(&self.open.folder).unwrap_or(came).display();
            let what = format!(
                "what came from {} is kept: `lap merge {came}` joins it once that is resolved, then \
                 `lap run --resume`",
                rig.away.rig
            );
            self.screen.say_of_all("note", Role::Open, &what);
        }
        !self.rigs[at].refused
    }

    fn try_to_join(&mut self, at: usize) -> Result<(), CmdError> {
        let rig = &mut self.rigs[at];
        let begun = Instant::now();
        let work = rig.files.work().to_owned();
        let copy = work.join("home.db");
        // What comes from here on is told of again.
        rig.came = false;
        let copied = copy_of(rig.files.came(), &rig.held, &copy);
        if copied.map_err(|err| CmdError::io("copy", rig.files.came(), &err))? {
            let shown = format!("what came from {}", rig.away.rig);
            let whose = match rig.away.rebuilt {
                true => JoinArgs::same(&rig.away.rig),
                false => JoinArgs::default(),
            };
            let (logbook, ctx) = (&mut self.logbook, self.ctx);
            let join = || join(&whose, (&copy, &shown), &work, logbook, false, ctx);
            self.screen.aside(join)?;
        }
        self.rigs[at].join_from = Instant::now() + begun.elapsed() * JOINING;
        Ok(())
    }

    /// Gives a connection up on which nothing moves any more, and then whoever reads from it.
    fn disconnect_on_silence(&mut self, at: usize) {
        let rig = &mut self.rigs[at];
        let most = if rig.heard_any { SILENT } else { SILENT_AT_FIRST };
        let open = matches!(rig.stage, Stage::Sending | Stage::Running);
        let patience = if self.asked > 0 { SHORT } else { SILENT };
        match rig.disconnected {
            None if open && rig.heard.elapsed() > most => {
                rig.control.iter().for_each(Control::disconnect);
                rig.disconnected = Some(Instant::now());
            }
            // Something still holds the other end, whatever became of the command line.
            Some(since) if rig.stage < Stage::Over && since.elapsed() > patience => {
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
            let what = "left running; `lap run --resume` collects it";
            self.screen.say_of_all("note", Role::Open, what);
        } else if !running.is_empty() {
            let what = format!(
                "ending the laps on {}; Ctrl-C twice more leaves them running",
                running.join(", ")
            );
            self.screen.say_of_all("stopping", Role::Open, &what);
        }
        for &rig in group {
            let rig = &mut self.rigs[rig];
            rig.leaving.store(true, Ordering::Relaxed);
            let Some(control) = &rig.control else { continue };
            match rig.stage {
                Stage::Running if !leave => control.stop(),
                Stage::Waiting | Stage::Collected | Stage::Over => {}
                stage => {
                    match stage {
                        Stage::Connecting => control.abort(),
                        _ => control.disconnect(),
                    }
                    rig.disconnected = Some(Instant::now());
                }
            }
        }
    }
}
