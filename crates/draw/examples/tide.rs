//! Draws the picture of the README: `cargo run -p honest-lap-draw --example tide -- tide.png`.

use honest_lap_draw::{Anchor, Drawing, Look, MARGIN, Paint, Scale, Shape, Stroke, Type, axis};
use std::error::Error;

/// Height of the water at the pier, in metres, every hour from midnight on.
const TIDE: [f64; 13] = [1.2, 1.9, 2.7, 3.4, 4.0, 4.3, 4.2, 3.7, 3.0, 2.2, 1.5, 1.1, 1.0];

fn main() -> Result<(), Box<dyn Error>> {
    let path = std::env::args().nth(1).ok_or("name the file to write, such as tide.png")?;
    std::fs::write(path, tide().png(Look::Light, 2.0)?)?;
    Ok(())
}

fn tide() -> Drawing {
    let mut drawing =
        Drawing::new(640.0, "Tide at the pier", "The water is highest at five, with 4.3 m.");
    drawing.height = 300.0;
    drawing.text((MARGIN, 36.0), Type::name(20.0), "Tide at the pier");
    drawing.text((MARGIN, 58.0), Type::small(13.0), "metres above the lowest water, by the hour");
    let (top, bottom) = (80.0, 260.0);
    let hours = Scale { values: (0.0, 12.0), places: (70.0, 610.0), log: false };
    let metres = Scale { values: (0.0, 5.0), places: (bottom, top), log: false };
    axis::upward(&mut drawing, &metres, (70.0, 610.0), |value| {
        format!("{} m", axis::number(value))
    });
    axis::across(&mut drawing, &hours, (top, bottom), |value| {
        format!("{}:00", axis::number(value))
    });
    let spot = |(hour, height): (usize, &f64)| (hours.place(hour as f64), metres.place(*height));
    let points: Vec<(f64, f64)> = TIDE.iter().enumerate().map(spot).collect();
    drawing.curve(&points, Stroke::line(Paint::Lake, 2.0));
    for point in &points {
        drawing.mark(*point, Shape::disc(3.5), Paint::Lake, false);
    }
    let (x, y) = points[5];
    let set = Type::small(13.0).anchored(Anchor::Middle);
    drawing.text((x, y - 10.0), set, "high water, 4.3 m");
    drawing
}

#[cfg(test)]
mod tests {
    #[test]
    fn no_word_lies_on_another() {
        assert_eq!(super::tide().word_faults(), Vec::<String>::new());
    }
}
