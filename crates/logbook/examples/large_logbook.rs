//! Writes a study with a logbook of 100,000 laps (10 rigs, 20 workloads), to measure reading it.
//!
//! ```text
//! cargo run --release -p honest-lap-logbook --example large_logbook -- FOLDER
//! ```

use honest_lap_core::record::{
    LapBody, LapName, Launch, Outcome, RigFound, Settings, Task, Template, Usage,
};
use honest_lap_core::stat::SplitMix;
use honest_lap_core::unit::Nanos;
use honest_lap_logbook::{Logbook, NewLap, NewSession};
use std::error::Error;
use std::fmt::Write;
use std::path::PathBuf;

const RIGS: u32 = 10;
const WORKLOADS: u32 = 20;
const SESSIONS: u32 = 5;
const LAPS: u32 = 100;

fn main() -> Result<(), Box<dyn Error>> {
    let folder = PathBuf::from(std::env::args_os().nth(1).ok_or("name a folder")?);
    std::fs::create_dir_all(&folder)?;
    let mut study = String::from("[study]\ntitle = \"A large logbook\"\nbaseline = \"rig0\"\n");
    for workload in 0..WORKLOADS {
        writeln!(study, "[workload.w{workload}]\nkind = \"task\"\ncommand = [\"w{workload}\"]")?;
    }
    std::fs::write(folder.join("study.toml"), study)?;
    let mut logbook = Logbook::create_or_open(&folder.join("logbook.db"))?;
    let mut noise = SplitMix::new(1);
    for rig in 0..RIGS {
        for session in 0..SESSIONS {
            write_session(&mut logbook, rig, session, &mut noise)?;
        }
    }
    Ok(())
}

fn write_session(
    logbook: &mut Logbook,
    rig: u32,
    session: u32,
    noise: &mut SplitMix,
) -> Result<(), Box<dyn Error>> {
    let found = RigFound { machine: Some(format!("m{rig}")), ..RigFound::default() };
    let name = logbook.begin_session(&NewSession {
        rig: &format!("rig{rig}"),
        mark: &format!("{rig}-{session}"),
        started: &format!("2026-03-{:02}T10:00:00Z", session + 1),
        seed: 1,
        tool: "0.1.0",
        found: &found,
        versions: &[],
        about: &honest_lap_core::record::SessionAbout::default(),
    })?;
    let settings = Settings::default();
    let body = LapBody {
        started: "2026-03-01T10:00:00Z".to_owned(),
        command: vec!["w".to_owned()],
        folder: "/study".to_owned(),
        exit_code: Some(0),
        usage: Some(Usage::default()),
        ..LapBody::default()
    };
    let mut names = Vec::new();
    let mut walls = Vec::new();
    let mut tasks = Vec::new();
    for workload in 0..WORKLOADS {
        let task = logbook.enter_task(&format!("w{workload}"), &task(workload))?;
        for lap in 0..LAPS {
            let spread = noise.below(20_000_000);
            names.push(LapName { session: name.clone(), number: workload * LAPS + lap + 1 });
            walls.push(Nanos(1_000_000_000 + u64::from(rig) * 20_000_000 + spread));
            tasks.push((task, lap + 1));
        }
    }
    let laps: Vec<NewLap<'_>> = names
        .iter()
        .zip(&walls)
        .zip(&tasks)
        .map(|((name, wall), (task, round))| NewLap {
            name,
            task: *task,
            settings: &settings,
            round: *round,
            warm_up: false,
            outcome: Outcome::Done,
            wall: Some(*wall),
            parts: None,
            step: None,
            body: &body,
        })
        .collect();
    Ok(logbook.append_laps(&laps)?)
}

fn task(workload: u32) -> Task {
    let program = Template::parse(&format!("w{workload}")).expect("a name without braces");
    Task::of(Launch::Direct(vec![program]))
}
