//! Labs of known truth, drawn from seeds, put through the whole comparison: how often it is wrong.
//!
//! The between-session variation, what a variant has of its own on a day, and the laps' own spread are not handed to
//! the code. 'Wrong' is naming a winner among equal rigs, ordering them, calling a difference of the margin the
//! same, or an interval that misses. At most 5 % is promised. CI draws `LABS` labs for each row of the grid;
//! `LAP_LABS=4000 cargo test -p honest-lap-core --test judgement truth -- --nocapture` draws more and prints the rates.
//!
//! Runs for about 8 s on one core of two.

use honest_lap_core::judge::{
    Against, Ask, Assumptions, Difference, Group, HeldConstant, Verdict, Weighing, compare,
    overall, tables, two_way,
};
use honest_lap_core::lab::Laps;
use honest_lap_core::record::{LapHead, LapName, SessionName, Settings};
use honest_lap_core::stat::SplitMix;
use honest_lap_core::unit::Nanos;

const LABS: u64 = 400;
const MARGIN: f64 = 0.02;

pub(crate) fn labs() -> u64 {
    std::env::var("LAP_LABS").ok().and_then(|text| text.parse().ok()).unwrap_or(LABS)
}

/// Returns a promised rate with the slack that the draw of so many labs needs: three standard errors.
pub(crate) fn promised(rate: f64) -> f64 {
    rate + 3.0 * (rate * (1.0 - rate) / labs() as f64).sqrt()
}

/// How laps differ within a session, beside a lognormal spread.
#[derive(Clone, Copy, Debug)]
enum Noise {
    Lognormal,
    /// One lap in twenty takes a tenth longer.
    Outliers,
    /// Each lap is run at one of two clocks, 3 % apart.
    TwoClocks,
    /// A session slows down by 2 % from its first lap to its last.
    Drift,
}

/// How far days differ.
#[derive(Clone, Copy, Debug)]
enum Days {
    /// The same standard deviation on every rig.
    Sd(f64),
    /// Drawn for each rig, log-uniform from 0.3 to 3 %.
    Drawn,
}

/// A kind of lab.
#[derive(Clone, Copy, Debug)]
struct Lab<'a> {
    /// How many sessions each rig has.
    sessions: &'a [u32],
    variants: u32,
    laps: u32,
    /// Standard deviation of a lap's log.
    cv: f64,
    noise: Noise,
    days: Days,
    /// What a variant has of its own on a day, as a share of the between-session variation.
    interaction: f64,
}

const PLAIN: Lab<'static> = Lab {
    sessions: &[3, 3],
    variants: 1,
    laps: 5,
    cv: 0.01,
    noise: Noise::Lognormal,
    days: Days::Sd(0.015),
    interaction: 0.0,
};

pub(crate) fn rig(number: usize) -> String {
    format!("r{number:02}")
}

impl Lab<'_> {
    /// Draws the laps of `workload`; `truth` holds the log by which each rig is slower.
    fn laps(&self, workload: &str, truth: &[f64], random: &mut SplitMix) -> Vec<LapHead> {
        let mut all = Vec::new();
        for (at, &sessions) in self.sessions.iter().enumerate() {
            let tau = match self.days {
                Days::Sd(sd) => sd,
                Days::Drawn => 0.003 * 10f64.powf(random.unit()),
            };
            for session in 1..=sessions {
                let day = tau * random.normal();
                let own: Vec<f64> =
                    (0..self.variants).map(|_| self.interaction * tau * random.normal()).collect();
                for round in 1..=self.laps {
                    for variant in 0..self.variants {
                        let number = 1 + variant + self.variants * (round - 1);
                        let noise = self.lap_noise(number, random);
                        let log = truth[at] + day + own[variant as usize] + noise;
                        let name = format!("{}-{session}.{number}", rig(at));
                        let name = LapName::parse(&name).expect("a name");
                        let settings =
                            Settings::new(vec![("threads".into(), (variant + 1).to_string())]);
                        let wall = Nanos((60e9 * log.exp()) as u64);
                        let head = LapHead::done(name, workload, settings, wall);
                        all.push(LapHead { round, ..head });
                    }
                }
            }
        }
        all
    }

    fn lap_noise(&self, number: u32, random: &mut SplitMix) -> f64 {
        let own = self.cv * random.normal();
        own + match self.noise {
            Noise::Lognormal => 0.0,
            Noise::Outliers if random.below(20) == 0 => 0.1,
            Noise::Outliers => 0.0,
            Noise::TwoClocks => 0.03 * random.below(2) as f64,
            Noise::Drift => 0.02 * f64::from(number) / f64::from(self.laps * self.variants),
        }
    }

    fn equal(&self) -> Vec<f64> {
        vec![0.0; self.sessions.len()]
    }
}

fn ask() -> Ask {
    Ask { margin: MARGIN, rig_order: vec![rig(0)], ..Ask::default() }
}

/// Returns the share of labs in which `lab` comes true, and prints it.
#[expect(
    clippy::print_stdout,
    reason = "the rates of the documentation are read off a run of this"
)]
pub(crate) fn share(what: &str, seed: u64, mut lab: impl FnMut(&mut SplitMix) -> bool) -> f64 {
    let found = (0..labs()).filter(|n| lab(&mut SplitMix::new(seed * 1_000_003 + n))).count();
    let share = found as f64 / labs() as f64;
    println!("{what}: {:.1} %", share * 100.0);
    share
}

fn differences(group: &Group) -> impl Iterator<Item = &Difference> {
    group.rows.iter().filter_map(|row| match &row.against {
        Against::Other(difference) => Some(difference),
        _ => None,
    })
}

fn across(group: &&Group) -> bool {
    matches!(group.held, HeldConstant::Variant(_))
}

/// Returns whether a table of equal rigs names a winner or orders any two.
pub(crate) fn errs(group: &Group) -> bool {
    let count = group.rows.iter().filter(|row| row.places.is_some()).count();
    let ordered =
        |places: &honest_lap_core::judge::RankRange| (places.best, places.worst) != (1, count);
    differences(group).any(|difference| difference.verdict.names_a_winner())
        || group.rows.iter().filter_map(|row| row.places.as_ref()).any(ordered)
}

/// The rows of the grid: what varies beside what is plain.
fn grid() -> Vec<Lab<'static>> {
    let mut grid = Vec::new();
    for sessions in [&[1, 1][..], &[2, 2], &[3, 3], &[6, 6], &[1, 3], &[3, 2], &[3, 2, 1, 3, 2, 1]]
    {
        for days in [Days::Sd(0.0), Days::Sd(0.005), Days::Sd(0.015), Days::Drawn] {
            grid.push(Lab { sessions, days, ..PLAIN });
        }
    }
    for noise in [Noise::Outliers, Noise::TwoClocks, Noise::Drift] {
        grid.extend([&[1, 1][..], &[2, 2], &[3, 3]].map(|sessions| Lab {
            sessions,
            noise,
            ..PLAIN
        }));
    }
    for cv in [0.005, 0.02, 0.05] {
        grid.extend([&[1, 1][..], &[2, 2], &[3, 3]].map(|sessions| Lab { sessions, cv, ..PLAIN }));
    }
    grid.push(Lab { sessions: &[2; 12], ..PLAIN });
    grid.push(Lab { sessions: &[3; 12], ..PLAIN });
    grid
}

#[test]
fn equal_rigs_are_told_apart_in_five_labs_of_a_hundred_at_most() {
    for lab in grid() {
        let wrong = share(&format!("{lab:?}, equal"), 1, |random| {
            let views = compare(lab.laps("still", &lab.equal(), random), &ask());
            views[0].groups.iter().filter(across).any(errs)
        });
        assert!(wrong <= promised(0.05), "{lab:?}: {wrong}");
    }
}

#[test]
fn rigs_with_one_session_beside_a_third_with_three_of_another_workload_are_rarely_told_apart() {
    // The spread of the third is measured; that of the two is not.
    let wrong =
        share("one session each, another workload measured", 2, |random| {
            let mut laps = Lab { sessions: &[1, 1], ..PLAIN }.laps("still", &[0.0; 2], random);
            let third = Lab { sessions: &[0, 0, 3], ..PLAIN };
            laps.extend(third.laps("reel", &[0.0; 3], random));
            let views = compare(&laps, &ask());
            let still = views.iter().find(|view| view.workload == "still").expect("it was run");
            still.groups.iter().filter(across).any(|group| {
                differences(group).any(|difference| difference.verdict.names_a_winner())
            })
        });
    assert!(wrong <= promised(0.05), "{wrong}");
}

#[test]
fn sessions_within_minutes_are_one_day_and_would_mislead_as_three() {
    // Three runs in a row share the day, on both rigs.
    let wrong = |days: bool| {
        share(&format!("three runs in a row, as one day {days}"), 10, |random| {
            let lab = Lab { sessions: &[1, 1], laps: 15, cv: 0.005, ..PLAIN };
            let mut laps = lab.laps("still", &lab.equal(), random);
            for lap in &mut laps {
                lap.name.session.number = 1 + (lap.name.number - 1) / 5;
            }
            let mut ask = ask();
            if days {
                let names = laps.iter().map(|lap| lap.name.session.clone());
                ask.days =
                    names.map(|name| (name.clone(), SessionName { number: 1, ..name })).collect();
            }
            let views = compare(&laps, &ask);
            let mut found = views[0].groups.iter().filter(across).flat_map(differences);
            found.any(|difference| difference.verdict.names_a_winner())
        })
    };
    let (one, three) = (wrong(true), wrong(false));
    assert!(one <= promised(0.05), "{one}");
    assert!(three > 0.5, "{three}");
}

#[test]
fn rigs_that_differ_by_the_margin_are_rarely_called_the_same() {
    for lab in grid().into_iter().filter(|lab| lab.sessions.len() == 2) {
        let wrong = share(&format!("{lab:?}, at the margin"), 3, |random| {
            let views = compare(lab.laps("still", &[0.0, MARGIN.ln_1p()], random), &ask());
            let same = |difference: &Difference| {
                matches!(
                    difference.verdict,
                    Verdict::SameWithin(_) | Verdict::FasterWithin(_) | Verdict::SlowerWithin(_)
                )
            };
            views[0].groups.iter().filter(across).flat_map(differences).any(same)
        });
        assert!(wrong <= promised(0.05), "{lab:?}: {wrong}");
    }
}

#[test]
fn intervals_hold_the_truth_in_94_labs_of_a_hundred_at_least() {
    for lab in grid().into_iter().filter(|lab| lab.sessions.len() == 2) {
        let truth: f64 = 1.0 / 1.1;
        let missed = share(&format!("{lab:?}, interval of the ratio misses"), 4, |random| {
            let views = compare(lab.laps("still", &[0.0, 0.1f64.ln_1p()], random), &ask());
            let group = &views[0].groups[0];
            let interval = differences(group).next().and_then(|d| d.interval).expect("laps enough");
            truth < interval.low || interval.high < truth
        });
        assert!(missed <= promised(0.06), "{lab:?}: {missed}");
    }
    // The typical value is of any day: of a rig with one session too.
    for lab in grid().into_iter().filter(|lab| matches!(lab.noise, Noise::Lognormal)) {
        let missed = share(&format!("{lab:?}, interval of a typical misses"), 5, |random| {
            let views = compare(lab.laps("still", &lab.equal(), random), &ask());
            // Always the same rig: the best of several is best by chance too.
            let row = views[0].groups[0].rows.iter().find(|row| row.rig == rig(0));
            let cell = row.and_then(|row| row.cell.as_ref()).expect("laps");
            let interval = cell.interval().expect("laps enough");
            60.0 < interval.low || interval.high < 60.0
        });
        assert!(missed <= promised(0.06), "{lab:?}: {missed}");
    }
}

#[test]
fn variants_run_in_turn_are_rarely_told_apart_by_what_they_have_of_their_own_on_a_day() {
    for sessions in [&[1][..], &[2], &[3], &[6]] {
        for (cv, interaction) in [(0.005, 0.0), (0.005, 0.25), (0.02, 0.25)] {
            let days = Days::Sd(0.01);
            let lab = Lab { sessions, variants: 2, laps: 6, cv, interaction, days, ..PLAIN };
            let wrong = share(&format!("{lab:?}, equal variants"), 6, |random| {
                let views = compare(lab.laps("still", &[0.0], random), &ask());
                let groups = views[0].groups.iter().filter(|group| !across(group));
                groups.flat_map(differences).any(|d| d.verdict.names_a_winner())
            });
            assert!(wrong <= promised(0.06), "{lab:?}: {wrong}");
        }
    }
}

#[test]
fn gains_of_equal_rigs_rarely_differ_whether_run_in_turn_or_on_different_days() {
    for (days_apart, sessions) in [(false, 1), (false, 3), (true, 1), (true, 3)] {
        let wrong = share(&format!("gains, days apart {days_apart}, {sessions}"), 7, |random| {
            let all = [sessions, sessions];
            let lab = Lab { sessions: &all, variants: 2, interaction: 0.2, ..PLAIN };
            let mut laps = lab.laps("still", &[0.0; 2], random);
            if days_apart {
                // The second variant has sessions of its own, each with a day of its own.
                let other = lab.laps("still", &[0.0; 2], random);
                let of = |laps: &[LapHead], variant: &str, skip: u32| {
                    let wanted =
                        laps.iter().filter(|lap| lap.settings.get("threads") == Some(variant));
                    let moved = wanted.cloned().map(|mut lap| {
                        lap.name.session.number += skip;
                        lap
                    });
                    moved.collect::<Vec<_>>()
                };
                laps = [of(&laps, "1", 0), of(&other, "2", sessions)].concat();
            }
            let laps = Laps::from(&laps);
            let tables = tables(&laps, &ask());
            let found = two_way(&tables[0], "threads", &ask(), &Assumptions::of(MARGIN));
            let against = found.iter().flat_map(|way| &way.gains).filter_map(|gain| gain.against);
            against.into_iter().any(|difference| difference.verdict.names_a_winner())
        });
        assert!(wrong <= promised(0.05), "{days_apart}, {sessions}: {wrong}");
    }
}

#[test]
fn an_index_of_equal_rigs_rarely_names_a_winner_and_holds_the_truth() {
    for sessions in [&[1, 1][..], &[1, 3], &[2, 2], &[3, 3]] {
        let lab = Lab { sessions, ..PLAIN };
        let mut missed = 0u64;
        let wrong = share(&format!("index over five workloads, {sessions:?}"), 8, |random| {
            // All workloads of a session share its day.
            let mut laps = Vec::new();
            let mut seen = random.clone();
            for workload in ["a", "b", "c", "d", "e"] {
                let mut same_days = random.clone();
                let day = lab.laps(workload, &lab.equal(), &mut same_days);
                for (number, mut lap) in (1u32..).zip(day) {
                    let own = (lab.cv * seen.normal()).exp();
                    let wall = lap.wall.expect("it ended").0;
                    lap.wall = Some(Nanos((wall as f64 * own) as u64));
                    lap.name.number = number + 1_000 * u32::from(workload.as_bytes()[0]);
                    laps.push(lap);
                }
            }
            let views = compare(&laps, &ask());
            let weighing = Weighing {
                rig_order: vec![rig(0)],
                assume: Assumptions::of(MARGIN),
                ..Weighing::default()
            };
            let found = overall(&views, &weighing);
            let said = found.rows.iter().find_map(|row| row.against).expect("two rigs");
            let ends = said.interval.expect("laps enough");
            missed += u64::from(ends.low > 1.0 || ends.high < 1.0);
            said.verdict.names_a_winner()
        });
        assert!(wrong <= promised(0.05), "{sessions:?}: {wrong}");
        let missed = missed as f64 / labs() as f64;
        assert!(missed <= promised(0.06), "{sessions:?}: {missed}");
    }
}

#[test]
fn what_differs_is_found_the_more_often_the_more_sessions_there_are() {
    let found = |sessions: &[u32], truth: f64| {
        let lab = Lab { sessions, days: Days::Sd(0.01), ..PLAIN };
        share(&format!("{sessions:?}: {:.0} % slower is found", truth * 100.0), 9, |random| {
            let views = compare(lab.laps("still", &[0.0, truth.ln_1p()], random), &ask());
            views[0]
                .groups
                .iter()
                .filter(across)
                .flat_map(differences)
                .any(|d| matches!(d.verdict, Verdict::Slower))
        })
    };
    let five: Vec<f64> = [&[1, 1][..], &[2, 2], &[3, 3], &[6, 6]].map(|s| found(s, 0.05)).into();
    assert!(five[0] < five[1] && five[2] < five[3], "{five:?}");
    assert!(five[1] > 0.5, "two sessions are worth more than one: {five:?}");
    assert!(found(&[1, 1], 0.10) > 0.8 && found(&[3, 3], 0.10) > 0.9);
}
