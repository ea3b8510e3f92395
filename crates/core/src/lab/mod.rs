//! The lab: all that a study has on record, as the rest of core wants it.

mod change;
mod day;
mod energy;
mod facts;
mod power_by;
mod records;
mod sides;
mod traits;

pub(crate) use change::differences;
pub use change::{AFTER, BEFORE, Changed, What, changes};
pub use day::{Began, DAY, days};
pub use facts::{AllFacts, LabSession, LapFacts};
pub use power_by::{PowerBy, ToldBy};
pub use records::{Lab, Records, load_rules};
pub use sides::{OnSide, Sides, SidesError};
pub use traits::{CellTraits, INPUT, Traits, Unlike, cell_traits};
