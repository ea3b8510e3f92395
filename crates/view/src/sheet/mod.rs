//! Records in, sheets out: what each command shows, without a terminal.

mod claim;
mod compare;
mod doubts;
mod frames;
mod imported;
mod lap;
mod laps;
mod overall;
mod preview;
mod remarks;
mod retest;
mod rig;
mod session;
mod sessions;
mod two_way;
mod value;
mod verify;

pub use claim::claims;
pub use compare::{
    Doubted, Scale, Shown, answer, changes_words, compare, heading, in_study_order, marked,
    of_peak_words, share_of,
};
pub use doubts::doubts;
pub use frames::{FramedWorkload, ShownPass, frames};
use imported::proposed;
pub use imported::{Imported, imported, pass_words};
pub use lap::lap;
pub use laps::laps;
pub use overall::{over_words, overall};
pub use preview::preview;
pub use remarks::remarks;
pub use retest::{resolves_words, retests};
pub use rig::{check, rig};
pub use session::session;
pub use sessions::sessions;
pub use two_way::{gain_words, two_way};
pub use value::value;
pub use verify::{CheckedLogbook, CheckedSession, verify};

use honest_lap_core::unit::Nanos;
use honest_lap_draw::{Cell, Column, Sheet};

/// Returns `sheet` with the reason why what is not comparable was compared, if there is one.
pub fn carrying(mut sheet: Sheet, despite: Option<&str>) -> Sheet {
    if let Some(why) = despite {
        sheet.lead.push(format!("Compared despite what differs, since: {why}."));
        // A table on its own, as CSV is, carries it in every row.
        for group in &mut sheet.groups {
            group.columns.push(Column::machine("despite"));
            group.rows.iter_mut().for_each(|row| row.push(Cell::text(why)));
        }
    }
    sheet
}

/// Returns the cell of a time that machines read in nanoseconds and people as `text`.
fn time_cell(time: Nanos, text: String) -> Cell {
    Cell::whole(time.0).shown(text)
}
