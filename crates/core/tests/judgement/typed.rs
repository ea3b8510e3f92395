//! Tables that people typed, of known truth: how often numbers in which nothing is wrong are doubted, and slips are found.
//!
//! How fast rigs are, how much workloads ask for and how far a rig's strengths differ from one to the next are drawn, and not handed
//! to the code. At most one table in ten may be accused of anything.

use crate::truth::labs;
use honest_lap_core::analysis::{Question, analyse};
use honest_lap_core::finding::{Doubt, Meant};
use honest_lap_core::lab::{Lab, Records};
use honest_lap_core::record::{
    LapHead, LapName, Launch, Origin, RigFound, SessionAbout, SessionName, SessionRecord, Settings,
    Study, Task, TaskForm, Template,
};
use honest_lap_core::stat::SplitMix;
use honest_lap_core::unit::Nanos;

/// A kind of table: a rig a row, a workload a column.
#[derive(Clone, Copy, Debug)]
struct Kind {
    rigs: u32,
    workloads: u32,
    laps: u32,
    /// By how much a rig's strengths differ from workload to workload: a standard deviation, of logs.
    strengths: f64,
    /// By how much that differs from workload to workload: e to this standard deviation.
    unlike: f64,
}

const PLAIN: Kind = Kind { rigs: 25, workloads: 4, laps: 1, strengths: 0.04, unlike: 0.0 };

/// A table as it was meant: seconds, by rig and workload, lap by lap.
type Meaning = Vec<Vec<Vec<f64>>>;

impl Kind {
    fn draw(&self, random: &mut SplitMix) -> Meaning {
        let columns: Vec<(f64, f64)> = (0..self.workloads)
            .map(|_| {
                let asks = 300.0 * (0.7 * random.normal()).exp();
                (asks, self.strengths * (self.unlike * random.normal()).exp())
            })
            .collect();
        (0..self.rigs)
            .map(|_| {
                let slow = (0.4 * random.normal()).exp();
                let own = |&(asks, strengths): &(f64, f64)| {
                    let typical = asks * slow * (strengths * random.normal()).exp();
                    (0..self.laps).map(|_| typical * (0.01 * random.normal()).exp()).collect()
                };
                columns.iter().map(own).collect()
            })
            .collect()
    }
}

/// Returns the table as it was typed: to a tenth of a second.
fn lab(days: &[Meaning]) -> Lab {
    let table = &days[0];
    let name = |at: usize| format!("task{at}");
    let by_hand = |at: usize| Task {
        by_hand: Some("time it".into()),
        ..Task::of(Launch::Direct(vec![Template::parse(&name(at)).expect("a word")]))
    };
    let form = |at: usize| TaskForm {
        id: at as u32 + 1,
        workload: name(at),
        last_driven: Some("2026-03-02T10:00:00Z".into()),
        task: Task { command: None, ..by_hand(at) },
    };
    let tasks = (0..table[0].len()).map(form).collect();
    let mut records = Records { tasks, ..Records::default() };
    let mut all: Vec<LapHead> = Vec::new();
    let rows =
        (1..).zip(days).flat_map(|(number, day)| (0..).zip(day).map(move |row| (number, row)));
    for (day, (rig, row)) in rows {
        let session = SessionName { rig: format!("rig{rig:02}"), number: day };
        let about = SessionAbout { origin: Origin::Entered, ..SessionAbout::default() };
        let record = SessionRecord {
            name: session.clone(),
            started: String::new(),
            seed: 1,
            tool: String::new(),
            found: RigFound::default(),
            versions: Vec::new(),
            about,
        };
        let age = Nanos::from_seconds(86_400 * u64::from(30 - day));
        records.sessions.push((record, Some(age)));
        let mut number = 0;
        for (at, laps) in row.iter().enumerate() {
            for (&seconds, round) in laps.iter().zip(1..) {
                number += 1;
                let lap = LapName { session: session.clone(), number };
                let typed = Nanos((seconds * 10.0).round() as u64 * 100_000_000);
                let head = LapHead::done(lap, &name(at), Settings::default(), typed);
                let step = Some(Nanos(100_000_000));
                all.push(LapHead { round, task: at as u32 + 1, step, ..head });
            }
        }
    }
    records.laps = all.into();
    Lab::of(Study { margin: 0.02, ..Study::default() }, records)
}

/// Returns in how many of a quarter of the labs something is so, and prints it.
#[expect(
    clippy::print_stdout,
    reason = "the rates of the documentation are read off a run of this"
)]
fn share(what: &str, seed: u64, mut lab: impl FnMut(&mut SplitMix) -> bool) -> f64 {
    let all = labs() / 4;
    let found = (0..all).filter(|n| lab(&mut SplitMix::new(seed * 1_000_003 + n))).count();
    let share = found as f64 / all as f64;
    println!("{what}: {:.1} %", share * 100.0);
    share
}

/// Returns what is doubted by a test of what was typed: the rig, and what it may have been meant to be.
fn doubted(table: &Meaning) -> Vec<(String, Option<Meant>)> {
    doubted_of(std::slice::from_ref(table))
}

/// Returns the same of several days.
fn doubted_of(days: &[Meaning]) -> Vec<(String, Option<Meant>)> {
    let lab = lab(days);
    let found = analyse(&lab, &Question::default()).expect("it has laps");
    let said = found.findings.iter().filter_map(|found| match &found.doubt {
        Doubt::DoesNotFit { rig, meant, .. } => Some((rig.clone(), meant.clone())),
        Doubt::SlippedDigit { rig, .. } => Some((rig.clone(), None)),
        Doubt::Repeated { session, .. } => Some((session.rig.clone(), None)),
        Doubt::SessionsExchanged { session, with } => {
            let meant = Meant::OfRig { rig: with.rig.clone(), value: 0.0 };
            Some((session.rig.clone(), Some(meant)))
        }
        _ => None,
    });
    said.collect()
}

#[test]
fn a_table_in_which_nothing_is_wrong_is_accused_in_one_case_of_ten_at_most() {
    let most = 0.1 + 3.0 * (0.36 / labs() as f64).sqrt();
    for kind in [
        PLAIN,
        Kind { unlike: 0.5, ..PLAIN },
        Kind { strengths: 0.15, ..PLAIN },
        Kind { rigs: 6, ..PLAIN },
        Kind { rigs: 6, unlike: 0.5, ..PLAIN },
        Kind { rigs: 12, workloads: 2, ..PLAIN },
        Kind { workloads: 1, ..PLAIN },
        Kind { rigs: 8, workloads: 10, unlike: 0.3, ..PLAIN },
        Kind { rigs: 8, laps: 4, ..PLAIN },
    ] {
        let accused = share(&format!("{kind:?}, accused"), 53, |random| {
            !doubted(&kind.draw(random)).is_empty()
        });
        assert!(accused <= most, "{kind:?}: {accused}");
    }
}

/// Returns how often `slip` is found in the row that it was made in, and explained as `is`.
fn found(what: &str, kind: Kind, slip: impl Fn(&mut Meaning), is: impl Fn(&Meant) -> bool) -> f64 {
    share(&format!("{what} in {kind:?}, found"), 59, |random| {
        let mut table = kind.draw(random);
        slip(&mut table);
        let said = doubted(&table);
        said.iter().any(|(rig, meant)| {
            ["rig03", "rig07"].contains(&rig.as_str()) && meant.as_ref().is_some_and(&is)
        })
    })
}

#[test]
fn slips_of_many_kinds_are_found_and_explained() {
    let digits = |meant: &Meant| matches!(meant, Meant::Digits { .. });
    let ten = |table: &mut Meaning| table[3][1][0] *= 10.0;
    assert!(found("a digit too many", PLAIN, ten, digits) > 0.95);
    let small = Kind { rigs: 8, workloads: 3, ..PLAIN };
    assert!(found("a digit too many", small, ten, digits) > 0.9);
    let sixty = |table: &mut Meaning| table[3][1][0] /= 60.0;
    let minutes = |meant: &Meant| matches!(meant, Meant::Sixtieth { .. });
    assert!(found("minutes for seconds", PLAIN, sixty, minutes) > 0.9);
    let only = Kind { workloads: 1, ..PLAIN };
    let any = |_: &Meant| true;
    assert!(found("minutes for seconds", only, |t| t[3][0][0] /= 60.0, any) > 0.8);
    // Two rows of one column, of rigs that differ by half.
    let rows = |table: &mut Meaning| {
        let apart = table[3][0][0].max(table[7][0][0]) / table[3][0][0].min(table[7][0][0]);
        if apart < 1.5 {
            table[3].iter_mut().flatten().for_each(|value| *value *= 2.0);
        }
        let other = table[7][2][0];
        table[7][2][0] = table[3][2][0];
        table[3][2][0] = other;
    };
    let exchanged = |meant: &Meant| matches!(meant, Meant::OfRig { .. });
    assert!(found("two rows exchanged", PLAIN, rows, exchanged) > 0.7);
}

/// Returns a table as it comes out on another day.
fn another_day(table: &Meaning, random: &mut SplitMix) -> Meaning {
    let mut day = table.clone();
    for row in &mut day {
        let luck = 0.015 * random.normal();
        let values = row.iter_mut().flatten();
        values.for_each(|value| *value *= (luck + 0.01 * random.normal()).exp());
    }
    day
}

#[test]
fn sessions_that_were_exchanged_are_found_and_others_seldom_accused() {
    let kind = Kind { rigs: 12, ..PLAIN };
    let most = 0.1 + 3.0 * (0.36 / labs() as f64).sqrt();
    let accused = share("two days, nothing wrong, accused", 61, |random| {
        let first = kind.draw(random);
        let second = another_day(&first, random);
        !doubted_of(&[first, second]).is_empty()
    });
    assert!(accused <= most, "{accused}");
    let found = share("two days, rows of rigs a third apart exchanged, found", 67, |random| {
        let mut first = kind.draw(random);
        let (a, b) = (first[3][0][0], first[7][0][0]);
        let times = if a.max(b) / a.min(b) < 1.3 { 1.5 } else { 1.0 };
        first[3].iter_mut().flatten().for_each(|value| *value *= times);
        let mut second = another_day(&first, random);
        second.swap(3, 7);
        let said = doubted_of(&[first, second]);
        said.iter().any(|(rig, meant)| {
            rig == "rig03" && matches!(meant, Some(Meant::OfRig { rig, .. }) if rig == "rig07")
        })
    });
    assert!(found > 0.8, "{found}");
}
