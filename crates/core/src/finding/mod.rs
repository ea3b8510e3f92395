//! Findings: named reasons why figures may mislead, each with what shows it and what would resolve it.
//!
//! A new finding is one file with a `find`, a variant of [`Doubt`] with its data, and one line in [`findings`]; its words
//! are in `view`, which does not compile without them. Those by a test share one rate: all of them together accuse a lab
//! that has nothing wrong with it in at most one case of ten. The others state facts.

mod average_hides;
mod by_fact;
mod capped;
mod does_not_fit;
mod doubt;
mod evidence;
mod exchanged;
mod first_lap;
mod found;
mod impact;
mod left_over;
mod less_work;
mod machine_busy;
mod meant;
mod meter_silent;
mod missing;
mod mostly_waiting;
mod nature;
mod never_settled;
mod not_steady;
mod nothing_to_choose;
mod odd_lap;
mod odd_one_out;
mod one_of_a_kind;
mod other_setting;
mod other_version;
mod other_work;
mod out_of_order;
mod own_time;
mod parts;
mod raised;
mod read_coarsely;
mod repeated;
mod series;
mod sessions_disagree;
mod shared;
mod slept;
mod slipped_digit;
mod stale;
mod still_falling;
mod swapped;
#[cfg(test)]
mod testing;
mod throttled;
mod too_few;
mod two_groups;
mod two_things_changed;
mod typed;
mod upside_down;

pub use doubt::Doubt;
pub use evidence::{Evidence, run};
pub use found::{Concerned, Finding};
pub use impact::Impact;
pub use meant::Meant;
pub use parts::{Copies, FewLaps, Lacking, SeriesName, VersionOn};
pub use raised::{Raised, Remedy};

use crate::judge::{Ask, Table};
use crate::lab::LapSeries;
use crate::record::{Kind, LapName, SessionName};
use by_fact::{ByFact, by_facts};
use shared::{Tests, shared};
use std::collections::{BTreeSet, HashMap};

/// What laps show by themselves, whatever they are held against.
pub struct OfLaps {
    tests: Vec<Tests>,
    few: Vec<Raised>,
    facts: Vec<Raised>,
}

/// Returns what the laps of `all` series show by themselves, of workloads of which some are not about their time.
pub fn of_laps(all: &[&LapSeries], untimed: &BTreeSet<String>) -> OfLaps {
    let tests_of_series = [&first_lap::TEST, &odd_lap::TEST, &not_steady::TEST, &two_groups::TEST];
    let of_facts: [for<'s> fn(&[&'s LapSeries]) -> ByFact<'s>; 11] = [
        machine_busy::find,
        throttled::find,
        never_settled::find,
        still_falling::find,
        swapped::find,
        slept::find,
        meter_silent::find,
        left_over::find,
        own_time::find,
        capped::find,
        average_hides::in_passes,
    ];
    let series = series::series(all, untimed);
    OfLaps {
        tests: series::tested(&series, &tests_of_series),
        few: too_few::find(&series),
        facts: by_facts(all, &of_facts.map(|find| find(all))),
    }
}

/// Returns everything that `evidence` shows, beside what its laps show by themselves.
pub fn raised(
    OfLaps { mut tests, few: mut found, facts }: OfLaps,
    evidence: &Evidence<'_>,
) -> Vec<Raised> {
    let of_evidence = [
        other_work::find,
        less_work::find,
        stale::find,
        other_version::find,
        other_setting::find,
        read_coarsely::find,
        average_hides::across_rigs,
        mostly_waiting::find,
        nothing_to_choose::find,
        upside_down::find,
        odd_one_out::find,
        missing::find,
        two_things_changed::find,
        one_of_a_kind::find,
        out_of_order::find,
    ];
    let of_all = [
        sessions_disagree::test,
        exchanged::test,
        slipped_digit::test,
        does_not_fit::test,
        repeated::test,
    ];
    tests.extend(of_all.map(|test| test(evidence)));
    found.extend(shared(tests));
    found.extend(facts);
    found.extend(of_evidence.iter().flat_map(|find| find(evidence)));
    found
}

/// Returns everything that `evidence` shows, what could change most first.
///
/// `tables` and `ask` are what its comparison was made of.
pub fn findings(
    of_laps: OfLaps,
    evidence: &Evidence<'_>,
    tables: &[Table<'_>],
    ask: &Ask,
) -> Vec<Finding> {
    let found = raised(of_laps, evidence);
    let mut by_session: HashMap<&SessionName, Vec<&LapSeries>> = HashMap::new();
    for series in evidence.series {
        by_session.entry(&series.session).or_default().push(series);
    }
    let lap = |name: &LapName| {
        let mut of_session = by_session.get(&name.session).into_iter().flatten();
        of_session.find_map(|series| series.lap(name.number))
    };
    let weigh = |mut raised: Raised| {
        let workload = evidence.study.workload(&raised.workload);
        if let Some(workload) = workload.filter(|workload| workload.task.by_hand.is_some()) {
            let logs_frames = matches!(workload.task.kind, Kind::Frames(_));
            raised.remedy = raised.remedy.by_hand(logs_frames);
        }
        let of = raised.laps.iter().filter_map(lap);
        let cells: BTreeSet<Concerned> = of
            .map(|lap| Concerned { rig: lap.rig().to_owned(), settings: lap.settings().clone() })
            .collect();
        let impact = Impact::of(&raised, tables, evidence.views, ask, evidence.assume);
        Finding::of(raised, cells.into_iter().collect(), impact)
    };
    let mut all: Vec<Finding> = found.into_iter().map(weigh).collect();
    all.sort_by(|a, b| a.impact.order(b.impact).then_with(|| a.workload.cmp(&b.workload)));
    all
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::lab::{KnownLap, LapFacts, Laps, limit};
    use crate::record::{LapHead, Settings};
    use crate::unit::Nanos;
    use std::sync::Arc;

    #[test]
    fn of_laps_of_which_nothing_but_their_time_is_known_no_fact_says_anything() {
        // Facts are not looked for in such laps: here they are, since something is known that says nothing.
        let facts = LapFacts { reason: Some("why".into()), ..LapFacts::default() };
        let walls = [0, 1, 1_000, 1_000_000, 1_000_000_000, 36_000_000_000_000].map(Nanos);
        let lap = |(number, wall): (u32, Nanos)| {
            let name = LapName::parse(&format!("heron-1.{number}")).unwrap();
            let head = LapHead::done(name, "still", Settings::default(), wall);
            KnownLap { head, facts: Arc::new(facts.clone()) }
        };
        let laps: Laps = (1..).zip(walls).map(lap).collect();
        let series: Vec<&LapSeries> = laps.series().iter().collect();
        let mut looked_at = 0;
        series[0].runs().for_each(|run| run.each_known(|_, _| looked_at += 1));
        assert_eq!(looked_at, series[0].len());
        assert_eq!(of_laps(&series, &BTreeSet::new()).facts, []);
        for wall in walls {
            assert_eq!(limit(&facts, Some(wall), Some(8)), None);
        }
    }
}
