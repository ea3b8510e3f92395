//! What the ways of writing laps down as they are done have in common: a line that moves, and a session begun with its first lap.

use crate::by_hand::{HandLap, HandSession};
use crate::ctx::Ctx;
use crate::error::CmdError;
use honest_lap_core::record::{
    LapName, Origin, Remark, RemarkKind, SessionAbout, Settings, Subject, Workload,
};
use honest_lap_logbook::Logbook;
use honest_lap_measure::{Keys, Stop};
use honest_lap_view::table::Role;
use honest_lap_view::words::lap_of;
use indicatif::{ProgressBar, ProgressStyle};

/// Where keys come from, and what ends waiting for them.
pub type From<'a> = (&'a Keys, &'a Stop);

/// A screen on which laps are written down.
pub struct Screen<'a> {
    pub ctx: &'a Ctx,
    pub workload: &'a Workload,
    pub settings: &'a Settings,
    pub rig: &'a str,
    about: SessionAbout,
    session: Option<HandSession>,
    pub last: Option<LapName>,
    bar: ProgressBar,
}

impl<'a> Screen<'a> {
    pub fn new(
        (workload, settings): (&'a Workload, &'a Settings),
        rig: &'a str,
        by: Option<String>,
        ctx: &'a Ctx,
    ) -> Self {
        let bar = ProgressBar::new_spinner();
        let look =
            ProgressStyle::with_template("{msg}").expect("the template above is well formed");
        bar.set_style(look);
        let about = SessionAbout { origin: Origin::Clocked, reader: by, ..SessionAbout::default() };
        Self { ctx, workload, settings, rig, about, session: None, last: None, bar }
    }

    pub fn welcome(&self) {
        let what = lap_of(&self.workload.name, self.settings);
        self.say(Role::Heading, &format!("{what} on {}", self.rig));
        if let Some(doing) = &self.workload.task.by_hand {
            self.say(Role::Plain, doing);
        }
    }

    pub fn say(&self, role: Role, line: &str) {
        self.bar.suspend(|| self.ctx.ui.say(role, line));
    }

    /// Shows what is under way.
    pub fn show(&self, line: impl Into<String>) {
        self.bar.set_message(line.into());
        self.bar.tick();
    }

    /// Writes a lap down; the first one begins the session.
    pub fn write(&mut self, lap: &HandLap<'_>, logbook: &mut Logbook) -> Result<LapName, CmdError> {
        if let Some(session) = &mut self.session {
            return session.append(logbook, lap);
        }
        let laps = std::slice::from_ref(lap);
        let session = HandSession::record(logbook, self.rig, &self.about, laps, self.ctx)?;
        let name = session.laps().next().expect("it was written with a lap");
        self.session = Some(session);
        Ok(name)
    }

    /// Sets the last lap aside, where there is one that is not; returns whether there was.
    pub fn void_last(&mut self, logbook: &mut Logbook) -> Result<bool, CmdError> {
        let Some(lap) = self.last.take() else { return Ok(false) };
        let line = format!("{lap}  is set aside");
        let remark = Remark {
            kind: RemarkKind::SetAside,
            subject: Subject::Lap(lap),
            made: self.ctx.now(),
            text: "void, said whoever held the stopwatch".to_owned(),
        };
        logbook.append_remark(&remark, &self.ctx.mark()?)?;
        self.say(Role::Open, &line);
        Ok(true)
    }

    /// Ends it: what was recorded is signed.
    pub fn end(self, logbook: &mut Logbook) -> Result<(), CmdError> {
        self.bar.finish_and_clear();
        self.session.as_ref().map_or(Ok(()), |session| session.end(logbook, self.ctx))
    }
}
