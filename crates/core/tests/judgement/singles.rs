//! Ladders of single results: twelve rigs, of which three have laps enough to show how far laps differ.
//!
//! What laps and days differ by is not handed to the code. 'False' is any two ordered, or a winner named, against the truth or
//! where there is none to name. At most 5 % is promised.

use crate::truth::{errs, labs, promised, rig, share};
use honest_lap_core::judge::{Against, Ask, Group, Verdict, compare};
use honest_lap_core::record::{LapHead, LapName, Settings};
use honest_lap_core::stat::SplitMix;
use honest_lap_core::unit::Nanos;
use std::collections::BTreeMap;

const RIGS: usize = 12;

/// A kind of lab in which most rigs were measured once.
#[derive(Clone, Copy, Debug)]
struct Ladder {
    /// Laps of each of the first three rigs, and of each of the others.
    laps: (u32, u32),
    /// Standard deviation of a lap's log; drawn for each lab between 0.5 and 5 % where there is none.
    cv: Option<f64>,
    /// By which factor it differs from rig to rig: e to this standard deviation.
    unlike: f64,
    /// The standard deviation between days; drawn for each rig from 0.3 to 3 % where there is none.
    days: Option<f64>,
    /// How much slower each rig is than the one before it.
    step: f64,
}

const PLAIN: Ladder = Ladder { laps: (5, 1), cv: None, unlike: 0.0, days: Some(0.015), step: 0.0 };

impl Ladder {
    fn draw(&self, random: &mut SplitMix) -> Vec<LapHead> {
        let log_uniform =
            |low: f64, high: f64, random: &mut SplitMix| low * (high / low).powf(random.unit());
        let of_lab = self.cv.unwrap_or_else(|| log_uniform(0.005, 0.05, random));
        let mut all = Vec::new();
        for at in 0..RIGS {
            let cv = of_lab * (self.unlike * random.normal()).exp();
            let tau = self.days.unwrap_or_else(|| log_uniform(0.003, 0.03, random));
            let day = tau * random.normal();
            let laps = if at < 3 { self.laps.0 } else { self.laps.1 };
            for number in 1..=laps {
                let log = self.step * self.rung(at) + day + cv * random.normal();
                let name = LapName::parse(&format!("{}-1.{number}", rig(at))).expect("a name");
                let wall = Nanos((60e9 * log.exp()) as u64);
                let head = LapHead::done(name, "still", Settings::new(Vec::new()), wall);
                all.push(LapHead { round: number, ..head });
            }
        }
        all
    }

    /// Returns how many steps a rig is from the top: those with laps enough stand among the others.
    fn rung(&self, at: usize) -> f64 {
        ((at * 5) % RIGS) as f64
    }

    /// Returns whether anything that `group` says of who is ahead is not so.
    fn is_false(&self, group: &Group) -> bool {
        if self.step == 0.0 {
            return errs(group);
        }
        let rung_of: BTreeMap<String, f64> = (0..RIGS).map(|at| (rig(at), self.rung(at))).collect();
        let rung = |name: &str| rung_of[name];
        let better = |name: &str| rung_of.values().filter(|of| **of < rung(name)).count();
        group.rows.iter().any(|row| {
            let place = better(&row.rig) + 1;
            let misplaced = row.places.is_some_and(|p| place < p.best || place > p.worst);
            let misjudged = match &row.against {
                Against::Other(said) => match said.verdict {
                    Verdict::Faster | Verdict::FasterWithin(_) => rung(&row.rig) > rung(&rig(0)),
                    Verdict::Slower | Verdict::SlowerWithin(_) => rung(&row.rig) < rung(&rig(0)),
                    _ => false,
                },
                _ => false,
            };
            misplaced || misjudged
        })
    }
}

fn ask() -> Ask {
    Ask { margin: 0.02, rig_order: vec![rig(0)], ..Ask::default() }
}

#[test]
fn a_ladder_of_single_results_is_falsely_ordered_in_five_labs_of_a_hundred_at_most() {
    let mut kinds = Vec::new();
    for days in [Some(0.0), Some(0.005), Some(0.015), None] {
        for unlike in [0.0, 0.3] {
            for step in [0.0, 0.02] {
                kinds.push(Ladder { days, unlike, step, ..PLAIN });
            }
        }
    }
    for cv in [0.005, 0.015, 0.05] {
        kinds.push(Ladder { cv: Some(cv), ..PLAIN });
        kinds.push(Ladder { cv: Some(cv), days: Some(0.0), ..PLAIN });
        kinds.push(Ladder { cv: Some(cv), days: Some(0.0), unlike: 0.3, ..PLAIN });
        kinds.push(Ladder { cv: Some(cv), laps: (3, 2), ..PLAIN });
    }
    for kind in kinds {
        let wrong = share(&format!("{kind:?}, false orders"), 31, |random| {
            let views = compare(kind.draw(random), &ask());
            views[0].groups.iter().any(|group| kind.is_false(group))
        });
        assert!(wrong <= promised(0.05), "{kind:?}: {wrong}");
    }
}

#[test]
fn a_ladder_of_single_results_tells_large_differences_and_nothing_where_nothing_is_known() {
    let far = Ladder { cv: Some(0.01), step: 0.15, ..PLAIN };
    let told = |kind: Ladder, number: u64| {
        let views = compare(kind.draw(&mut SplitMix::new(number)), &ask());
        let placed =
            views[0].groups[0].rows.iter().filter_map(|row| row.places).collect::<Vec<_>>();
        (placed.len(), placed.iter().map(|p| p.worst - p.best + 1).sum::<usize>())
    };
    let widths: usize = (0..labs()).map(|number| told(far, number).1).sum();
    // A place each would be twelve, and anywhere 144.
    let mean = widths as f64 / labs() as f64;
    assert!(mean < 40.0, "{mean} places in all");
    assert_eq!(told(Ladder { laps: (1, 1), ..far }, 1).0, 0, "nobody knows how far laps differ");
}
