//! Quantities as people write them: spans of time, sizes, shares, amounts of work, prices.
//!
//! Every reader is exact where the quantity is (nanoseconds and bytes never pass through a
//! floating-point number) and refuses what it cannot read rightly.

mod amount;
mod count;
mod date;
mod decimal;
mod error;
mod number;
mod prefix;
mod read_time;
mod share;
mod size;
mod span;
mod spelling;
mod temperature;
mod time;
mod written;

pub use amount::{Amount, parse_amount};
pub use count::display_count;
pub use date::Date;
pub use error::UnitError;
pub use number::{Decimals, ReadNumber, parse_clock, parse_number};
pub use prefix::suited;
pub use read_time::read_time;
pub use share::{display_share, parse_share};
pub use size::{display_size, parse_size};
pub use span::{display_span, parse_span};
pub(crate) use spelling::PREFIXES;
pub use spelling::{Dimension, Unit, seconds_in};
pub use temperature::parse_celsius;
pub use time::{Nanos, Stamp};
pub use written::{Written, is_cut_out, same_unit, unit_before, unit_behind, written};
