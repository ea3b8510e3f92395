//! What is said ahead of a comparison before and after a change: what differs on record, and what people said.

use super::compare::Shown;
use super::remarks::kind_words;
use crate::words::finding::changes_words;
use honest_lap_core::lab::BesideChange;
use honest_lap_core::record::{Remark, RemarkKind, SessionName, Subject};

/// Returns what differs between the sides of a change, and what was said of their sessions; nothing where none is asked about.
pub(super) fn of_change(shown: &Shown<'_>) -> Vec<String> {
    let analysis = shown.analysis;
    let mut lead: Vec<String> =
        analysis.changes.as_deref().map(changes_words).into_iter().collect();
    for beside in &analysis.around_change {
        let side = if beside.is_after { "after" } else { "before" };
        let at_first = beside.remark.iter().cloned();
        let later = shown.remarks.iter().filter(|remark| is_of(remark, beside)).map(noted);
        lead.extend(
            at_first.chain(later).map(|said| format!("{} ({side}): {said}", beside.session)),
        );
    }
    lead
}

/// Returns whether a remark says something of the session or of one of its laps that could explain a difference.
fn is_of(remark: &Remark, beside: &BesideChange) -> bool {
    let of: Option<&SessionName> = match &remark.subject {
        Subject::Session(session) => Some(session),
        Subject::Lap(lap) => Some(&lap.session),
        Subject::Rig(_) | Subject::Workload(_) => None,
    };
    let says = matches!(remark.kind, RemarkKind::Note | RemarkKind::Felt);
    says && of == Some(&beside.session)
}

fn noted(remark: &Remark) -> String {
    let of_lap = match &remark.subject {
        Subject::Lap(lap) => format!("lap {}, ", lap.number),
        _ => String::new(),
    };
    format!("{of_lap}{}: {}", kind_words(remark.kind), remark.text)
}
