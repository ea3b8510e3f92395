//! Charts: what each figure shows, as plain data, and where that is drawn.
//!
//! Nothing here reads records: `figure` makes the data, and `honest-lap-draw` knows shapes, axes and words.

mod bars;
mod conditions;
mod head;
mod laps;
mod loads;
mod overview;
mod passes;
#[cfg(test)]
mod pixels;
mod rate_profile;
mod ratios;
mod rows;
mod sweep;
mod tail;
mod worth;

pub use bars::{Bar, BarsFigure, bars};
pub use conditions::{ConditionsFigure, CoreBand, PartSpan, conditions};
pub use laps::{LapLevel, LapPoint, LapState, LapsFigure, LapsPanel, Meanwhile, laps};
pub use loads::{LoadLane, LoadTried, LoadsFigure, loads};
pub use overview::{OverviewCell, OverviewFigure, OverviewRow, overview};
pub use passes::{PassPanel, PassesFigure, SLICES, Slice, passes};
pub use rate_profile::{Beside, Level, RateProfileFigure, RateProfilePanel, rate_profile};
pub use ratios::{Ratio, RatiosFigure, ratios};
pub use rows::Tone;
pub use sweep::{SweepCurve, SweepFigure, Swept, sweep};
pub use tail::{POINTS, TailCurve, TailFigure, tail};
pub use worth::{Stands, Takes, Worth, WorthFigure, worth};
