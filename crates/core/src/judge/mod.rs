//! Judgement: two or more cells in, a judged difference out.
//!
//! The procedures were chosen by simulation, for how rarely they call two equal machines
//! different; `docs/method.md` gives the rates and the reasons.

mod cell;
mod change;
mod compare;
mod count;
mod difference;
mod overall;
mod rank;
mod spread;
mod table;
mod traits;
mod two_way;
mod verdict;
mod view;

pub use cell::{Basis, Care, Cell, LOOK_ALPHA};
pub use change::{AFTER, BEFORE, changes, sides};
pub(crate) use compare::verdicts;
pub use compare::{Ask, Direction, compare, spread_of, views};
pub use count::Counts;
pub use difference::{Difference, Ground, Settle, across_rigs, within_session};
pub use overall::{
    Entered, Missing, Moved, Overall, OverallRow, Weighing, between, entry_name, in_common, overall,
};
pub use rank::{Contender, Places, RankedPair, Ranking, ranking};
pub use spread::{ASSUMED_SESSION_SPREAD, Assumptions, SessionSpread, session_spread};
pub use table::{Table, is_minor, tables};
pub use traits::{CellTraits, INPUT, Traits, cell_traits};
pub use two_way::{Gain, TwoWay, two_way};
pub use verdict::{LEAST_LAPS, Refusal, Verdict};
pub use view::{Against, Group, Held, Row, WorkloadView};
