//! Clean sessions of eight laps, by the noise models of the design: no doubt more often than it says.
//!
//! Runs in under a second.

use honest_lap_core::finding::{Doubt, Evidence, raised};
use honest_lap_core::judge::Assumptions;
use honest_lap_core::lab::LapFacts;
use honest_lap_core::record::{LapHead, LapName, SessionName, Settings, Study};
use honest_lap_core::stat::SplitMix;
use honest_lap_core::unit::Nanos;
use std::collections::{BTreeMap, BTreeSet, HashMap};

const SESSIONS: u32 = 2_000;
const LAPS: u32 = 8;

#[test]
fn clean_sessions_of_eight_laps_raise_no_doubt_more_often_than_it_says() {
    let (study, assume) = (Study::default(), Assumptions::default());
    for (seed, cv) in [(1, 0.005), (2, 0.02), (3, 0.05)] {
        let mut noise = SplitMix::new(seed);
        let mut accused: BTreeMap<&str, u32> = BTreeMap::new();
        for number in 1..=SESSIONS {
            let session = SessionName { rig: "heron".into(), number };
            let lap = |lap: u32, noise: &mut SplitMix| {
                let name = LapName { session: session.clone(), number: lap };
                let seconds = 60.0 * (noise.normal() * cv).exp();
                let wall = Nanos((seconds * 1e9) as u64);
                LapHead { round: lap, ..LapHead::done(name, "still", Settings::default(), wall) }
            };
            let laps: Vec<LapHead> = (1..=LAPS).map(|n| lap(n, &mut noise)).collect();
            let facts: HashMap<LapName, Box<LapFacts>> =
                laps.iter().map(|lap| (lap.name.clone(), Box::default())).collect();
            let untimed = BTreeSet::new();
            let laps: Vec<&LapHead> = laps.iter().collect();
            let (laps, facts, untimed) = (&laps, &facts, &untimed);
            let (study, assume) = (&study, &assume);
            let evidence = Evidence {
                laps,
                facts,
                versions: &[],
                views: &[],
                untimed,
                sessions: &[],
                study,
                assume,
                searches: &[],
            };
            for found in raised(&evidence) {
                *accused.entry(test(&found.doubt)).or_default() += 1;
            }
        }
        for (doubt, times) in accused {
            let rate = f64::from(times) / f64::from(SESSIONS);
            // Three standard deviations of a rate of 5 % drawn 2,000 times are 1.5 %.
            assert!(rate <= 0.05 + 0.015, "{doubt} at CV {cv}: {rate}");
        }
    }
}

/// Returns the name of the test that raised a doubt; a fact is never raised on clean laps.
fn test(doubt: &Doubt) -> &'static str {
    match doubt {
        Doubt::FirstLap { .. } => "first lap",
        Doubt::OddLap { .. } => "odd lap",
        Doubt::NotSteady { .. } => "not steady",
        other => panic!("{other:?} states a fact, or needs other laps"),
    }
}
