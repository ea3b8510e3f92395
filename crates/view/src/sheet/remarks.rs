//! `lap note`: what people said, in the order said.

use super::sessions::minute;
use crate::table::{Cell, Column, Group, Layout, Sheet};
use crate::words::count;
use honest_lap_core::record::{Remark, RemarkKind};

/// Returns the sheet of remarks.
pub fn remarks(remarks: &[Remark]) -> Sheet {
    Sheet {
        schema: "honest-lap/remarks",
        version: 1,
        title: None,
        lead: vec![format!("{}.", count(remarks.len(), "remark"))],
        groups: vec![Group {
            heading: None,
            lead: Vec::new(),
            columns: vec![
                Column::text("about", "about"),
                Column::text("made", "made"),
                Column::text("kind", "kind"),
                Column::text("text", "text").wrap(70),
            ],
            rows: remarks.iter().map(row).collect(),
            layout: Layout::Table,
            drawing: Vec::new(),
            notes: Vec::new(),
        }],
        notes: Vec::new(),
    }
}

fn row(remark: &Remark) -> Vec<Cell> {
    vec![
        Cell::text(remark.subject.to_string()),
        Cell::text(&remark.made).shown(minute(&remark.made)),
        Cell::text(remark.kind.word()).shown(kind_words(remark.kind)),
        Cell::text(&remark.text),
    ]
}

/// Returns what a remark does, in words.
pub fn kind_words(kind: RemarkKind) -> &'static str {
    match kind {
        RemarkKind::SetAside => "set aside",
        RemarkKind::TakenBack => "taken back",
        RemarkKind::Note => "note",
        RemarkKind::Felt => "how it felt",
        RemarkKind::Cut => "cut",
    }
}
