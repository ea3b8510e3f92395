//! Before and after: sessions of one rig on either side of a change, as if they were two rigs.

use crate::lab::{AllModes, LabSession};
use crate::record::{RigFound, SessionName, VersionLine};
use serde::Serialize;
use std::collections::{BTreeMap, BTreeSet};

/// The name that sessions before a change go by.
pub const BEFORE: &str = "before";
/// The name that sessions after it go by.
pub const AFTER: &str = "after";

/// Returns the names by which the sessions go in a comparison: `before-1`, `after-1`, ….
pub fn named_by_side(
    before: &[SessionName],
    after: &[SessionName],
) -> BTreeMap<SessionName, SessionName> {
    let of = |rig: &'static str, names: &[SessionName]| {
        let named = |(number, name): (u32, &SessionName)| {
            (name.clone(), SessionName { rig: rig.to_owned(), number })
        };
        (1..).zip(names).map(named).collect::<Vec<_>>()
    };
    of(BEFORE, before).into_iter().chain(of(AFTER, after)).collect()
}

/// What can change between sessions.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord, Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
#[serde(tag = "is", content = "of", rename_all = "kebab-case")]
pub enum What {
    /// The clock governor.
    ClockGovernor,
    /// The kernel.
    Kernel,
    /// The machine itself.
    Machine,
    /// Its memory, in GiB.
    Memory,
    /// Its processor.
    Processor,
    /// Its system.
    System,
    /// A part of the rig, as people say.
    Part {
        /// Its name.
        name: String,
    },
    /// How the program of a workload was set.
    Mode {
        /// What the study calls it.
        name: String,
        /// The workload.
        workload: String,
    },
    /// A program, or an input, of a workload.
    Program {
        /// What the study calls it.
        label: String,
        /// The workload.
        workload: String,
    },
}

/// A session beside a change.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
pub struct BesideChange {
    /// The session, by its own name.
    pub session: SessionName,
    /// Whether it came after the change.
    pub is_after: bool,
    /// What was said of it when it began.
    pub remark: Option<String>,
}

/// Something on record that differs between before and after.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
pub struct Changed {
    /// What.
    pub what: What,
    /// What it was before; a program's version is none where it could not be read.
    pub before: Vec<Option<String>>,
    /// What it was after, likewise.
    pub after: Vec<Option<String>>,
}

/// Returns everything on record that differs between the sides: only the change that is meant may be among it.
///
/// * Shape: sessions and versions of sessions that go by the names `before` and `after`; others are left out.
pub fn changes(
    sessions: &[LabSession],
    versions: &[(SessionName, VersionLine)],
    modes: &AllModes,
) -> Vec<Changed> {
    let side = |name: &SessionName| match name.rig.as_str() {
        BEFORE => Some(0),
        AFTER => Some(1),
        _ => None,
    };
    differences(sessions, versions, modes, side)
}

/// Returns everything on record that differs between sessions of side 0 and of side 1.
pub(crate) fn differences(
    sessions: &[LabSession],
    versions: &[(SessionName, VersionLine)],
    modes: &AllModes,
    side: impl Fn(&SessionName) -> Option<usize>,
) -> Vec<Changed> {
    let mut seen: BTreeMap<What, [BTreeSet<Option<String>>; 2]> = BTreeMap::new();
    for session in sessions {
        let Some(side) = side(&session.name) else { continue };
        for (what, found) in facts(&session.found) {
            seen.entry(what).or_default()[side].extend(found.map(Some));
        }
        for (name, is) in &session.parts {
            let what = What::Part { name: name.clone() };
            seen.entry(what).or_default()[side].insert(Some(is.clone()));
        }
    }
    for (session, modes) in modes {
        let Some(side) = side(session) else { continue };
        for ((workload, name), values) in modes {
            let what = What::Mode { name: name.clone(), workload: workload.clone() };
            seen.entry(what).or_default()[side].extend(values.iter().cloned());
        }
    }
    for (session, version) in versions {
        let Some(side) = side(session) else { continue };
        let VersionLine { label, workload, line } = version.clone();
        seen.entry(What::Program { label, workload }).or_default()[side].insert(line);
    }
    let differs = |(what, [before, after]): (What, [BTreeSet<Option<String>>; 2])| {
        let told = !before.is_empty() && !after.is_empty() && before != after;
        let (before, after) = (before.into_iter().collect(), after.into_iter().collect());
        told.then_some(Changed { what, before, after })
    };
    seen.into_iter().filter_map(differs).collect()
}

/// Returns what is known of a machine.
fn facts(found: &RigFound) -> [(What, Option<String>); 6] {
    [
        (What::Machine, found.machine.clone()),
        (What::Processor, found.processor.clone()),
        (What::Memory, found.memory_bytes.map(|bytes| (bytes >> 30).to_string())),
        (What::System, found.system.clone()),
        (What::Kernel, found.kernel.clone()),
        (What::ClockGovernor, found.governor.clone()),
    ]
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_changed_is_listed_and_what_did_not_is_not() {
        let name = |text: &str| SessionName::parse(text).unwrap();
        let sides = named_by_side(&[name("heron-1"), name("heron-2")], &[name("heron-4")]);
        assert_eq!(sides[&name("heron-2")], name("before-2"));
        let sitting = |text: &str, kernel: &str, parts: &str| LabSession {
            name: name(text),
            found: RigFound {
                kernel: Some(kernel.into()),
                processor: Some("H12".into()),
                ..RigFound::default()
            },
            age: None,
            day: None,
            parts: BTreeMap::from([("memory".to_owned(), parts.to_owned())]),
            remark: None,
        };
        let sittings = [
            sitting("before-1", "6.0", "32 GB"),
            sitting("before-2", "6.0", "32 GB"),
            sitting("after-1", "6.1", "64 GB"),
        ];
        let mode = |session: &str, value: &str| {
            let key = ("still".to_owned(), "render".to_owned());
            let values = BTreeSet::from([Some(value.to_owned())]);
            (name(session), BTreeMap::from([(key, values)]))
        };
        let modes = AllModes::from([mode("before-1", "graphics"), mode("after-1", "processor")]);
        let version = |text: &str, line: &str| {
            let (workload, label) = ("still".to_owned(), "renderer".to_owned());
            (name(text), VersionLine { workload, label, line: Some(line.to_owned()) })
        };
        let versions =
            [version("before-1", "1.4"), version("before-2", "1.4"), version("after-1", "1.5")];
        let changed = |what, before: &str, after: &str| Changed {
            what,
            before: vec![Some(before.to_owned())],
            after: vec![Some(after.to_owned())],
        };
        let (label, workload) = ("renderer".to_owned(), "still".to_owned());
        let program = changed(What::Program { label, workload }, "1.4", "1.5");
        let kernel = changed(What::Kernel, "6.0", "6.1");
        let memory = changed(What::Part { name: "memory".into() }, "32 GB", "64 GB");
        let (name, workload) = ("render".to_owned(), "still".to_owned());
        let mode = changed(What::Mode { name, workload }, "graphics", "processor");
        let all = [kernel, memory, mode, program.clone()];
        assert_eq!(changes(&sittings, &versions, &modes), all);
        assert_eq!(changes(&sittings[..2], &versions, &AllModes::new()), [program]);
    }
}
