//! Judgement: two or more cells in, a judged difference out.
//!
//! The procedures were chosen by simulation, for how rarely they call two equal machines
//! different; `docs/method.md` gives the rates and the reasons.

mod apart;
mod ask;
mod assumption;
mod between;
mod cell;
mod cell_name;
mod compare;
mod count;
mod difference;
mod figures;
mod index;
mod lap_set;
mod overall;
mod plain;
mod rank;
mod rate;
mod table;
mod tabulate;
#[cfg(test)]
mod testing;
mod two_way;
mod unlike_work;
mod values;
mod verdict;
mod view;
mod without;

pub use apart::Apart;
pub use ask::{Ask, Direction};
pub use assumption::{Assumptions, BetweenByMeasure};
pub use between::{Between, KnownBy, between_by_measure, between_sessions};
pub use cell::{Allowances, Basis, Cell, LOOK_ALPHA};
pub use cell_name::CellName;
pub use compare::{compare, views};
pub use count::Counts;
pub use difference::{Difference, Ground, Needed, across_rigs, within_session};
pub use figures::{AssumedSpread, Figures, OfSession, PlainFigures};
pub use index::{Entered, Missing, Moved, NoIndex, Overall, OverallRow, Weighing};
pub use overall::{between, in_common, overall};
pub use plain::Plain;
pub use rank::{RankRange, RankedApart, ranks, told_apart};
pub use rate::{OfPeak, Rate};
pub use table::Table;
pub use tabulate::{is_minor, tables};
pub use two_way::{Gain, TwoWay, two_way};
pub use verdict::{LEAST_LAPS, Refusal, Verdict, verdict};
pub use view::{Against, Group, HeldConstant, Row, WorkloadView};
pub(crate) use without::without;
