//! Before and after: sessions of one rig on either side of a change, as if they were two rigs.

use crate::lab::Sitting;
use crate::record::{RigFound, SessionName, VersionLine};
use std::collections::{BTreeMap, BTreeSet};

/// The name that sessions before a change go by.
pub const BEFORE: &str = "before";
/// The name that sessions after it go by.
pub const AFTER: &str = "after";

/// Returns the names by which the sessions go in a comparison: `before-1`, `after-1`, ….
pub fn sides(before: &[SessionName], after: &[SessionName]) -> BTreeMap<SessionName, SessionName> {
    let of = |rig: &'static str, names: &[SessionName]| {
        let named = |(number, name): (u32, &SessionName)| {
            (name.clone(), SessionName { rig: rig.to_owned(), number })
        };
        (1..).zip(names).map(named).collect::<Vec<_>>()
    };
    of(BEFORE, before).into_iter().chain(of(AFTER, after)).collect()
}

/// Returns everything on record that differs between the sides, each in words: only the change that is
/// meant may be among it.
///
/// * Shape: sittings and versions of sessions that go by [`sides`]; others are left out.
pub fn changes(sittings: &[Sitting], versions: &[(SessionName, VersionLine)]) -> Vec<String> {
    let mut seen: BTreeMap<String, [BTreeSet<String>; 2]> = BTreeMap::new();
    let side = |name: &SessionName| match name.rig.as_str() {
        BEFORE => Some(0),
        AFTER => Some(1),
        _ => None,
    };
    for sitting in sittings {
        let Some(side) = side(&sitting.name) else { continue };
        for (what, found) in facts(&sitting.found) {
            seen.entry(what.to_owned()).or_default()[side].extend(found);
        }
    }
    for (session, version) in versions {
        let Some(side) = side(session) else { continue };
        let what = format!("{} of {}", version.label, version.workload);
        let line =
            version.line.clone().unwrap_or_else(|| "a version that could not be read".into());
        seen.entry(what).or_default()[side].insert(line);
    }
    let list = |lines: &BTreeSet<String>| lines.iter().cloned().collect::<Vec<_>>().join(" and ");
    let differs = |(what, [before, after]): (String, [BTreeSet<String>; 2])| {
        let told = !before.is_empty() && !after.is_empty() && before != after;
        told.then(|| format!("{what} from {} to {}", list(&before), list(&after)))
    };
    seen.into_iter().filter_map(differs).collect()
}

/// Returns what is known of a machine, by name.
fn facts(found: &RigFound) -> [(&'static str, Option<String>); 6] {
    [
        ("machine", found.machine.clone()),
        ("processor", found.processor.clone()),
        ("memory", found.memory_bytes.map(|bytes| format!("{} GiB", bytes >> 30))),
        ("system", found.system.clone()),
        ("kernel", found.kernel.clone()),
        ("clock governor", found.governor.clone()),
    ]
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_changed_is_listed_and_what_did_not_is_not() {
        let name = |text: &str| SessionName::parse(text).unwrap();
        let sides = sides(&[name("heron-1"), name("heron-2")], &[name("heron-4")]);
        assert_eq!(sides[&name("heron-2")], name("before-2"));
        let sitting = |text: &str, kernel: &str| Sitting {
            name: name(text),
            found: RigFound {
                kernel: Some(kernel.into()),
                processor: Some("H12".into()),
                ..RigFound::default()
            },
            age: None,
        };
        let sittings =
            [sitting("before-1", "6.0"), sitting("before-2", "6.0"), sitting("after-1", "6.1")];
        let version = |text: &str, line: &str| {
            let (workload, label) = ("still".to_owned(), "renderer".to_owned());
            (name(text), VersionLine { workload, label, line: Some(line.to_owned()) })
        };
        let versions =
            [version("before-1", "1.4"), version("before-2", "1.4"), version("after-1", "1.5")];
        assert_eq!(
            changes(&sittings, &versions),
            ["kernel from 6.0 to 6.1", "renderer of still from 1.4 to 1.5"]
        );
        assert_eq!(changes(&sittings[..2], &versions), ["renderer of still from 1.4 to 1.5"]);
    }
}
