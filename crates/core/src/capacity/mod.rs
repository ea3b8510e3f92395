//! Capacity: the largest load that holds, found by trying loads and never by one lucky lap.
//!
//! Loads are counted from 0 in the order of the workload's steps. Near its edge a program may hold or break
//! by luck, so an edge is where half of the laps would hold, and has an interval.

mod edge;
mod laps;
mod out_of_order;
mod rule;
mod search;
mod search_lap;
mod step;

pub use edge::{Edge, edge};
pub use laps::{
    ByHand, CAPACITY, Searched, as_values, came_of, is_failure, measure, readings, searches, tried,
};
pub use out_of_order::out_of_order;
pub use search::{Search, next_load};
pub use search_lap::{SearchLap, Share, shares};
pub use step::step_name;
