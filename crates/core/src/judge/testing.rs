//! What the tests of comparisons are written with: small, literal logbooks.

use super::{Against, Ask, Difference, Row};
use crate::record::{LapHead, LapName, SessionName, Settings};
use crate::unit::Nanos;

pub(super) fn settings(threads: &str) -> Settings {
    Settings::new(vec![("threads".into(), threads.into())])
}

/// Laps of one session of one rig, in milliseconds, one per round.
pub(super) fn laps(session: &str, threads: &str, first: u32, ms: &[u64]) -> Vec<LapHead> {
    ms.iter()
        .zip(1..)
        .map(|(&ms, round)| {
            let session = SessionName::parse(session).unwrap();
            let name = LapName { session, number: first + round };
            let done = LapHead::done(name, "still", settings(threads), Nanos(ms * 1_000_000));
            LapHead { round, ..done }
        })
        .collect()
}

pub(super) fn ask() -> Ask {
    Ask { margin: 0.02, ..Ask::default() }
}

pub(super) fn difference(row: &Row) -> Difference {
    match &row.against {
        Against::Other(difference) => *difference,
        other => panic!("{other:?}"),
    }
}
