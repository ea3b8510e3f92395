//! The lab: all that a study has on record, as the rest of core wants it.

mod beside;
mod change;
mod choice;
mod chosen;
mod condition;
mod day;
mod derived;
mod energy;
mod facts;
mod limit;
mod power_by;
mod records;
mod settings;
mod sides;
mod traits;
mod unlike;

pub(crate) use beside::beside;
pub use beside::{AllBeside, CellBeside, CellLimited, ColumnMean, JOULES, WATTS, most_limited};
pub(crate) use change::differences;
pub use change::{AFTER, BEFORE, Beside as BesideChange, Changed, What, changes};
pub use choice::{Choice, VariantChoice};
pub use chosen::ChoiceError;
pub use day::{Began, DAY, days};
pub use derived::{conditions_of, is_derived, known_conditions};
pub(crate) use facts::threads_of;
pub use facts::{AllFacts, LabSession, LapFacts};
pub(crate) use limit::LEAST_SWAPPED;
pub use limit::{Limit, Limited, Shows, limit};
pub use power_by::{PowerBy, ToldBy};
pub use records::{Lab, Records, load_rules};
pub use settings::{AllModes, ModeValues, SessionModes};
pub use sides::{OnSide, Sides, SidesError};
pub use traits::{CellTraits, INPUT, Traits, cell_traits};
pub use unlike::Unlike;
