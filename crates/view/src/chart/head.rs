//! What stands above and below every figure: its title, how it is read, its footnotes.

use honest_lap_draw::Paint;
use honest_lap_draw::{Drawing, MARGIN, Type};

/// Draws the title, the answer and how the figure is read, from the top; returns where that ends.
pub(super) fn answered(drawing: &mut Drawing, answer: &[String], words: &[String]) -> f64 {
    let y = titled(drawing);
    let y = lines(drawing, answer, 14.0, Paint::Ink, y + 4.0);
    lines(drawing, words, 13.0, Paint::Grey, y + 4.0)
}

/// Draws the title and how the figure is read, from the top; returns where that ends.
pub(super) fn head(drawing: &mut Drawing, words: &[String]) -> f64 {
    answered(drawing, &[], words)
}

fn titled(drawing: &mut Drawing) -> f64 {
    let room = drawing.width - 2.0 * MARGIN;
    let title = Type::name(if drawing.width < 700.0 { 18.0 } else { 22.0 });
    let mut y = 16.0;
    for line in title.wrapped(&drawing.title.clone(), room) {
        y += title.size * 1.25;
        drawing.text((MARGIN, y - title.size * 0.25), title, &line);
    }
    y
}

/// Draws each of `words` as lines of its own below `y`; returns where they end.
pub(super) fn lines(
    drawing: &mut Drawing,
    words: &[String],
    size: f64,
    fill: Paint,
    mut y: f64,
) -> f64 {
    let set = Type { fill, ..Type::small(size) };
    for words in words {
        for line in set.wrapped(words, drawing.width - 2.0 * MARGIN) {
            y += size * 1.4;
            drawing.text((MARGIN, y - size * 0.3), set, &line);
        }
    }
    y
}
