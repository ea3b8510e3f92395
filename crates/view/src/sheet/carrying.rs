//! A sheet that carries what its answers stand on: which part of the lab, and why what is not comparable was compared.

use crate::table::{Cell, Column, Sheet};
use crate::words::listed;
use honest_lap_core::analysis::Analysis;
use honest_lap_core::lab::Choice;

/// Returns `sheet` with what was chosen, and the reason why what is not comparable was compared, if there is one.
pub fn carrying(mut sheet: Sheet, analysis: &Analysis<'_>) -> Sheet {
    sheet.lead.extend(chosen(&analysis.chosen));
    if let Some(why) = &analysis.question.despite {
        sheet.lead.push(format!("Compared despite what differs, since: {why}."));
        // A table on its own, as CSV is, carries it in every row.
        for group in &mut sheet.groups {
            group.columns.push(Column::machine("despite"));
            group.rows.iter_mut().for_each(|row| row.push(Cell::text(why)));
        }
    }
    sheet
}

/// Returns which part of the lab was asked about, where it is not all of it: `Only sessions heron-1 and wren-2.`
pub fn chosen(choice: &Choice) -> Option<String> {
    let of = |one: &str, several: &str, names: Vec<String>| {
        let kind = if names.len() == 1 { one } else { several };
        (!names.is_empty()).then(|| format!("{kind} {}", listed(&names)))
    };
    let names = |all: &[_]| all.iter().map(ToString::to_string).collect();
    let sessions = choice.sessions.iter().map(ToString::to_string).collect();
    let variants = choice.variants.iter().map(ToString::to_string).collect();
    let parts = [
        of("session", "sessions", sessions),
        of("group", "groups", names(&choice.groups)),
        of("variant", "variants", variants),
    ];
    let parts: Vec<String> = parts.into_iter().flatten().collect();
    (!parts.is_empty()).then(|| format!("Only {}.", parts.join("; ")))
}
