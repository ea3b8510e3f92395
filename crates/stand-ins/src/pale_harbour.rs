//! The made-up lab: what four rigs of Pale Harbour are said to have recorded.
//!
//! Nothing here was measured. It is drawn from stated distributions by a fixed seed, with honest
//! trouble in it: two rigs that tie, a noisy laptop with a single session, an older renderer and a
//! clock that falls in the heat, a lap set aside, and laps that failed.

use crate::machine::{State, Trouble, state_at};
pub use crate::recorded_lap::RecordedLap;
use crate::recorded_nights::worked_night;
use crate::recorded_passes::{RecordedFlight, flights};
use honest_lap_core::capacity::{Search, SearchLap, next_load};
use honest_lap_core::record::{LoadOutcome, Outcome, Quantity, RigFound, Settings, Trace, Traces};
use honest_lap_core::stat::SplitMix;
use honest_lap_core::unit::Nanos;

/// One made-up session.
#[derive(Clone, Debug)]
pub struct RecordedSession {
    /// The rig.
    pub rig: &'static str,
    /// When it is said to have begun, RFC 3339.
    pub started: String,
    /// The machine.
    pub found: RigFound,
    /// Workload, program and version line of its programs.
    pub versions: Vec<Version>,
    /// Its laps, in the order run.
    pub laps: Vec<RecordedLap>,
}

/// Workload, program and version line of a program.
pub type Version = (&'static str, &'static str, &'static str);

/// Returns the versions of the programs on `rig`: the laptop's renderer is older than the others'.
fn versions(rig: &str) -> [Version; 6] {
    let renderer = if rig == "wren" { "dome-still 1.3.9" } else { "dome-still 1.4.2" };
    [
        ("dome-still", "renderer", renderer),
        ("catalogue-build", "builder", "catalogue-build 3.0.1"),
        ("fly-through", "player", "fly-through 2.0.0"),
        ("orbit-solve", "solver", "orbit-solve 1.1.0"),
        ("sky-layers", "player", "sky-layers 0.9.0"),
        ("night-shift", "renderer", "night-shift 1.4.2"),
    ]
}

/// A made-up rig.
struct Rig {
    name: &'static str,
    processor: &'static str,
    cores: u32,
    memory_gib: u64,
    sessions: u32,
    /// Spread of laps within a session, as a standard deviation of logs.
    noise: f64,
    /// Seconds of dome-still with one thread and two, and of catalogue-build.
    typical: [f64; 3],
    /// Seconds of orbit-solve, which keeps to one thread: there they tie.
    orbits: f64,
    /// Layers of sky-layers at which half of the laps hold, and over how many it goes soft.
    layers: (f64, f64),
    /// Seconds of a still of night-shift while it is cool, and by how much the clock falls once it is not.
    night: (f64, f64),
}

const RIGS: [Rig; 4] = [
    Rig {
        name: "heron",
        processor: "Harbour H12 desktop",
        cores: 12,
        memory_gib: 32,
        sessions: 3,
        noise: 0.006,
        typical: [1.240, 0.652, 0.520],
        orbits: 0.3012,
        layers: (212.4, 2.0),
        night: (0.0880, 0.0),
    },
    Rig {
        name: "kestrel",
        processor: "Harbour H16 desktop",
        cores: 16,
        memory_gib: 64,
        sessions: 3,
        noise: 0.005,
        typical: [0.985, 0.511, 0.431],
        orbits: 0.2995,
        layers: (268.7, 2.0),
        night: (0.0795, 0.05),
    },
    Rig {
        name: "plover",
        processor: "Harbour H12 mini",
        cores: 12,
        memory_gib: 32,
        sessions: 3,
        noise: 0.007,
        typical: [1.243, 0.655, 0.561],
        orbits: 0.3006,
        layers: (209.8, 3.0),
        night: (0.0884, 0.11),
    },
    Rig {
        name: "wren",
        processor: "Saltmarsh L8 laptop",
        cores: 8,
        memory_gib: 16,
        sessions: 1,
        noise: 0.050,
        typical: [1.870, 1.120, 0.548],
        orbits: 0.3003,
        layers: (121.5, 0.1),
        night: (0.1030, 0.27),
    },
];

/// Spread between sessions, as a standard deviation of logs.
const SESSION_NOISE: f64 = 0.006;
const COUNTED: u32 = 6;
const SEED: u64 = 8;

/// Returns what the lab is said to have recorded, the same every time.
pub fn sessions() -> Vec<RecordedSession> {
    let mut noise = SplitMix::new(SEED);
    let mut all = Vec::new();
    for (index, rig) in RIGS.iter().enumerate() {
        for number in 1..=rig.sessions {
            all.push(session(rig, index as u32, number, &mut noise));
        }
    }
    all
}

fn session(rig: &Rig, index: u32, number: u32, noise: &mut SplitMix) -> RecordedSession {
    let mut laps = Vec::new();
    for (workload, variants) in [
        (
            "dome-still",
            vec![(on_threads(1), 1, rig.typical[0]), (on_threads(2), 2, rig.typical[1])],
        ),
        ("catalogue-build", vec![(Settings::default(), 1, rig.typical[2])]),
    ] {
        let luck = (noise.normal() * SESSION_NOISE).exp();
        for round in 0..=COUNTED {
            let mut order = variants.clone();
            if round > 0 && round % 2 == 0 {
                order.reverse();
            }
            for (settings, threads, typical) in order {
                // The first lap of a session finds nothing in the caches.
                let cold = if round == 0 { 1.06 } else { 1.0 };
                let seconds = typical * luck * cold * (noise.normal() * rig.noise).exp();
                laps.push(timed(workload, settings, round, (rig, threads, seconds)));
            }
        }
    }
    laps.extend(orbits(rig, number));
    trouble(rig.name, number, &mut laps);
    if number == 1 {
        laps.extend(passes(rig));
    }
    laps.extend(layers(rig, number));
    let luck = SEED + 509 * u64::from(number) + letters(rig);
    laps.push(worked_night(rig.night, SESSION_NOISE, luck));
    RecordedSession {
        rig: rig.name,
        started: format!("2026-03-{:02}T{:02}:10:00Z", 2 + number * 3 + index, 8 + index),
        found: found(rig.name, rig.processor, (rig.cores, rig.memory_gib)),
        versions: versions(rig.name).into(),
        laps,
    }
}

/// Returns a made-up machine as it would have been found.
pub(crate) fn found(rig: &str, processor: &str, (cores, memory_gib): (u32, u64)) -> RigFound {
    RigFound {
        machine: Some(format!("made-up-{rig}")),
        processor: Some(processor.to_owned()),
        cores: Some(cores),
        threads: Some(cores * 2),
        memory_bytes: Some(memory_gib << 30),
        system: Some("Harbour OS 3 (made up)".to_owned()),
        kernel: Some("Linux 6.0-harbour".to_owned()),
        governor: Some("performance".to_owned()),
    }
}

/// Returns a lap of so many seconds on so many threads of `rig`; those of round 0 only warm up.
fn timed(
    workload: &'static str,
    settings: Settings,
    round: u32,
    (rig, threads, seconds): (&Rig, u32, f64),
) -> RecordedLap {
    RecordedLap {
        round: round.max(1),
        warm_up: round == 0,
        threads,
        traces: traces(rig.name, seconds, threads, rig.cores),
        ..RecordedLap::done(workload, settings, Nanos((seconds * 1e9) as u64))
    }
}

/// Returns the laps of the solver, from a seed of their own: steady, and on every rig about the same.
fn orbits(rig: &Rig, session: u32) -> Vec<RecordedLap> {
    let mut noise = SplitMix::new(SEED + 101 * u64::from(session) + rig.name.len() as u64);
    let luck = (noise.normal() * 0.002).exp();
    let mut laps = Vec::new();
    for round in 0..=COUNTED {
        let order = if round > 0 && round % 2 == 0 { [2, 1] } else { [1, 2] };
        for threads in order {
            let typical = if threads == 1 { rig.orbits } else { rig.orbits * 0.507 };
            let seconds = typical * luck * (noise.normal() * 0.003).exp();
            laps.push(timed("orbit-solve", on_threads(threads), round, (rig, threads, seconds)));
        }
    }
    laps
}

/// Returns the settings of a variant on so many threads.
fn on_threads(threads: u32) -> Settings {
    Settings::new(vec![("threads".into(), threads.to_string())])
}

/// Returns the passes of the fly-through on `rig`.
fn passes(rig: &Rig) -> Vec<RecordedLap> {
    let lap = |(round, flight): (u32, RecordedFlight)| {
        let time: u64 = flight.pass.shown.iter().sum();
        let wall = Nanos(time + 400_000_000);
        let lap = RecordedLap::done("fly-through", Settings::default(), wall);
        RecordedLap { round, flight: Some(flight), ..lap }
    };
    (1..).zip(flights(rig.name)).map(lap).collect()
}

/// Returns the search for the most layers that `rig` plays, as the tool would have run it.
fn layers(rig: &Rig, session: u32) -> Vec<RecordedLap> {
    let mut noise = SplitMix::new(SEED + 307 * u64::from(session) + letters(rig));
    let (edge, softness) = rig.layers;
    // A day moves the edge by about as much as it moves a time.
    let edge = edge * (noise.normal() * SESSION_NOISE).exp();
    let search = Search { steps: LAYERS as usize, start: None, most: 36 };
    let mut tried: Vec<SearchLap> = Vec::new();
    while let Some(at) = next_load(&search, &tried) {
        let layers = at as f64 + 1.0;
        let held = noise.unit() < 1.0 / (1.0 + ((layers - edge) / softness).exp());
        let came = match held {
            true => LoadOutcome::Held,
            // Past its edge a player first drops frames, and then gives up.
            false if layers < 1.6 * edge => LoadOutcome::Strained,
            false => LoadOutcome::Broke,
        };
        tried.push(SearchLap { at, came });
    }
    let lap = |tried: SearchLap| {
        let broke = tried.came == LoadOutcome::Broke;
        let wall = Nanos(if broke { 24_600_000 } else { 97_200_000 });
        RecordedLap {
            outcome: if broke { Outcome::ExitCode } else { Outcome::Done },
            reason: broke.then(|| "exit code 3, and 0 is wanted".to_owned()),
            load: Some(tried),
            ..RecordedLap::done("sky-layers", Settings::default(), wall)
        }
    };
    tried.into_iter().map(lap).collect()
}

/// Returns a number of a rig's own.
fn letters(rig: &Rig) -> u64 {
    rig.name.bytes().map(u64::from).sum()
}

/// The most layers that sky-layers is asked for; the demo's study says the same.
const LAYERS: u32 = 600;

/// When the lab's people said what they said, RFC 3339.
pub const REMARKED: &str = "2026-03-14T17:00:00Z";

/// Returns the made-up lap that the lab set aside, and why.
pub fn set_aside() -> (&'static str, &'static str) {
    ("plover-2.9", "somebody leaned on the space bar")
}

/// Returns what the lab's people said: of a session, and of how a workload felt.
pub fn remarks() -> [(&'static str, &'static str, bool); 2] {
    [
        ("wren-1", "the laptop sat on a blanket", false),
        ("dome-still", "wren's fan drowned the lecture", true),
    ]
}

/// Returns samples of a lap of `seconds`: the laptop runs hot and its clock falls, the others do not.
fn traces(rig: &str, seconds: f64, threads: u32, cores: u32) -> Traces {
    const BETWEEN: f64 = 0.25;
    let trouble = if rig == "wren" { Trouble::Throttle } else { Trouble::None };
    let moments: Vec<f64> = (0..)
        .map(|n| f64::from(n) * BETWEEN)
        .take_while(|at| *at < seconds)
        .chain([seconds])
        .collect();
    let channel = |quantity, which: &str, of: &dyn Fn(&State) -> f64| Trace {
        quantity,
        which: which.to_owned(),
        unit: String::new(),
        values: moments
            .iter()
            .map(|&at| Some((of(&state_at(trouble, at)) * 10.0).round() / 10.0))
            .collect(),
    };
    let used = |core: u32| {
        let share = if core < threads { 0.98 } else { 0.01 };
        let values = moments.iter().map(|&at| (at > 0.0).then_some(share)).collect();
        let (which, unit) = (core.to_string(), String::new());
        Trace { quantity: Quantity::CoreUse, which, unit, values }
    };
    let mut channels: Vec<Trace> = (0..cores).map(used).collect();
    channels.push(channel(Quantity::CoreClock, "0", &|state| state.clock_mhz));
    channels.push(channel(Quantity::Temperature, "package", &|state| state.temperature_c));
    channels.push(channel(Quantity::Fan, "fan1", &|state| state.fan_rpm));
    channels.push(channel(Quantity::Power, "package", &|state| state.power_w));
    Traces { at_ms: moments.iter().map(|at| (at * 1e3) as u64).collect(), channels }
}

/// Makes the laps fail that failed.
fn trouble(rig: &str, session: u32, laps: &mut [RecordedLap]) {
    let (at, outcome, reason) = match (rig, session) {
        ("kestrel", 2) => (5, Outcome::ExitCode, "exit code 1, and 0 is wanted"),
        ("wren", 1) => (11, Outcome::Signal, "ended by signal KILL"),
        _ => return,
    };
    let lap = &mut laps[at];
    lap.outcome = outcome;
    lap.reason = Some(reason.to_owned());
    lap.wall = Nanos(lap.wall.0 / 3);
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_lab_is_the_same_every_time_and_has_its_trouble() {
        let all = sessions();
        assert_eq!(all.len(), 10);
        assert_eq!(format!("{all:?}"), format!("{:?}", sessions()));
        // A load that broke is what a search is for.
        let (searched, others): (Vec<&RecordedLap>, Vec<&RecordedLap>) =
            all.iter().flat_map(|s| &s.laps).partition(|lap| lap.load.is_some());
        assert_eq!(others.iter().filter(|lap| lap.outcome != Outcome::Done).count(), 2);
        assert!(searched.len() > 200, "{}", searched.len());
        let session = &all[0];
        let plain = session.laps.iter().filter(|lap| lap.load.is_none());
        assert_eq!(plain.count(), 39, "35 laps, three passes and a night");
        let order: Vec<Option<&str>> =
            session.laps[..8].iter().map(|lap| lap.settings.get("threads")).collect();
        assert_eq!(order, ["1", "2", "1", "2", "2", "1", "1", "2"].map(Some));
    }
}
