//! A small library to draw with: shapes and words at their places, written as SVG or PNG.
//!
//! It knows scales, axes, text that is measured by the font it ships, and where names have room. It does not know
//! what it draws. A [`Drawing`] is made of numbers and is tested as numbers; [`Drawing::svg`] and
//! [`Drawing::png`] write it down, light or dark.
//!
//! ```
//! use honest_lap_draw::{Drawing, Look, Scale, Type, axis};
//!
//! let mut drawing = Drawing::new(480.0, "Tide at the pier", "High water is at six.");
//! let scale = Scale { values: (0.0, 12.0), places: (40.0, 440.0), log: false };
//! axis::across(&mut drawing, &scale, (20.0, 120.0), |hours| format!("{hours} h"));
//! drawing.text((scale.place(6.0), 70.0), Type::small(13.0), "high water");
//! drawing.height = 150.0;
//! assert!(drawing.svg(Look::Light).starts_with("<svg"));
//! ```

pub mod axis;
mod drawing;
mod face;
mod lanes;
mod overlap;
mod paint;
mod place;
mod raster;
mod scale;
mod svg;

pub use drawing::{Anchor, Drawing, Item, MARGIN, Shape, Stroke, Type};
pub use face::font_faces;
pub use lanes::lanes;
pub use paint::{Look, Paint, curve, paints, word_styles};
pub use place::{Area, places};
pub use raster::RasterError;
pub use scale::{Scale, ticks};
