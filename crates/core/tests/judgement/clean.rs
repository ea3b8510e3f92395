//! Clean labs, by the noise models of the design: all tests for what may mislead together seldom accuse one.
//!
//! Runs for about 3 s on one core of two; `LAP_LABS` draws more labs.

use honest_lap_core::analysis::{Question, analyse};
use honest_lap_core::finding::Doubt;
use honest_lap_core::lab::{Lab, Lap, Records};
use honest_lap_core::record::{
    LapHead, LapName, Launch, Origin, RigFound, SessionAbout, SessionName, SessionRecord, Settings,
    Study, Task, TaskForm, Template,
};
use honest_lap_core::stat::SplitMix;
use honest_lap_core::unit::Nanos;
use std::collections::{BTreeMap, HashMap};

const WORKLOADS: [&str; 3] = ["still", "reel", "build"];
const DAY: u64 = 86_400;

/// How laps and days differ, where nothing is wrong.
#[derive(Clone, Copy, Debug)]
struct Noise {
    /// Standard deviation of a lap's log.
    lap: f64,
    /// Standard deviation of a day's.
    day: f64,
    rigs: u32,
    sessions: u32,
    laps: u32,
}

/// Returns a lab with nothing wrong with it.
fn clean(noise: Noise, random: &mut SplitMix) -> Lab {
    let form = |(workload, id): (&str, u32)| TaskForm {
        id,
        workload: workload.to_owned(),
        last_driven: Some("2026-03-02T10:00:00Z".into()),
        task: Task::of(Launch::Direct(vec![Template::parse(workload).expect("a word")])),
    };
    let mut records =
        Records { tasks: WORKLOADS.into_iter().zip(1..).map(form).collect(), ..Records::default() };
    let mut all: Vec<LapHead> = Vec::new();
    for rig in 0..noise.rigs {
        let speed = (random.normal() * 0.3).exp();
        for number in 1..=noise.sessions {
            let name = SessionName { rig: format!("rig{rig}"), number };
            let (found, about) = (
                RigFound::default(),
                SessionAbout { origin: Origin::Run, ..SessionAbout::default() },
            );
            let record = SessionRecord {
                name: name.clone(),
                started: String::new(),
                seed: 1,
                tool: String::new(),
                found,
                versions: Vec::new(),
                about,
            };
            let age = Nanos::from_seconds(u64::from(20 - number) * DAY);
            records.sessions.push((record, Some(age)));
            let day = random.normal() * noise.day;
            let mut lap = 0;
            for (workload, task) in WORKLOADS.into_iter().zip(1..) {
                for round in 1..=noise.laps {
                    lap += 1;
                    let seconds = 60.0 * speed * (day + random.normal() * noise.lap).exp();
                    let name = LapName { session: name.clone(), number: lap };
                    let wall = Nanos((seconds * 1e9) as u64);
                    let head = LapHead::done(name, workload, Settings::default(), wall);
                    all.push(LapHead { round, task, ..head });
                }
            }
        }
    }
    records.laps = all.into();
    Lab::of(Study { margin: 0.02, ..Study::default() }, records)
}

/// Returns the name of the test that accuses; a fact is never found in a clean lab.
fn test(doubt: &Doubt) -> Option<&'static str> {
    match doubt {
        Doubt::FirstLap { .. } => Some("first lap"),
        Doubt::OddLap { .. } => Some("odd lap"),
        Doubt::TwoGroups { .. } => Some("two groups"),
        Doubt::NotSteady { .. } => Some("not steady"),
        Doubt::SessionsDisagree { .. } => Some("sessions disagree"),
        Doubt::UpsideDown { .. } => Some("upside down"),
        // That rigs which were drawn alike are alike, or that one workload decides, is so.
        Doubt::NothingToChoose { .. } | Doubt::OddOneOut { .. } => None,
        other => panic!("{other:?} states a fact"),
    }
}

#[test]
fn all_tests_together_accuse_at_most_one_clean_lab_in_ten() {
    let labs: u32 = std::env::var("LAP_LABS").ok().and_then(|n| n.parse().ok()).unwrap_or(200);
    let noise = |lap, day, rigs, sessions| Noise { lap, day, rigs, sessions, laps: 6 };
    let mut random = SplitMix::new(20_261_128);
    for noise in [
        noise(0.005, 0.015, 12, 1),
        noise(0.02, 0.015, 12, 1),
        Noise { laps: 12, ..noise(0.02, 0.015, 12, 1) },
        noise(0.05, 0.0, 12, 1),
        noise(0.02, 0.015, 4, 3),
        noise(0.005, 0.005, 4, 3),
    ] {
        let mut accused = 0;
        let mut by_test: BTreeMap<&str, u32> = BTreeMap::new();
        for _ in 0..labs {
            let lab = clean(noise, &mut random);
            let analysis = analyse(&lab, &Question::default()).expect("it has laps");
            let names: Vec<&str> =
                analysis.findings.iter().filter_map(|found| test(&found.doubt)).collect();
            accused += u32::from(!names.is_empty());
            names.into_iter().for_each(|name| *by_test.entry(name).or_default() += 1);
        }
        let rate = f64::from(accused) / f64::from(labs);
        println!("{noise:?}: {:.1} % of labs accused; accusations: {by_test:?}", 100.0 * rate);
        let two_errors = 2.0 * (0.1 * 0.9 / f64::from(labs)).sqrt();
        assert!(rate <= 0.10 + two_errors, "{noise:?}: {rate}");
    }
}

#[test]
fn a_lap_far_off_a_warm_up_that_was_left_out_and_a_drift_are_still_found() {
    let noise = Noise { lap: 0.01, day: 0.01, rigs: 6, sessions: 2, laps: 6 };
    let mut random = SplitMix::new(7);
    let mut found: HashMap<&str, u32> = HashMap::new();
    const LABS: u32 = 100;
    for _ in 0..LABS {
        let lab = clean(noise, &mut random);
        let mut laps: Vec<LapHead> = lab.recorded.in_order().iter().map(Lap::head).collect();
        let slower = |lap: &mut LapHead, times: f64| {
            lap.wall = lap.wall.map(|wall| Nanos((wall.0 as f64 * times) as u64));
        };
        // One of each in the first session of the first rigs: 10 % off, 10 % first, 10 % in all.
        slower(&mut laps[3], 1.10);
        slower(&mut laps[36], 1.10);
        (0..6).for_each(|n| slower(&mut laps[72 + n], 1.0 + 0.02 * n as f64));
        let laps = laps.into();
        let records = Records { tasks: lab.tasks.clone(), laps, sessions: Vec::new() };
        let lab = Lab::of(lab.study.clone(), records);
        let analysis = analyse(&lab, &Question::default()).expect("it has laps");
        for name in analysis.findings.iter().filter_map(|found| test(&found.doubt)) {
            *found.entry(name).or_default() += 1;
        }
    }
    println!("{found:?} of {LABS}");
    for name in ["first lap", "odd lap", "not steady"] {
        assert!(found.get(name).is_some_and(|times| *times >= LABS * 8 / 10), "{name}: {found:?}");
    }
}
