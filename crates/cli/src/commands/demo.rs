//! `lap demo`: the planetarium's study, a recorded lab, and real laps on this machine.

use crate::ctx::Ctx;
use crate::error::{CmdError, Exit};
use crate::study_file::{LOGBOOK_FILE, OpenStudy, STUDY_FILE};
use crate::whole_file::write_new;
use honest_lap_core::capacity;
use honest_lap_core::record::{
    Against, Conditions, Cut, Digest, Faults, LapBody, LapName, Outcome, PassAbout, RecordedPass,
    Remark, RemarkKind, Sampled, SessionAbout, SessionName, Subject, Task, Usage, VersionLine,
};
use honest_lap_core::unit::Nanos;
use honest_lap_logbook::{Logbook, NewLap, NewSession};
use honest_lap_stand_ins::machine::Night;
use honest_lap_stand_ins::pale_harbour::{self, RecordedLap, RecordedSession, versions};
use honest_lap_stand_ins::recorded_passes::RecordedFlight;
use honest_lap_view::table::Role;
use std::path::PathBuf;

/// Make a whole example and run it: from laps to a comparison, in under a minute
#[derive(clap::Args, Debug)]
#[command(
    after_help = "Examples:\n  lap demo                     in the folder pale-harbour\n  lap demo /tmp/dome           in another\n  \
                        lap demo --recorded-only     without running laps on this machine"
)]
pub struct DemoArgs {
    /// The folder to make
    #[arg(default_value = "pale-harbour", value_name = "DIR")]
    dir: PathBuf,
    /// Only write the study and its recorded laps; run nothing
    #[arg(long)]
    recorded_only: bool,
}

const STUDY: &str = include_str!("../../templates/pale-harbour.toml");
/// The workloads that this machine runs.
const RUN_HERE: [&str; 5] =
    ["dome-still", "catalogue-build", "fly-through", "orbit-solve", "sky-layers"];
/// Counted laps on this machine: enough for a verdict, few enough for half a minute.
const LAPS_HERE: u32 = 4;

pub fn run(args: &DemoArgs, ctx: &Ctx) -> Result<Exit, CmdError> {
    let folder = std::path::absolute(ctx.folder.join(&args.dir))
        .map_err(|err| CmdError::io("find", &args.dir, &err))?;
    let taken = folder.read_dir().is_ok_and(|mut entries| entries.next().is_some());
    if taken || folder.is_file() {
        return Err(CmdError::request(
            format!("{} is there already, and stays as it is", args.dir.display()),
            "name another folder: lap demo DIR",
        ));
    }
    std::fs::create_dir_all(&folder).map_err(|err| CmdError::io("create", &folder, &err))?;
    let path = folder.join(STUDY_FILE);
    write_new(&path, STUDY.as_bytes()).map_err(|err| CmdError::io("write", &path, &err))?;
    let study =
        honest_lap_study::read(STUDY).expect("the demo's own study is sound; a test reads it");
    let open = OpenStudy { folder, study };
    let mut logbook = Logbook::create_or_open(&open.folder.join(LOGBOOK_FILE))?;
    for session in pale_harbour::sessions() {
        record(&open, &mut logbook, &session)?;
    }
    remark(&mut logbook)?;
    drop(logbook);
    let dir = args.dir.display();
    ctx.ui.say(Role::Heading, &format!("{dir}: recorded laps of four made-up rigs"));
    if !args.recorded_only {
        ctx.ui.say(Role::Plain, "and laps on this machine, as rig `here`: about a minute");
        let laps = super::run::RunArgs::as_rig("here", &RUN_HERE, LAPS_HERE);
        // Who ends the first with Ctrl-C does not want another.
        if super::run::run_in(&laps, &open, false, ctx)? == Exit::Done {
            night(&open, ctx)?;
        }
    }
    ctx.ui.say(Role::Plain, "");
    ctx.ui.print(&super::compare::everything(&open, ctx)?, crate::args::FormatArg::Text)?;
    ctx.ui.say(Role::Plain, "");
    let page = super::report::ReportArgs::to(args.dir.join("report.html"));
    super::report::write(&page, &open, ctx)?;
    let next = "lap compare dome-still --with threads=1   one table\n\
                lap doubts                                what may mislead, and what would resolve it\n\
                lap claim                                 which published sentences the laps support";
    ctx.ui.say(Role::Heading, &format!("To try next: cd {dir}"));
    next.lines().for_each(|line| ctx.ui.say(Role::Plain, &format!("  {line}")));
    Ok(Exit::Done)
}

/// Runs a night of two hours in eight seconds: this machine, with simulated sensors.
fn night(open: &OpenStudy, ctx: &Ctx) -> Result<(), CmdError> {
    let line = "and two simulated hours in eight seconds";
    ctx.ui.say(Role::Plain, line);
    let root = open.folder.join(".lap/night");
    let failed = |err: std::io::Error| CmdError::io("write", &root, &err);
    let _night = Night::begin(&root).map_err(failed)?;
    let laps = super::run::RunArgs::as_rig("here", &["night-shift"], 1)
        .on(root.clone(), "sensors and clock simulated, fifteen minutes a second");
    super::run::run_in(&laps, open, false, ctx)?;
    Ok(())
}

fn record(
    open: &OpenStudy,
    logbook: &mut Logbook,
    session: &RecordedSession,
) -> Result<(), CmdError> {
    let versions = versions(session.rig).map(|(workload, label, line)| VersionLine {
        workload: workload.to_owned(),
        label: label.to_owned(),
        line: Some(line.to_owned()),
    });
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
fn remark(logbook: &mut Logbook) -> Result<(), CmdError> {
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
