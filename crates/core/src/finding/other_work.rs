//! *Other work*: laps of one variant produced different things, so they may not have done the same.

use super::{Doubt, Known};
use crate::record::{LapHead, LapName, Produced};
use crate::unit::display_size;
use std::collections::{BTreeMap, BTreeSet};

/// Sizes that differ by no more than this are an encoder's whim.
const LEAST_SIZE: f64 = 0.02;

/// What one file was, in one lap.
struct Made<'a> {
    lap: &'a LapHead,
    produced: &'a Produced,
}

/// Returns a doubt for every variant whose laps produced files of different sizes, or whose files
/// differ though each is otherwise made the same again and again.
pub(super) fn find(known: &[Known<'_>]) -> Vec<Doubt> {
    let mut files: BTreeMap<(&str, String, u32, &str), Vec<Made>> = BTreeMap::new();
    for (lap, facts) in known {
        for produced in &facts.produced {
            let settings = lap.settings.to_string();
            let key = (lap.workload.as_str(), settings, lap.task, produced.file.as_str());
            files.entry(key).or_default().push(Made { lap, produced });
        }
    }
    let doubt = |((workload, settings, _, file), made): ((&str, String, u32, &str), Vec<Made>)| {
        let (seen, laps) = sizes_differ(&made).or_else(|| contents_differ(&made))?;
        let of = if settings.is_empty() { String::new() } else { format!(" of {settings}") };
        Some(Doubt {
            name: "other work",
            workload: workload.to_owned(),
            evidence: format!("{file}{of} {seen}"),
            settle: format!(
                "compare them: lap show {}; then make settings and versions agree: lap run {workload}",
                laps[0]
            ),
            laps,
            false_alarms: None,
        })
    };
    files.into_iter().filter_map(doubt).collect()
}

fn sizes_differ(made: &[Made]) -> Option<(String, Vec<LapName>)> {
    let sized = || made.iter().filter_map(|m| Some((m.produced.bytes?, m.lap)));
    let (least, small) = sized().min_by_key(|(bytes, _)| *bytes)?;
    let (most, large) = sized().max_by_key(|(bytes, _)| *bytes)?;
    (most as f64 > least as f64 * (1.0 + LEAST_SIZE)).then(|| {
        let (small, large) = (&small.name, &large.name);
        let seen = format!(
            "is {} in lap {small} and {} in lap {large}",
            display_size(least),
            display_size(most)
        );
        (seen, vec![small.clone(), large.clone()])
    })
}

/// A file that comes out differently every time says nothing; one that mostly comes out the same,
/// and not everywhere, does.
fn contents_differ(made: &[Made]) -> Option<(String, Vec<LapName>)> {
    let mut by_sum: BTreeMap<&str, Vec<&LapHead>> = BTreeMap::new();
    for m in made {
        by_sum.entry(m.produced.sha256.as_deref()?).or_default().push(m.lap);
    }
    let repeats = by_sum.values().any(|laps| laps.len() > 1);
    if by_sum.len() < 2 || !repeats {
        return None;
    }
    let clause = |(sum, laps): (&&str, &Vec<&LapHead>)| {
        let rigs: BTreeSet<&str> = laps.iter().map(|lap| lap.name.session.rig.as_str()).collect();
        let rigs: Vec<&str> = rigs.into_iter().collect();
        let short = sum.get(..8).unwrap_or(sum);
        format!("{short}… on {} ({} laps)", rigs.join(", "), laps.len())
    };
    let clauses: Vec<String> = by_sum.iter().take(3).map(clause).collect();
    let more = if by_sum.len() > 3 { "; …" } else { "" };
    let laps = by_sum.values().filter_map(|laps| Some(laps.first()?.name.clone())).collect();
    Some((format!("is not the same everywhere: SHA-256 {}{more}", clauses.join("; ")), laps))
}

#[cfg(test)]
mod tests {
    use super::super::testing::Lab;
    use super::*;

    fn lab(made: &[(&str, u64, &str)]) -> Lab {
        let mut lab =
            Lab::default().session("heron-1", &[1.0, 1.0, 1.0]).session("wren-1", &[1.0, 1.0, 1.0]);
        for (name, bytes, sum) in made {
            lab.facts(name).produced = vec![Produced {
                file: "still.png".into(),
                bytes: Some(*bytes),
                sha256: Some((*sum).into()),
            }];
        }
        lab
    }

    #[test]
    fn a_smaller_output_is_less_work() {
        let found =
            lab(&[("heron-1.1", 100_000, "a"), ("wren-1.1", 60_000, "b")]).found_in_facts(find);
        assert_eq!(
            found[0].evidence,
            "still.png is 60.0 kB in lap wren-1.1 and 100 kB in lap heron-1.1"
        );
        assert_eq!(
            lab(&[("heron-1.1", 100_000, "a"), ("wren-1.1", 101_000, "b")]).found_in_facts(find),
            []
        );
    }

    #[test]
    fn another_checksum_is_told_unless_every_lap_has_its_own() {
        let same = [("heron-1.1", 9, "aaaaaaaaaa"), ("heron-1.2", 9, "aaaaaaaaaa")];
        let other = [same[0], same[1], ("wren-1.1", 9, "bbbbbbbbbb")];
        let found = lab(&other).found_in_facts(find);
        assert!(
            found[0].evidence.contains("aaaaaaaa… on heron (2 laps); bbbbbbbb… on wren"),
            "{found:?}"
        );
        assert_eq!(lab(&same).found_in_facts(find), []);
        let whim = [("heron-1.1", 9, "a"), ("heron-1.2", 9, "b"), ("wren-1.1", 9, "c")];
        assert_eq!(lab(&whim).found_in_facts(find), []);
    }
}
