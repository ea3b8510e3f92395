//! Figures: geometry that is worked out and tested as numbers, then written down as SVG.
//!
//! A figure comes from a plain view model and becomes a [`Drawing`]: shapes and words at their places, whatever
//! the look. That is written down as SVG, light or dark, or drawn as PNG with the font that ships with the tool.

mod axis;
mod bars;
mod course;
mod drawing;
mod face;
mod head;
mod lanes;
mod laps;
mod loads;
mod paint;
mod passes;
#[cfg(test)]
mod pixels;
mod place;
mod raster;
mod ratios;
mod rows;
mod scale;
mod svg;
mod sweep;
mod tail;
mod worth;

pub use bars::{Bar, BarsFigure, bars};
pub use course::{Beside, CourseFigure, CoursePanel, Level, course};
pub use drawing::Drawing;
pub(crate) use face::FONTS;
pub use laps::{Came, LapPoint, LapsFigure, LapsPanel, Meanwhile, laps};
pub use loads::{LoadLane, LoadTried, LoadsFigure, loads};
pub use paint::{Look, paints, word_styles};
pub use passes::{PassPanel, PassesFigure, SLICES, Slice, passes};
pub use raster::RasterError;
pub use ratios::{Ratio, RatiosFigure, ratios};
pub use rows::Tone;
pub use scale::{Scale, ticks};
pub use sweep::{SweepCurve, SweepFigure, Swept, sweep};
pub use tail::{POINTS, TailCurve, TailFigure, tail};
pub use worth::{Stands, Takes, Worth, WorthFigure, worth};
