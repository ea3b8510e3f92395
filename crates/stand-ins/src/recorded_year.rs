//! A made-up year: what twelve rigs of Pale Harbour are said to have recorded, a session a month each.
//!
//! Nothing here was measured. It is drawn from stated distributions by a fixed seed: three rigs that tie, a laptop that
//! differs from day to day, one that came in July, and one that its dust makes slower from August on.

use crate::pale_harbour::{RecordedSession, Version, found};
use crate::recorded_lap::RecordedLap;
use honest_lap_core::record::Settings;
use honest_lap_core::stat::SplitMix;
use honest_lap_core::unit::Nanos;

/// A made-up rig.
struct Rig {
    name: &'static str,
    processor: &'static str,
    cores: u32,
    memory_gib: u64,
    /// Its speed, beside heron's.
    speed: f64,
    /// Spread of laps within a session and between sessions, as standard deviations of logs.
    noise: (f64, f64),
    /// The month it came in.
    since: u32,
    /// By how much it is slower in a month.
    ageing: fn(u32) -> f64,
}

const fn rig(
    name: &'static str,
    processor: &'static str,
    (cores, memory_gib): (u32, u64),
    speed: f64,
) -> Rig {
    Rig {
        name,
        processor,
        cores,
        memory_gib,
        speed,
        noise: (0.006, 0.006),
        since: 1,
        ageing: |_| 0.0,
    }
}

const RIGS: [Rig; 12] = [
    rig("avocet", "Harbour H8 mini", (8, 16), 0.82),
    rig("curlew", "Harbour H16 desktop", (16, 64), 1.24),
    Rig { noise: (0.02, 0.015), ..rig("dunlin", "Saltmarsh L6 laptop", (6, 16), 0.58) },
    rig("egret", "Harbour H24 workstation", (24, 128), 1.18),
    rig("gannet", "Harbour H12 desktop", (12, 32), 0.999),
    rig("heron", "Harbour H12 desktop", (12, 32), 1.0),
    rig("kestrel", "Harbour H16 desktop", (16, 64), 1.25),
    Rig { since: 7, ..rig("osprey", "Harbour H16 Mk II desktop", (16, 64), 1.41) },
    rig("petrel", "Harbour H8 desktop", (8, 32), 0.88),
    rig("plover", "Harbour H12 mini", (12, 32), 0.995),
    Rig {
        ageing: |month| 0.012 * f64::from(month.saturating_sub(7)),
        ..rig("teal", "Harbour H12 desktop", (12, 32), 1.0)
    },
    Rig { noise: (0.03, 0.03), ..rig("wren", "Saltmarsh L8 laptop", (8, 16), 0.66) },
];

/// Seconds that each variant takes on heron.
const TYPICAL: [(&str, Option<u32>, f64); 5] = [
    ("dome-still", Some(1), 1.240),
    ("dome-still", Some(2), 0.652),
    ("catalogue-build", None, 0.520),
    ("orbit-solve", Some(1), 0.301),
    ("orbit-solve", Some(2), 0.153),
];
/// The programs, on every rig and all year the same.
const VERSIONS: [Version; 3] = [
    ("dome-still", "renderer", "dome-still 1.4.2"),
    ("catalogue-build", "builder", "catalogue-build 3.0.1"),
    ("orbit-solve", "solver", "orbit-solve 1.1.0"),
];
const MONTHS: u32 = 12;
const COUNTED: u32 = 5;
const SEED: u64 = 12;

/// Returns what the year is said to have recorded, the same every time.
pub fn sessions() -> Vec<RecordedSession> {
    let mut noise = SplitMix::new(SEED);
    let mut all = Vec::new();
    for month in 1..=MONTHS {
        for (day, rig) in (2..).zip(&RIGS) {
            if month >= rig.since {
                all.push(session(rig, (month, day), &mut noise));
            }
        }
    }
    all
}

fn session(rig: &Rig, (month, day): (u32, u32), noise: &mut SplitMix) -> RecordedSession {
    let mut laps = Vec::new();
    for (workload, threads, typical) in TYPICAL {
        let luck = (noise.normal() * rig.noise.1 + (rig.ageing)(month)).exp() / rig.speed;
        let settings = threads.map(|threads| ("threads".to_owned(), threads.to_string()));
        for round in 0..=COUNTED {
            // The first lap of a session finds nothing in the caches.
            let cold = if round == 0 { 1.06 } else { 1.0 };
            let seconds = typical * luck * cold * (noise.normal() * rig.noise.0).exp();
            let settings = Settings::new(settings.clone().into_iter().collect());
            let wall = Nanos((seconds * 1e9) as u64);
            laps.push(RecordedLap {
                round: round.max(1),
                warm_up: round == 0,
                threads: threads.unwrap_or(1),
                ..RecordedLap::done(workload, settings, wall)
            });
        }
    }
    RecordedSession {
        rig: rig.name,
        started: format!("2025-{month:02}-{day:02}T09:10:00Z"),
        found: found(rig.name, rig.processor, (rig.cores, rig.memory_gib)),
        versions: VERSIONS.into(),
        laps,
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_year_is_the_same_every_time_and_one_rig_came_in_july() {
        let all = sessions();
        assert_eq!(format!("{all:?}"), format!("{:?}", sessions()));
        assert_eq!(all.len(), 11 * 12 + 6);
        assert!(all.iter().all(|session| session.laps.len() == 30));
        let first = all.iter().find(|session| session.rig == "osprey").unwrap();
        assert_eq!(first.started, "2025-07-09T09:10:00Z");
        let sum =
            |session: &RecordedSession| session.laps.iter().map(|lap| lap.wall.0).sum::<u64>();
        let of = |month: &str| {
            let teal = |session: &&RecordedSession| {
                session.rig == "teal" && session.started.starts_with(month)
            };
            sum(all.iter().find(teal).unwrap()) as f64
        };
        let slower = of("2025-12") / of("2025-06");
        assert!((1.03..1.10).contains(&slower), "{slower}");
    }
}
