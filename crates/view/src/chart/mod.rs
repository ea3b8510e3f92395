//! Charts: what each figure shows, as plain data, and where that is drawn.
//!
//! Nothing here reads records: `figure` makes the data, and `honest-lap-draw` knows shapes, axes and words.

mod bars;
mod course;
mod head;
mod laps;
mod loads;
mod passes;
#[cfg(test)]
mod pixels;
mod ratios;
mod rows;
mod sweep;
mod tail;
mod worth;

pub use bars::{Bar, BarsFigure, bars};
pub use course::{Beside, CourseFigure, CoursePanel, Level, course};
pub use laps::{Came, LapPoint, LapsFigure, LapsPanel, Meanwhile, laps};
pub use loads::{LoadLane, LoadTried, LoadsFigure, loads};
pub use passes::{PassPanel, PassesFigure, SLICES, Slice, passes};
pub use ratios::{Ratio, RatiosFigure, ratios};
pub use rows::Tone;
pub use sweep::{SweepCurve, SweepFigure, Swept, sweep};
pub use tail::{POINTS, TailCurve, TailFigure, tail};
pub use worth::{Stands, Takes, Worth, WorthFigure, worth};
