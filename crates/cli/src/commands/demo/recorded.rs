//! What a made-up lab recorded, written into a logbook as laps are.

use crate::error::CmdError;
use crate::study_file::OpenStudy;
use honest_lap_core::capacity;
use honest_lap_core::record::{
    Against, Conditions, Cut, Digest, Faults, LapBody, LapName, Outcome, PassAbout, RecordedPass,
    Remark, RemarkKind, Sampled, SessionAbout, SessionName, Subject, Task, Usage, VersionLine,
};
use honest_lap_core::unit::Nanos;
use honest_lap_logbook::{Logbook, NewLap, NewSession};
use honest_lap_stand_ins::pale_harbour::{self, RecordedLap, RecordedSession, Version};
use honest_lap_stand_ins::recorded_passes::RecordedFlight;

pub fn record(
    open: &OpenStudy,
    logbook: &mut Logbook,
    session: &RecordedSession,
) -> Result<(), CmdError> {
    let line = |&(workload, label, line): &Version| VersionLine {
        workload: workload.to_owned(),
        label: label.to_owned(),
        line: Some(line.to_owned()),
    };
    let versions: Vec<VersionLine> = session.versions.iter().map(line).collect();
    let mark = format!("made-up-{}-{}", session.rig, session.started);
    let new = NewSession {
        rig: session.rig,
        mark: &mark,
        started: &session.started,
        seed: 0,
        tool: env!("CARGO_PKG_VERSION"),
        found: &session.found,
        versions: &versions,
        about: &SessionAbout::default(),
    };
    let bodies = session.laps.iter().map(|lap| {
        let workload = open.study.workload(lap.workload);
        body(session, lap, workload.map(|workload| &workload.task))
    });
    let bodies: Vec<LapBody> = bodies.collect();
    let mut laps = Vec::new();
    for ((number, body), lap) in (1..).zip(&bodies).zip(&session.laps) {
        let workload =
            open.study.workload(lap.workload).expect("the lab runs the demo's workloads");
        laps.push(NewLap {
            number,
            workload: lap.workload,
            task: &workload.task,
            settings: &lap.settings,
            round: lap.round,
            warm_up: lap.warm_up,
            outcome: lap.outcome,
            wall: Some(lap.wall),
            parts: None,
            step: None,
            body,
        });
    }
    logbook.record_session(&new, &laps)?;
    Ok(())
}

/// Returns a made-up pass as it would have been imported.
fn pass(flight: &RecordedFlight, against: Against) -> RecordedPass {
    let pass = flight.pass.clone();
    let digest = Digest::of(&pass, &Cut::default(), against).expect("every pass has frames");
    let about = PassAbout {
        log: "(made up)".to_owned(),
        log_sha256: None,
        read_as: "made up, in nanoseconds".to_owned(),
        faults: Faults::default(),
        marks: flight.marks.clone(),
        also: Vec::new(),
        digest,
    };
    RecordedPass { about, pass }
}

/// Writes down what the lab's people said and set aside.
pub fn remark(logbook: &mut Logbook) -> Result<(), CmdError> {
    let (lap, why) = pale_harbour::set_aside();
    let lap = LapName::parse(lap).expect("the lab set aside one of its laps");
    let aside = (Subject::Lap(lap), RemarkKind::SetAside, why);
    let said = pale_harbour::remarks().map(|(about, text, felt)| match felt {
        true => (Subject::Workload(about.to_owned()), RemarkKind::Felt, text),
        false => {
            let session =
                SessionName::parse(about).expect("the lab remarks on a session of its own");
            (Subject::Session(session), RemarkKind::Note, text)
        }
    });
    for ((subject, kind, text), number) in [aside].into_iter().chain(said).zip(1..) {
        let (made, text) = (pale_harbour::REMARKED.to_owned(), text.to_owned());
        let remark = Remark { kind, subject, made, text };
        logbook.append_remark(&remark, &format!("made-up-{number}"))?;
    }
    Ok(())
}

fn body(session: &RecordedSession, lap: &RecordedLap, task: Option<&Task>) -> LapBody {
    let against = task.map(|task| task.kind.against()).unwrap_or_default();
    let load = task.and_then(|task| task.kind.load()).zip(lap.load);
    let exit_code = match lap.outcome {
        Outcome::Done => Some(0),
        Outcome::ExitCode if load.is_some() => Some(3),
        Outcome::ExitCode => Some(1),
        _ => None,
    };
    LapBody {
        started: session.started.clone(),
        reason: lap.reason.clone(),
        command: vec![lap.workload.to_owned(), "(made up)".to_owned()],
        folder: "(made up)".to_owned(),
        exit_code,
        signal: (lap.outcome == Outcome::Signal).then_some(9),
        usage: Some(Usage {
            user: Nanos(lap.wall.0 / 100 * 98 * u64::from(lap.threads)),
            system: Nanos(lap.wall.0 / 100),
            peak_bytes: 9_500_000,
            peak_floor_bytes: 0,
        }),
        conditions: Conditions {
            others_cpu: Some(Nanos(10_000_000)),
            slept: Some(Nanos(0)),
            sampled: Sampled {
                governor: session.found.governor.clone(),
                on_mains: Some(true),
                ..Sampled::of(&lap.traces)
            },
            ..Conditions::default()
        },
        traces: lap.traces.clone(),
        repeats: lap.repeats.clone(),
        readings: load
            .map(|(rule, tried)| capacity::readings(rule, tried.at, Some(tried.came)))
            .unwrap_or_default(),
        pass: lap.flight.as_ref().map(|flight| Box::new(pass(flight, against))),
        ..LapBody::default()
    }
}
