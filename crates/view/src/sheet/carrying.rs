//! A sheet that carries the reason why what is not comparable was compared.

use crate::table::{Cell, Column, Sheet};
use honest_lap_core::analysis::Question;

/// Returns `sheet` with the reason why what is not comparable was compared, if there is one.
pub fn carrying(mut sheet: Sheet, question: &Question) -> Sheet {
    if let Some(why) = &question.despite {
        sheet.lead.push(format!("Compared despite what differs, since: {why}."));
        // A table on its own, as CSV is, carries it in every row.
        for group in &mut sheet.groups {
            group.columns.push(Column::machine("despite"));
            group.rows.iter_mut().for_each(|row| row.push(Cell::text(why)));
        }
    }
    sheet
}
