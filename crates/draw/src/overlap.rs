//! Words that lie on one another or leave the frame, found by their pixels.

use crate::drawing::{Drawing, Item};
use crate::raster::outlines;
use std::collections::HashMap;
use tiny_skia::{FillRule, Pixmap, Transform};

/// How much ink a pixel must have to be part of a letter.
const INK: u8 = 60;

impl Drawing {
    /// Draws the pixels of every text and says which meet, or leave the frame: for tests of figures.
    pub fn word_faults(&self) -> Vec<String> {
        let text = |item: &Item| match item {
            Item::Text { at, set, words } => Some((*at, *set, words.clone())),
            _ => None,
        };
        let texts: Vec<_> = self.items.iter().filter_map(text).collect();
        let mut owner: HashMap<(i32, i32), usize> = HashMap::new();
        let mut faults = Vec::new();
        let black = tiny_skia::Paint { anti_alias: true, ..tiny_skia::Paint::default() };
        for (number, (at, set, words)) in texts.iter().enumerate() {
            let Some(path) = outlines(*at, set, words) else { continue };
            let area = path.bounds();
            let (left, top) = (area.left().floor(), area.top().floor());
            let (wide, high) = (area.width().ceil() as u32 + 2, area.height().ceil() as u32 + 2);
            let mut picture = Pixmap::new(wide, high).expect("a text has a size");
            let place = Transform::from_translate(-left, -top);
            picture.fill_path(&path, &black, FillRule::Winding, place, None);
            let mut met = None;
            for (at, pixel) in picture.pixels().iter().enumerate() {
                if pixel.alpha() < INK {
                    continue;
                }
                let x = left as i32 + (at as u32 % wide) as i32;
                let y = top as i32 + (at as u32 / wide) as i32;
                if x < 0 || y < 0 || f64::from(x) >= self.width || f64::from(y) >= self.height {
                    faults.push(format!("`{words}` leaves the frame at {x}, {y}"));
                    break;
                }
                if let Some(other) = owner.insert((x, y), number).filter(|other| *other != number) {
                    met = Some(other);
                }
            }
            faults.extend(met.map(|other| format!("`{words}` lies on `{}`", texts[other].2)));
        }
        faults
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::drawing::Type;

    #[test]
    fn words_that_meet_or_leave_the_frame_are_named() {
        let mut drawing = Drawing::new(200.0, "Tide", "");
        drawing.height = 100.0;
        let set = Type::small(13.0);
        drawing.text((20.0, 40.0), set, "ebb");
        drawing.text((120.0, 40.0), set, "flow");
        assert_eq!(drawing.word_faults(), Vec::<String>::new());
        drawing.text((22.0, 42.0), set, "slack");
        drawing.text((190.0, 80.0), set, "neap");
        let faults = drawing.word_faults();
        assert_eq!(faults.len(), 2, "{faults:?}");
        assert_eq!(faults[0], "`slack` lies on `ebb`");
        assert!(faults[1].starts_with("`neap` leaves the frame"), "{faults:?}");
    }
}
