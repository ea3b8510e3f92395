//! Every English word about results: shared ones here, those of findings in a folder of their own.

mod assumed;
mod claim;
mod common;
mod difference;
pub mod finding;
mod limit;
mod list;
mod part;
mod published;
mod verdict;

pub use assumed::assumed_spread;
pub use claim::{caution_words, unsaid_words};
pub use common::{
    between_sessions, capped_words, counts_words, display_number, display_read, entry_words,
    failed_words, lap_of, lap_time, left_words, measured, percent_of, reading_words, series_of,
    time_read, verdict_role, why_not,
};
pub use difference::{
    apart_interval, apart_words, ground, ground_name, interval_words, speed, speed_interval,
    time_saved,
};
pub use limit::{limit_words, limited_words, shows_words};
pub use list::{count, listed, listed_in_short, needed_words, some_of};
pub use part::{part_words, peak_words};
pub use published::ours_words;
pub use verdict::{OF_GAIN, OF_INDEX, no_index_words, refusal_words, verdict_of, verdict_words};
