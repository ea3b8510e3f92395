//! Figures: geometry that is worked out and tested as numbers, then written down as SVG.
//!
//! A figure comes from a plain view model; a PNG is the SVG, drawn with the font that ships with
//! the tool.

mod palette;
mod passes;
mod raster;
mod scale;
mod svg;
mod tail;
mod worth;

pub use passes::{PassPanel, PassesFigure, SLICES, Slice, passes};
pub use raster::{RasterError, png};
pub use scale::{Scale, ticks};
pub use tail::{POINTS, TailCurve, TailFigure, tail};
pub use worth::{Stands, Worth, WorthFigure, worth};
