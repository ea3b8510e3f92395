//! Sessions of laps that people read or timed: what `lap enter` and `lap clock` have in common.

use crate::ctx::Ctx;
use crate::error::CmdError;
use honest_lap_core::record::{
    LapBody, LapName, Outcome, Reading, RecordedPass, RigFound, SessionAbout, SessionName,
    Settings, Study, Workload, is_rig_name,
};
use honest_lap_core::unit::Nanos;
use honest_lap_logbook::{Logbook, NewLap, NewSession};

/// Returns an error unless `rig` is known, or said to be new: a slip of the pen is no new rig.
pub fn known_rig(
    rig: &str,
    new: bool,
    study: &Study,
    logbook: Option<&Logbook>,
) -> Result<(), CmdError> {
    if !is_rig_name(rig) {
        return Err(CmdError::request(
            format!("`{rig}` cannot name a rig"),
            "use 1 to 40 letters, digits, `-` and `_`, with a letter or digit first",
        ));
    }
    let recorded = match logbook {
        Some(logbook) => logbook.sessions()?.into_iter().map(|page| page.record.name.rig).collect(),
        None => Vec::new(),
    };
    let mut known: Vec<&str> = study.rigs.iter().map(|rig| rig.name.as_str()).collect();
    known.extend(recorded.iter().map(String::as_str));
    known.sort_unstable();
    known.dedup();
    if new || known.contains(&rig) {
        return Ok(());
    }
    let help = match known.is_empty() {
        true => "add --new-rig, or a [rig.NAME] table to the study".to_owned(),
        false => format!("known are: {}; a new one needs --new-rig", known.join(", ")),
    };
    Err(CmdError::request(format!("no rig is called `{rig}`; nothing was taken in"), help))
}

/// A session of laps by hand, begun.
pub struct HandSession {
    name: SessionName,
    laps: u32,
}

impl HandSession {
    /// Begins a session. The machine that they are typed in on says nothing of the rig.
    pub fn begin(
        logbook: &mut Logbook,
        rig: &str,
        about: &SessionAbout,
        ctx: &Ctx,
    ) -> Result<Self, CmdError> {
        let name = logbook.begin_session(&NewSession {
            rig,
            mark: &ctx.mark()?,
            started: &ctx.now(),
            seed: 0,
            tool: env!("CARGO_PKG_VERSION"),
            found: &RigFound::default(),
            versions: &[],
            about,
        })?;
        Ok(Self { name, laps: 0 })
    }

    pub fn name(&self) -> &SessionName {
        &self.name
    }

    /// Appends a lap; `time` comes with the step in which it was read.
    pub fn append(
        &mut self,
        logbook: &mut Logbook,
        workload: &Workload,
        settings: &Settings,
        time: Option<(Nanos, Nanos)>,
        readings: Vec<Reading>,
        ctx: &Ctx,
    ) -> Result<LapName, CmdError> {
        let body = LapBody { started: ctx.now(), readings, ..LapBody::default() };
        self.put(logbook, workload, settings, time, Outcome::Done, &body)
    }

    /// Appends a pass that was captured elsewhere.
    pub fn append_pass(
        &mut self,
        logbook: &mut Logbook,
        workload: &Workload,
        settings: &Settings,
        pass: RecordedPass,
        ctx: &Ctx,
    ) -> Result<LapName, CmdError> {
        let pass = Some(Box::new(pass));
        let body = LapBody { started: ctx.now(), pass, ..LapBody::default() };
        self.put(logbook, workload, settings, None, Outcome::Done, &body)
    }

    /// Appends a lap that was given up after `time`.
    pub fn append_given_up(
        &mut self,
        logbook: &mut Logbook,
        workload: &Workload,
        settings: &Settings,
        time: Nanos,
        ctx: &Ctx,
    ) -> Result<LapName, CmdError> {
        let reason = Some("given up at the stopwatch".to_owned());
        let body = LapBody { started: ctx.now(), reason, ..LapBody::default() };
        self.put(logbook, workload, settings, Some((time, time)), Outcome::Interrupted, &body)
    }

    fn put(
        &mut self,
        logbook: &mut Logbook,
        workload: &Workload,
        settings: &Settings,
        time: Option<(Nanos, Nanos)>,
        outcome: Outcome,
        body: &LapBody,
    ) -> Result<LapName, CmdError> {
        self.laps += 1;
        let name = LapName { session: self.name.clone(), number: self.laps };
        let counted = &workload.task.splits.as_ref().map_or(&[][..], |splits| &splits.counts);
        let of_parts = body.readings.iter().filter(|reading| counted.contains(&reading.name));
        let seconds: f64 = of_parts.filter_map(|reading| reading.value).sum();
        let task = logbook.enter_task(&workload.name, &workload.task)?;
        logbook.append_lap(&NewLap {
            name: &name,
            task,
            settings,
            // A round of its own: nobody knows whether variants took turns.
            round: self.laps,
            warm_up: false,
            outcome,
            wall: time.map(|(time, _)| time),
            parts: (seconds > 0.0).then(|| Nanos((seconds * 1e9).round() as u64)),
            step: time.map(|(_, step)| step),
            body,
        })?;
        Ok(name)
    }
}
