//! Every English word about results: shared ones here, those of findings in a folder of their own.

mod assumed;
mod claim;
mod common;
pub mod finding;
mod limit;
mod part;
mod published;
mod verdict;

pub use assumed::assumed_spread;
pub use claim::{caution_words, unsaid_words};
pub use common::{
    apart_interval, apart_words, between_sessions, capped_words, count, counts_words,
    display_number, display_read, entry_words, failed_words, ground, ground_name, interval_words,
    lap_of, lap_time, left_words, listed, listed_in_short, measured, needed_words, percent_of,
    reading_words, series_of, some_of, speed, speed_interval, time_read, time_saved, verdict_role,
    why_not,
};
pub use limit::{limit_words, limited_words, shows_words};
pub use part::{part_words, peak_words};
pub use published::ours_words;
pub use verdict::{OF_GAIN, OF_INDEX, no_index_words, refusal_words, verdict_of, verdict_words};
