//! Sessions of laps that people read or timed: what `lap enter` and `lap clock` have in common.

use crate::ctx::Ctx;
use crate::error::CmdError;
use crate::rig_key::sign;
use honest_lap_core::entry::Entry;
use honest_lap_core::record::{
    Conditions, LapBody, LapName, Outcome, Reading, RecordedPass, RigFound, Sampled, SessionAbout,
    SessionName, Settings, Study, Traces, Workload, is_rig_name,
};
use honest_lap_core::unit::Nanos;
use honest_lap_logbook::{Logbook, NewLap, NewSession, OpenSession};

/// Returns the rigs that the study or the logbook knows, in order.
pub fn known_rigs(study: &Study, logbook: Option<&Logbook>) -> Result<Vec<String>, CmdError> {
    let mut known: Vec<String> = study.rigs.iter().map(|rig| rig.name.clone()).collect();
    if let Some(logbook) = logbook {
        known.extend(logbook.records()?.into_iter().map(|record| record.name.rig));
    }
    known.sort_unstable();
    known.dedup();
    Ok(known)
}

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
    let known = known_rigs(study, logbook)?;
    if new || known.iter().any(|known| known == rig) {
        return Ok(());
    }
    let help = match known.is_empty() {
        true => "add --new-rig, or a [rig.NAME] table to the study".to_owned(),
        false => format!("known are: {}; a new one needs --new-rig", known.join(", ")),
    };
    Err(CmdError::request(format!("no rig is called `{rig}`; nothing was recorded"), help))
}

/// Returns the variant of `workload` that these settings say.
pub fn variant(workload: &Workload, given: &[(String, String)]) -> Result<Settings, CmdError> {
    let settings = Settings::new(given.to_vec());
    let variants = workload.variants();
    let wanted: Vec<&Settings> = variants
        .iter()
        .filter(|variant| given.iter().all(|(name, value)| variant.get(name) == Some(value)))
        .collect();
    match wanted.as_slice() {
        [only] => Ok((*only).clone()),
        _ => {
            let all: Vec<String> = variants.iter().map(ToString::to_string).collect();
            Err(CmdError::request(
                format!("`{settings}` does not say which variant of {} is meant", workload.name),
                format!("say it by --with SETTING=VALUE; there are: {}", all.join("; ")),
            ))
        }
    }
}

/// A lap that a person read, timed or captured elsewhere, ready to be written down.
pub struct HandLap<'a> {
    workload: &'a Workload,
    settings: &'a Settings,
    /// Its time, with the step in which it was read.
    time: Option<(Nanos, Nanos)>,
    outcome: Outcome,
    body: LapBody,
}

impl<'a> HandLap<'a> {
    /// Returns a lap of these readings; `time` comes with the step in which it was read.
    pub fn read(
        workload: &'a Workload,
        settings: &'a Settings,
        time: Option<(Nanos, Nanos)>,
        readings: Vec<Reading>,
        ctx: &Ctx,
    ) -> Self {
        let body = LapBody { started: ctx.now(), readings, ..LapBody::default() };
        Self { workload, settings, time, outcome: Outcome::Done, body }
    }

    /// Returns a lap that was typed in, of a workload that the study has.
    pub fn entered(entry: &'a Entry, study: &'a Study, ctx: &Ctx) -> Self {
        let workload = study.workload(&entry.workload).expect("it was read by this study");
        let outcome = if entry.failed.is_some() { Outcome::Failed } else { Outcome::Done };
        let body = LapBody {
            started: ctx.now(),
            readings: entry.readings.clone(),
            reason: entry.failed.clone(),
            ..LapBody::default()
        };
        let time = entry.time.filter(|_| entry.failed.is_none());
        Self { workload, settings: &entry.settings, time, outcome, body }
    }

    /// Returns a pass that was captured elsewhere.
    pub fn captured(
        workload: &'a Workload,
        settings: &'a Settings,
        (pass, traces): (RecordedPass, Traces),
        ctx: &Ctx,
    ) -> Self {
        let pass = Some(Box::new(pass));
        let mut conditions = Conditions::default();
        if !traces.is_empty() {
            conditions.sampled = Sampled::of(&traces);
        }
        let body = LapBody { started: ctx.now(), pass, conditions, traces, ..LapBody::default() };
        Self { workload, settings, time: None, outcome: Outcome::Done, body }
    }

    /// Returns a lap that was given up after `time`.
    pub fn given_up(
        workload: &'a Workload,
        settings: &'a Settings,
        time: Nanos,
        ctx: &Ctx,
    ) -> Self {
        let reason = Some("given up at the stopwatch".to_owned());
        let body = LapBody { started: ctx.now(), reason, ..LapBody::default() };
        Self { workload, settings, time: Some((time, time)), outcome: Outcome::Interrupted, body }
    }

    /// Returns a lap that failed after `time`.
    pub fn failed(workload: &'a Workload, settings: &'a Settings, time: Nanos, ctx: &Ctx) -> Self {
        let reason = Some("failed, said whoever held the stopwatch".to_owned());
        let body = LapBody { started: ctx.now(), reason, ..LapBody::default() };
        Self { workload, settings, time: Some((time, time)), outcome: Outcome::Failed, body }
    }

    fn numbered(&self, number: u32) -> NewLap<'_> {
        let splits = self.workload.task.splits.as_ref();
        let counted = &splits.map_or(&[][..], |splits| &splits.counts);
        let of_parts = self.body.readings.iter().filter(|read| counted.contains(&read.name));
        let seconds: f64 = of_parts.filter_map(|reading| reading.value).sum();
        NewLap {
            number,
            workload: &self.workload.name,
            task: &self.workload.task,
            settings: self.settings,
            // A round of its own: nobody knows whether variants took turns.
            round: number,
            warm_up: false,
            outcome: self.outcome,
            wall: self.time.map(|(time, _)| time),
            parts: (seconds > 0.0).then(|| Nanos((seconds * 1e9).round() as u64)),
            step: self.time.map(|(_, step)| step),
            body: &self.body,
        }
    }
}

/// A session of laps by hand, written down.
pub struct HandSession {
    session: OpenSession,
    laps: u32,
}

impl HandSession {
    /// Writes down a session of these laps: all of them, or nothing. The machine that they are typed in on says nothing of
    /// the rig.
    pub fn record(
        logbook: &mut Logbook,
        rig: &str,
        about: &SessionAbout,
        laps: &[HandLap<'_>],
        ctx: &Ctx,
    ) -> Result<Self, CmdError> {
        let mut sessions = Self::record_all(logbook, &[(rig, about, laps)], ctx)?;
        Ok(sessions.swap_remove(0))
    }

    /// Writes down sessions of rigs likewise: all of them, or nothing.
    pub fn record_all(
        logbook: &mut Logbook,
        all: &[(&str, &SessionAbout, &[HandLap<'_>])],
        ctx: &Ctx,
    ) -> Result<Vec<Self>, CmdError> {
        let (now, found) = (ctx.now(), RigFound::default());
        let marks: Vec<String> = all.iter().map(|_| ctx.mark()).collect::<Result<_, _>>()?;
        let new: Vec<(NewSession<'_>, Vec<NewLap<'_>>)> = all
            .iter()
            .zip(&marks)
            .map(|((rig, about, laps), mark)| {
                let new = NewSession {
                    rig,
                    mark,
                    started: &now,
                    seed: 0,
                    tool: env!("CARGO_PKG_VERSION"),
                    found: &found,
                    versions: &[],
                    about,
                };
                (new, (1..).zip(*laps).map(|(at, lap)| lap.numbered(at)).collect())
            })
            .collect();
        let sessions = logbook.record_sessions(&new)?;
        sign(logbook, &sessions.iter().collect::<Vec<_>>(), ctx)?;
        let laps = |laps: &[HandLap<'_>]| u32::try_from(laps.len()).unwrap_or(u32::MAX);
        let sessions = sessions.into_iter().zip(all);
        Ok(sessions.map(|(session, (_, _, of))| Self { session, laps: laps(of) }).collect())
    }

    /// Returns its name.
    pub fn name(&self) -> &SessionName {
        &self.session.name
    }

    /// Returns the names of its laps, in order.
    pub fn laps(&self) -> impl Iterator<Item = LapName> {
        (1..=self.laps).map(|number| self.session.lap(number))
    }

    /// Signs what was appended since it was recorded.
    pub fn end(&self, logbook: &mut Logbook, ctx: &Ctx) -> Result<(), CmdError> {
        sign(logbook, &[&self.session], ctx)
    }

    /// Appends a lap.
    pub fn append(
        &mut self,
        logbook: &mut Logbook,
        lap: &HandLap<'_>,
    ) -> Result<LapName, CmdError> {
        self.laps += 1;
        logbook.append_lap(&self.session, &lap.numbered(self.laps))?;
        Ok(self.session.lap(self.laps))
    }
}
