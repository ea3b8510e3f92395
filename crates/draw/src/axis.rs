//! Axes: round values along them, as many as have room for their words.

use crate::drawing::{Anchor, Drawing, Stroke, Type};
use crate::paint::Paint;
use crate::scale::{Scale, ticks};

/// The size of an axis's words.
pub const SIZE: f64 = 12.0;

/// The room kept between the words of neighbours.
const APART: f64 = 12.0;

/// Draws the grid and the words of a horizontal axis that ends at `top` and `bottom`.
///
/// As many values are marked as have room for their words.
pub fn across(
    drawing: &mut Drawing,
    scale: &Scale,
    span: (f64, f64),
    words: impl Fn(f64) -> String,
) {
    let (from, to) = (scale.values.0.min(scale.values.1), scale.values.0.max(scale.values.1));
    let all: Vec<Vec<f64>> = (2..=10).rev().map(|most| ticks(from, to, scale.log, most)).collect();
    marked(drawing, scale, span, &all, words);
}

/// Draws as [`across`] does, marked at these values, where they have room.
pub fn across_at(
    drawing: &mut Drawing,
    scale: &Scale,
    span: (f64, f64),
    values: Vec<f64>,
    words: impl Fn(f64) -> String,
) {
    marked(drawing, scale, span, &[values], words);
}

/// Draws as [`across`] does, of times: marked where a unit of time or ten of them begin.
pub fn across_times(
    drawing: &mut Drawing,
    scale: &Scale,
    span: (f64, f64),
    words: impl Fn(f64) -> String,
) {
    let below_minutes = (-9..=1).map(|power| 10f64.powi(power));
    let above = (0..9).map(|power| 3600.0 * 10f64.powi(power));
    let within = |value: &f64| (scale.values.0..=scale.values.1).contains(value);
    let all = below_minutes.chain([60.0, 600.0]).chain(above).filter(within).collect();
    marked(drawing, scale, span, &[all], words);
}

/// Draws the first of `choices` whose words have room; of the last of them, only every so many.
fn marked(
    drawing: &mut Drawing,
    scale: &Scale,
    (top, bottom): (f64, f64),
    choices: &[Vec<f64>],
    words: impl Fn(f64) -> String,
) {
    type Marks = Vec<(f64, String)>;
    let set = Type::small(SIZE).anchored(Anchor::Middle);
    let fits = |marks: &Marks| {
        let gap = |pair: &[(f64, String)]| {
            let half = |(_, words): &(f64, String)| set.width(words) / 2.0;
            (pair[1].0 - pair[0].0).abs() - half(&pair[0]) - half(&pair[1])
        };
        marks.windows(2).all(|pair| gap(pair) >= APART)
    };
    let of = |values: &[f64], every: usize| -> Marks {
        let some = values.iter().step_by(every);
        some.map(|&value| (scale.place(value), words(value))).collect()
    };
    let whole = choices.iter().map(|values| of(values, 1));
    let fewest = choices.last().map_or(&[][..], Vec::as_slice);
    let thinned = (2..=fewest.len().max(2)).map(|every| of(fewest, every));
    for (x, words) in whole.chain(thinned).find(fits).unwrap_or_default() {
        drawing.line((x, top), (x, bottom), Stroke::line(Paint::Mist, 1.0));
        let half = set.width(&words) / 2.0;
        if x - half > 2.0 && x + half < drawing.width - 2.0 {
            drawing.text((x, bottom + SIZE + 6.0), set, &words);
        }
    }
}

/// Draws the grid and the words of a vertical axis that reaches from `left` to `right`.
pub fn upward(
    drawing: &mut Drawing,
    scale: &Scale,
    (left, right): (f64, f64),
    words: impl Fn(f64) -> String,
) {
    let set = Type::small(SIZE).anchored(Anchor::End);
    let most = ((scale.places.0 - scale.places.1).abs() / (2.0 * SIZE)).floor().clamp(1.0, 14.0);
    for value in ticks(scale.values.0, scale.values.1, scale.log, most as usize) {
        let y = scale.place(value);
        drawing.line((left, y), (right, y), Stroke::line(Paint::Mist, 1.0));
        drawing.text((left - 7.0, y + SIZE / 3.0), set, &words(value));
    }
}

/// Returns a round value as an axis has it: all of its digits, and none of what adding up left behind.
pub fn number(value: f64) -> String {
    if value == 0.0 || !value.is_finite() {
        return "0".to_owned();
    }
    let digits = (5.0 - value.abs().log10().floor()).clamp(0.0, 12.0) as usize;
    let text = format!("{value:.digits$}");
    match text.contains('.') {
        true => text.trim_end_matches('0').trim_end_matches('.').to_owned(),
        false => text,
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::drawing::Item;

    fn words(drawing: &Drawing) -> Vec<&str> {
        fn text(item: &Item) -> Option<&str> {
            match item {
                Item::Text { words, .. } => Some(words),
                _ => None,
            }
        }
        drawing.items.iter().filter_map(text).collect()
    }

    #[test]
    fn as_many_values_are_marked_as_have_room() {
        let mut wide = Drawing::new(1280.0, "", "");
        let scale = Scale { values: (0.0, 100.0), places: (100.0, 1100.0), log: false };
        across(&mut wide, &scale, (0.0, 10.0), |value| format!("{} µs", number(value)));
        assert_eq!(words(&wide).len(), 11);
        let mut narrow = Drawing::new(300.0, "", "");
        let scale = Scale { places: (100.0, 220.0), ..scale };
        across(&mut narrow, &scale, (0.0, 10.0), |value| format!("{value} microseconds"));
        assert!((1..=2).contains(&words(&narrow).len()), "{:?}", words(&narrow));
    }

    #[test]
    fn values_show_their_own_digits() {
        assert_eq!(
            [0.1 + 0.2, 2.5, 1e6, 0.00002].map(number),
            ["0.3", "2.5", "1000000", "0.00002"]
        );
    }
}
