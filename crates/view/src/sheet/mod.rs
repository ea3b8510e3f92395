//! Records in, sheets out: what each command shows, without a terminal.

mod carrying;
mod change;
mod claim;
mod compare;
mod doubts;
mod field_key;
mod frames;
mod imported;
mod lap;
mod laps;
mod overall;
mod overview;
mod preview;
mod remarks;
mod retest;
mod rig;
mod session;
mod sessions;
mod time_cell;
mod two_way;
mod value;
mod verify;

pub use carrying::{carrying, chosen};
pub use claim::claims;
pub use compare::{
    Detail, Doubted, Scale, Shown, Tables, among, answer, compare, heading, in_study_order, marked,
    of_peak_words, places, sources, tables,
};
pub use doubts::{doubts, doubts_in_short};
pub(crate) use field_key::field_key;
pub use frames::{FramedWorkload, ShownPass, frames, frames_listed};
pub use imported::{Imported, imported, pass_words};
pub use lap::lap;
pub use laps::laps;
pub use overall::{over_words, overall};
pub use overview::overview;
pub use preview::preview;
pub use remarks::remarks;
pub use retest::{resolves_words, retests};
pub use rig::{check, rig};
pub use session::session;
pub use sessions::sessions;
pub use two_way::{gain_words, two_way};
pub use value::value;
pub use verify::{CheckedLogbook, CheckedSession, Signature, verify};
