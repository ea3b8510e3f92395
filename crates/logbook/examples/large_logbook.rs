//! Writes a study with a large logbook, to measure reading it: 100,000 laps (10 rigs, 20 workloads), 1,000 variants
//! of one workload on 6 rigs, or 2,000 passes of 3,600 frames.
//!
//! ```text
//! cargo run --release -p honest-lap-logbook --example large_logbook -- FOLDER [variants|passes]
//! ```

use honest_lap_core::record::{
    Against, Cut, Digest, LapBody, Launch, Outcome, Pass, PassAbout, RecordedPass, RigFound,
    SessionAbout, Settings, Task, Template, Usage,
};
use honest_lap_core::stat::SplitMix;
use honest_lap_core::unit::Nanos;
use honest_lap_logbook::{Logbook, NewLap, NewSession};
use std::error::Error;
use std::fmt::Write;
use std::path::PathBuf;

/// How large it is.
#[derive(Clone, Copy)]
struct Size {
    rigs: u32,
    sessions: u32,
    workloads: u32,
    variants: u32,
    laps: u32,
    /// Frames that each lap has.
    frames: u64,
}

const LAPS: Size = Size { rigs: 10, sessions: 5, workloads: 20, variants: 1, laps: 100, frames: 0 };
const VARIANTS: Size =
    Size { rigs: 6, sessions: 1, workloads: 1, variants: 1_000, laps: 3, frames: 0 };
const PASSES: Size =
    Size { rigs: 4, sessions: 5, workloads: 1, variants: 1, laps: 100, frames: 3_600 };

fn main() -> Result<(), Box<dyn Error>> {
    let folder = PathBuf::from(std::env::args_os().nth(1).ok_or("name a folder")?);
    let size = match std::env::args().nth(2).as_deref() {
        None => LAPS,
        Some("variants") => VARIANTS,
        Some("passes") => PASSES,
        Some(other) => {
            return Err(format!("`{other}` is no size: variants, passes, or nothing").into());
        }
    };
    std::fs::create_dir_all(&folder)?;
    let mut study = String::from("[study]\ntitle = \"A large logbook\"\nbaseline = \"rig0\"\n");
    for workload in 0..size.workloads {
        let command =
            if size.variants > 1 { "\"w\", \"{n}\"" } else { &format!("\"w{workload}\"") };
        writeln!(study, "[workload.w{workload}]\nkind = \"task\"\ncommand = [{command}]")?;
        if size.variants > 1 {
            let values: Vec<String> = (0..size.variants).map(|n| n.to_string()).collect();
            writeln!(study, "vary = {{ n = [{}] }}", values.join(", "))?;
        }
    }
    std::fs::write(folder.join("study.toml"), study)?;
    let mut logbook = Logbook::create_or_open(&folder.join("logbook.db"))?;
    let mut noise = SplitMix::new(1);
    for rig in 0..size.rigs {
        for session in 0..size.sessions {
            write_session(&mut logbook, size, rig, session, &mut noise)?;
        }
    }
    Ok(())
}

fn write_session(
    logbook: &mut Logbook,
    size: Size,
    rig: u32,
    session: u32,
    noise: &mut SplitMix,
) -> Result<(), Box<dyn Error>> {
    let found = RigFound { machine: Some(format!("m{rig}")), ..RigFound::default() };
    let variants: Vec<Settings> = match size.variants {
        1 => vec![Settings::default()],
        n => (0..n).map(|n| Settings::new(vec![("n".to_owned(), n.to_string())])).collect(),
    };
    let body = LapBody {
        started: "2026-03-01T10:00:00Z".to_owned(),
        command: vec!["w".to_owned()],
        folder: "/study".to_owned(),
        exit_code: Some(0),
        usage: Some(Usage::default()),
        pass: (size.frames > 0).then(|| Box::new(pass(size.frames, noise))),
        ..LapBody::default()
    };
    let tasks: Vec<(String, Task)> =
        (0..size.workloads).map(|at| (format!("w{at}"), task(size, at))).collect();
    let mut laps: Vec<NewLap<'_>> = Vec::new();
    for (workload, task) in &tasks {
        for round in 1..=size.laps {
            for settings in &variants {
                let spread = noise.below(20_000_000);
                laps.push(NewLap {
                    number: u32::try_from(laps.len())? + 1,
                    workload,
                    task,
                    settings,
                    round,
                    warm_up: false,
                    outcome: Outcome::Done,
                    wall: Some(Nanos(1_000_000_000 + u64::from(rig) * 20_000_000 + spread)),
                    parts: None,
                    step: None,
                    body: &body,
                });
            }
        }
    }
    let new = NewSession {
        rig: &format!("rig{rig}"),
        mark: &format!("{rig}-{session}"),
        started: &format!("2026-03-{:02}T10:00:00Z", session + 1),
        seed: 1,
        tool: "0.1.0",
        found: &found,
        versions: &[],
        about: &SessionAbout::default(),
    };
    logbook.record_session(&new, &laps)?;
    Ok(())
}

fn pass(frames: u64, noise: &mut SplitMix) -> RecordedPass {
    let shown = (0..frames).map(|_| 16_000_000 + noise.below(1_500_000)).collect();
    let pass = Pass { shown, ..Pass::default() };
    let digest = Digest::of(&pass, &Cut::default(), Against::default()).expect("enough frames");
    let (faults, marks, also) = Default::default();
    let (log, read_as) = ("made up".to_owned(), "durations".to_owned());
    let about = PassAbout { log, log_sha256: None, read_as, faults, marks, also, digest };
    RecordedPass { about, pass }
}

fn task(size: Size, workload: u32) -> Task {
    let words = match size.variants {
        1 => vec![format!("w{workload}")],
        _ => vec!["w".to_owned(), "{n}".to_owned()],
    };
    let words = words.iter().map(|word| Template::parse(word).expect("well-formed braces"));
    Task::of(Launch::Direct(words.collect()))
}
