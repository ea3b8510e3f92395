//! How things were set: the parts of a rig in a session, and the modes of a workload's program in it.

use crate::record::{Mode, SessionName, SessionRecord, Study};
use std::collections::{BTreeMap, BTreeSet};

/// How a program was set in a session: the values of one of its modes; none of them where a lap could not tell.
pub type ModeValues = BTreeSet<Option<String>>;

/// The modes of a session, by workload and name.
pub type SessionModes = BTreeMap<(String, String), ModeValues>;

/// How programs were set, session by session.
pub type AllModes = BTreeMap<SessionName, SessionModes>;

/// Returns what the parts of a session's rig were: as was said when it began, or as the study says of its day.
pub(super) fn parts_of(study: &Study, record: &SessionRecord) -> BTreeMap<String, String> {
    let day = record.day();
    let stated = study.rig(&record.name.rig).into_iter().flat_map(|rig| &rig.parts);
    let stated = stated.filter_map(|part| Some((part.name.clone(), part.on(day)?.to_owned())));
    stated.chain(record.about.parts.iter().cloned()).collect()
}

/// Adds how a lap's program was set.
pub(super) fn add_modes(all: &mut AllModes, session: &SessionName, workload: &str, modes: &[Mode]) {
    let of_session = all.entry(session.clone()).or_default();
    for mode in modes {
        let values = of_session.entry((workload.to_owned(), mode.name.clone())).or_default();
        values.extend(mode.values().map(|value| Some(value.to_owned())));
        if mode.unknown.is_some() {
            values.insert(None);
        }
    }
}
