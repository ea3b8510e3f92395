//! *Nothing to choose*: every rig comes out the same, so something else was the limit all along.

use super::doubt::Doubt;
use super::evidence::{Evidence, cell_name, rigs_beside};
use super::raised::{Raised, Remedy};
use crate::judge::Row;
use crate::lab::{Limit, Limited, Run, limit, threads_of};
use std::collections::{BTreeMap, BTreeSet};

/// Rigs that tie by chance are two; three are a pattern.
const LEAST_RIGS: usize = 3;

/// Returns what every workload and measure raises in which three rigs or more, of different
/// processors as far as that is known, lie within the margin of each other.
pub(super) fn find(evidence: &Evidence<'_>) -> Vec<Raised> {
    let mut found = Vec::new();
    for view in evidence.views {
        for (settings, rows) in rigs_beside(view) {
            let placed: Vec<&Row> = rows.iter().filter(|row| row.places.is_some()).collect();
            let typical = || placed.iter().filter_map(|row| Some(row.cell.as_ref()?.typical()));
            let (least, most) =
                typical().fold((f64::INFINITY, 0.0f64), |(a, b), x| (a.min(x), b.max(x)));
            let apart = most / least - 1.0;
            let rigs: Vec<&str> = placed.iter().map(|row| row.rig.as_str()).collect();
            if placed.len() < LEAST_RIGS || apart > evidence.assume.margin || alike(evidence, &rigs)
            {
                continue;
            }
            found.push(Raised {
                workload: view.workload.clone(),
                laps: Vec::new(),
                doubt: Doubt::NothingToChoose {
                    of: cell_name(view, settings),
                    apart,
                    by: limited(evidence, &view.workload, &rigs),
                    rigs: rigs.into_iter().map(str::to_owned).collect(),
                },
                remedy: Remedy::OtherWork,
            });
        }
    }
    found
}

/// Returns whether all of `rigs` are known to have the same processor: then a tie is what to expect.
fn alike(evidence: &Evidence<'_>, rigs: &[&str]) -> bool {
    let of = |rig: &str| {
        let mut sessions = evidence.sessions.iter().filter(|session| session.name.rig == rig);
        sessions.find_map(|session| session.found.processor.as_deref())
    };
    let known: Option<BTreeSet<&str>> = rigs.iter().map(|rig| of(rig)).collect();
    known.is_some_and(|processors| processors.len() == 1)
}

/// Returns what limited most rigs, as far as the conditions show it, and which they are.
fn limited(
    evidence: &Evidence<'_>,
    workload: &str,
    rigs: &[&str],
) -> Option<(Limited, Vec<String>)> {
    let threads = threads_of(evidence.sessions);
    let mut seen: BTreeMap<Limit, (Limited, BTreeSet<&str>)> = BTreeMap::new();
    for series in evidence.series {
        let (of, rig, _) = series.cell();
        if of != workload || !rigs.contains(&rig) {
            continue;
        }
        let threads = threads.get(&series.session).copied();
        let counted = series.runs().filter(Run::counts);
        for run in counted {
            run.each_known(|lap, facts| {
                if let Some(found) = limit(facts, lap.wall, threads) {
                    seen.entry(found.by).or_insert_with(|| (found, BTreeSet::new())).1.insert(rig);
                }
            });
        }
    }
    let (limited, rigs) = seen.into_values().max_by_key(|(_, rigs)| rigs.len())?;
    Some((limited, rigs.into_iter().map(str::to_owned).collect()))
}

#[cfg(test)]
mod tests {
    use super::super::testing::Lab;
    use super::*;

    fn lab(wren: f64) -> Lab {
        let lab = Lab::default()
            .day("heron-1", 3, &[("still", 1000.0)])
            .day("plover-1", 2, &[("still", 1003.0)])
            .day("wren-1", 1, &[("still", wren)]);
        lab.judged()
    }

    #[test]
    fn three_that_tie_are_told_with_what_the_conditions_show() {
        let mut tied = lab(1001.0);
        for rig in 0..3 {
            tied.sessions[rig].found.threads = Some(8);
        }
        for rig in ["heron", "plover", "wren"] {
            tied.facts(&format!("{rig}-1.1")).conditions.sampled.cores_busy = Some(1.0);
        }
        let found = tied.found(find);
        let Doubt::NothingToChoose { rigs, apart, by, .. } = &found[0].doubt else {
            panic!("{found:?}")
        };
        assert!((apart - 0.003).abs() < 1e-4 && rigs.len() == 3, "{found:?}");
        let (limited, on) = by.as_ref().unwrap();
        assert_eq!((limited.by, on.len()), (Limit::OneThread, 3));
        assert_eq!(lab(1100.0).found(find), [], "one of them differs");
    }

    #[test]
    fn rigs_of_one_processor_are_expected_to_tie() {
        let mut tied = lab(1001.0);
        for rig in 0..3 {
            tied.sessions[rig].found.processor = Some("H12".into());
        }
        assert_eq!(tied.found(find), []);
        tied.sessions[2].found.processor = Some("L8".into());
        assert_eq!(tied.found(find).len(), 1);
    }
}
