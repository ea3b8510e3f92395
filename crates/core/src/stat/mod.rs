//! Statistics: one family to a file, each formula with its shapes, units, errors and source.
//!
//! Times are compared on natural logs, because their noise is a matter of ratio: a lap is some
//! per cent off, not some milliseconds off.

mod additive;
mod count;
mod drift;
mod error;
mod holm;
mod index;
mod interval;
mod leave_out;
mod log;
mod need;
mod odd;
mod order;
mod quantile;
mod random;
mod ratio;
mod robust;
mod scatter;
mod student;
mod summary;

pub use additive::{Additive, Expected, Spot};
pub use count::equal_rates_p;
pub use drift::{Slope, Trend, continuity_z, may_change_by, slope, trend};
pub use error::StatError;
pub use holm::holm;
pub use index::{CellError, Part, index};
pub use interval::{Interval, MedianInterval, Ranged, median_interval, typical_interval};
pub use leave_out::{LeftOut, left_out, left_out_critical};
pub use log::logs;
pub use need::{LapsNeeded, laps_needed};
pub use odd::{LEAST_DEVIATION, ModifiedZ, modified_z, odd_among, odd_laps, odd_threshold};
pub use order::sorted;
pub use quantile::{median, quantile};
pub use random::SplitMix;
pub use ratio::{LogRatio, SameWithin, paired, same_within, welch};
pub use robust::{ShiftRatio, shift_ratio, trimmed_ratio};
pub use scatter::{Scatter, above_p, accusing, slope_p};
pub use student::{
    chi_squared_quantile, f_upper_tail, normal_quantile, normal_upper_tail, t_quantile,
    t_upper_tail,
};
pub use summary::{Summary, mean, standard_deviation, summary};
