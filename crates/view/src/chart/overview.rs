//! The overview: a grid of ratios, each with a sign of its verdict and a bar to the side on which it lies.

use super::head::{answered, lines};
use super::rows::Tone;
use honest_lap_draw::{Anchor, Drawing, MARGIN, Paint, Scale, Stroke, Type};
use std::slice;

/// A comparison at a glance.
#[derive(Clone, Debug, PartialEq)]
pub struct OverviewFigure {
    pub title: String,
    /// What it shows, in a sentence.
    pub finding: String,
    /// How it is read.
    pub how: String,
    pub columns: Vec<String>,
    pub rows: Vec<OverviewRow>,
    /// Whether title and finding are not drawn, since they stand around it.
    pub bare: bool,
}

/// One line of the grid.
#[derive(Clone, Debug, PartialEq)]
pub struct OverviewRow {
    pub name: String,
    /// Whether it sums up the others.
    pub whole: bool,
    /// A cell for every column.
    pub cells: Vec<Option<OverviewCell>>,
}

/// One cell of the grid.
#[derive(Clone, Debug, PartialEq)]
pub struct OverviewCell {
    /// Its figure, or why there is none.
    pub shown: String,
    /// The ratio; above 1 is better.
    pub ratio: Option<f64>,
    pub tone: Tone,
    /// The sign of its verdict, as it is printed; a blank where there is none.
    pub sign: &'static str,
    /// Whether a doubt concerns it.
    pub doubted: bool,
}

/// The least width of a cell.
const CELL: f64 = 86.0;
const NARROW_CELL: f64 = 62.0;
const ROW: f64 = 30.0;
/// The most that a row's name takes beside its cells.
const NAME: f64 = 260.0;
/// Figures narrower than this have names above their cells.
const NARROW: f64 = 700.0;
/// A bar that fills its half of a cell is so many times better, or worse.
const FULL: f64 = 4.0;

/// Returns the figure, drawn `width` wide; of more columns than have room it is turned, or goes on below.
pub fn overview(figure: &OverviewFigure, width: f64) -> Drawing {
    let mut drawing = Drawing::new(width, &figure.title, &figure.finding);
    let (finding, how) = (slice::from_ref(&figure.finding), slice::from_ref(&figure.how));
    // On a page its heading and the conclusion stand above it already.
    let mut y = match figure.bare {
        true => 0.0,
        false => answered(&mut drawing, finding, &[]) + 10.0,
    };
    let grid = Grid::of(figure, width);
    let turned;
    let shown =
        match grid.room(width) < figure.columns.len() && grid.room(width) >= figure.rows.len() {
            true => {
                turned = turned_over(figure);
                &turned
            }
            false => figure,
        };
    let grid = Grid::of(shown, width);
    let at_once = grid.room(width).max(1);
    for from in (0..shown.columns.len()).step_by(at_once) {
        let to = (from + at_once).min(shown.columns.len());
        y = grid.draw(&mut drawing, shown, (from, to), y) + 14.0;
    }
    let end = lines(&mut drawing, how, 12.0, Paint::Grey, y);
    drawing.height = end + 14.0;
    drawing
}

/// Returns the figure with its rows and columns exchanged.
fn turned_over(figure: &OverviewFigure) -> OverviewFigure {
    let row = |(at, name): (usize, &String)| OverviewRow {
        name: name.clone(),
        whole: false,
        cells: figure.rows.iter().map(|row| row.cells[at].clone()).collect(),
    };
    OverviewFigure {
        columns: figure.rows.iter().map(|row| row.name.clone()).collect(),
        rows: figure.columns.iter().enumerate().map(row).collect(),
        ..figure.clone()
    }
}

/// The measures of a grid.
struct Grid {
    /// Where cells begin.
    left: f64,
    cell: f64,
    /// Whether names stand above their cells.
    above: bool,
    /// The height of the headings of its columns.
    heading: f64,
}

const HEADING: Type = Type { size: 13.0, bold: true, fill: Paint::Ink, anchor: Anchor::Middle };
const WORDS: Type = Type { size: 13.0, bold: false, fill: Paint::Ink, anchor: Anchor::Start };

impl Grid {
    fn of(figure: &OverviewFigure, width: f64) -> Self {
        let above = width < NARROW;
        let bold = Type { bold: true, ..WORDS };
        let widest = figure.rows.iter().map(|row| bold.width(&row.name)).fold(0.0, f64::max);
        let left = if above { MARGIN / 2.0 } else { MARGIN + widest.min(NAME) + 12.0 };
        let least = if above { NARROW_CELL } else { CELL };
        let right = width - if above { MARGIN / 2.0 } else { MARGIN };
        let room = ((right - left) / least).floor().max(1.0);
        let columns = (figure.columns.len() as f64).min(room).max(1.0);
        // Cells so wide that nobody follows a row are of no use.
        let cell = ((right - left) / columns).min(170.0);
        let lines = figure.columns.iter().map(|name| HEADING.wrapped(name, cell - 6.0).len());
        let heading = lines.max().unwrap_or(1).min(MOST_LINES) as f64 * HEADING_LINE + 6.0;
        Self { left, cell, above, heading }
    }

    /// Returns how many columns have room.
    fn room(&self, width: f64) -> usize {
        let least = if self.above { NARROW_CELL } else { CELL };
        let right = width - if self.above { MARGIN / 2.0 } else { MARGIN };
        (((right - self.left) / least) + 1e-9).floor().max(1.0) as usize
    }

    /// Draws the columns `from` to `to` below `y`; returns where that ends.
    fn draw(
        &self,
        drawing: &mut Drawing,
        figure: &OverviewFigure,
        (from, to): (usize, usize),
        y: f64,
    ) -> f64 {
        for (place, name) in figure.columns[from..to].iter().enumerate() {
            let x = self.left + (place as f64 + 0.5) * self.cell;
            let wrapped = HEADING.wrapped(name, self.cell - 6.0);
            let lines = &wrapped[..wrapped.len().min(MOST_LINES)];
            for (line, words) in lines.iter().enumerate() {
                let below = (lines.len() - line) as f64 - 1.0;
                let base = y + self.heading - 8.0 - below * HEADING_LINE;
                drawing.text((x, base), HEADING, &HEADING.fitted(words, self.cell - 6.0));
            }
        }
        let right = self.left + (to - from) as f64 * self.cell;
        let mut y = y + self.heading;
        for row in &figure.rows {
            let start = if self.above { MARGIN / 2.0 } else { MARGIN };
            drawing.line((start, y), (right, y), Stroke::line(Paint::Mist, 1.0));
            let set = Type { bold: row.whole, ..WORDS };
            if self.above {
                let name = set.fitted(&row.name, drawing.width - MARGIN);
                drawing.text((start, y + 16.0), set, &name);
                y += 18.0;
            } else {
                let most = self.left - 12.0 - start;
                drawing.text((start, y + ROW / 2.0 + 2.6), set, &set.fitted(&row.name, most));
            }
            for (place, cell) in row.cells[from..to].iter().enumerate() {
                let x = self.left + place as f64 * self.cell;
                self.cell(drawing, cell.as_ref(), (x, y), row.whole);
            }
            y += ROW;
        }
        y
    }

    fn cell(
        &self,
        drawing: &mut Drawing,
        cell: Option<&OverviewCell>,
        (x, y): (f64, f64),
        whole: bool,
    ) {
        let size = if self.above { 12.0 } else { 13.0 };
        let set = Type { size, bold: whole, ..WORDS };
        let middle = x + self.cell / 2.0;
        let base = y + ROW / 2.0 + 4.6 - 2.0;
        let Some(cell) = cell else {
            let set = Type { fill: Paint::Grey, ..set }.anchored(Anchor::Middle);
            drawing.text((middle, base), set, "–");
            return;
        };
        let hue = cell.tone.paint();
        if let Some(ratio) = cell.ratio {
            let half = self.cell / 2.0 - 5.0;
            let scale = Scale {
                values: (1.0 / FULL, FULL),
                places: (middle - half, middle + half),
                log: true,
            };
            let end = scale.place(ratio);
            let (from, to) = (middle.min(end), middle.max(end));
            drawing.rect(from, y + ROW - 7.0, (to - from).max(1.0), 3.0, hue);
            let line = Stroke::line(Paint::Grey, 1.0);
            drawing.line((middle, y + ROW - 9.0), (middle, y + ROW - 2.0), line);
        }
        let quiet = cell.tone == Tone::Baseline;
        let set = Type { fill: if quiet { Paint::Grey } else { Paint::Ink }, ..set };
        let doubt = if cell.doubted { "?" } else { "" };
        let has_sign = !cell.sign.trim().is_empty();
        let beside = if has_sign { SIGN } else { 0.0 } + set.width(doubt);
        let words = set.fitted(&cell.shown, self.cell - 4.0 - beside);
        let start = middle - (set.width(&words) + beside) / 2.0;
        drawing.text((start, base), set, &words);
        let mut at = start + set.width(&words);
        if has_sign {
            sign(drawing, cell.sign, (at + SIGN / 2.0 + 1.0, base - 4.6), hue);
            at += SIGN;
        }
        let set = Type { fill: Paint::BrassInk, bold: true, ..set };
        drawing.text((at, base), set, doubt);
    }
}

/// Lines of a column's heading, and the height of one.
const MOST_LINES: usize = 3;
const HEADING_LINE: f64 = 16.0;
/// The room of a sign.
const SIGN: f64 = 14.0;

/// Draws the sign of a verdict around a place; each has a shape of its own.
fn sign(drawing: &mut Drawing, sign: &str, (x, y): (f64, f64), hue: Paint) {
    let r = 4.2;
    let up = [(x - r, y + r * 0.8), (x + r, y + r * 0.8), (x, y - r * 0.8)];
    let down = [(x - r, y - r * 0.8), (x + r, y - r * 0.8), (x, y + r * 0.8)];
    let outline = |drawing: &mut Drawing, corners: [(f64, f64); 3]| {
        let closed = [corners[0], corners[1], corners[2], corners[0]];
        drawing.curve(&closed, Stroke::line(hue, 1.4));
    };
    match sign {
        "▲" => drawing.area(&up, hue, 1.0),
        "▼" => drawing.area(&down, hue, 1.0),
        "△" => outline(drawing, up),
        "▽" => outline(drawing, down),
        "=" => {
            for dy in [-1.8, 1.8] {
                drawing.line((x - r, y + dy), (x + r, y + dy), Stroke::line(hue, 1.6));
            }
        }
        _ => {
            let wave = |step: i32| {
                let along = f64::from(step) / 8.0;
                (x - r + 2.0 * r * along, y - 1.8 * (along * std::f64::consts::TAU).sin())
            };
            drawing.curve(&(0..=8).map(wave).collect::<Vec<_>>(), Stroke::line(hue, 1.6));
        }
    }
}

/// Returns a figure of made-up ratios, for tests.
#[cfg(test)]
pub(super) fn example(rigs: &[String], rows: usize) -> OverviewFigure {
    let cell = |row: usize, at: usize| {
        let signs = ["▲", "▼", "=", "~", "△", "▽"];
        let tones = [Tone::Better, Tone::Worse, Tone::Same, Tone::Open, Tone::Better, Tone::Worse];
        let pick = (row + at) % signs.len();
        match (row + 2 * at) % 7 {
            0 => None,
            _ if at == 0 => Some(OverviewCell {
                shown: "1.24 s".to_owned(),
                ratio: None,
                tone: Tone::Baseline,
                sign: " ",
                doubted: row == 1,
            }),
            step => Some(OverviewCell {
                shown: format!("{:.2}×", 0.4 * step as f64),
                ratio: Some(0.4 * step as f64),
                tone: tones[pick],
                sign: signs[pick],
                doubted: (row + at).is_multiple_of(3),
            }),
        }
    };
    OverviewFigure {
        title: "A new machine for the dome".into(),
        finding: "kestrel is ahead of heron, 1.18× [1.17, 1.18].".into(),
        how: "Against heron: ▲ better, ▼ worse. Bars lie to the right where it is better.".into(),
        columns: rigs.to_vec(),
        bare: false,
        rows: (0..rows)
            .map(|row| OverviewRow {
                name: format!("workload-{row} threads={row}"),
                whole: row == 0,
                cells: (0..rigs.len()).map(|at| cell(row, at)).collect(),
            })
            .collect(),
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use honest_lap_draw::Item;

    fn words(drawing: &Drawing) -> Vec<&str> {
        drawing
            .items
            .iter()
            .filter_map(|item| match item {
                Item::Text { words, .. } => Some(words.as_str()),
                _ => None,
            })
            .collect()
    }

    fn rigs(count: usize) -> Vec<String> {
        (0..count).map(|rig| format!("rig-{rig:02}")).collect()
    }

    #[test]
    fn every_rig_and_workload_is_there_however_many() {
        for (count, rows, width) in
            [(5, 10, 1132.0), (26, 4, 1132.0), (26, 40, 1132.0), (5, 10, 390.0)]
        {
            let drawing = overview(&example(&rigs(count), rows), width);
            let words = words(&drawing);
            for rig in rigs(count) {
                assert!(words.contains(&rig.as_str()), "{rig} of {count}, {rows} rows at {width}");
            }
            let last = format!("workload-{} threads={}", rows - 1, rows - 1);
            let first_line = last.split(' ').next().unwrap_or_default().to_owned();
            assert!(words.iter().any(|word| word.starts_with(&first_line)), "{last} at {width}");
        }
    }

    #[test]
    fn a_bar_lies_on_the_side_of_its_ratio() {
        let cell = |ratio| OverviewCell {
            shown: "×".into(),
            ratio: Some(ratio),
            tone: Tone::Better,
            sign: "▲",
            doubted: false,
        };
        let bar = |ratio: f64| {
            let row =
                OverviewRow { name: "w".into(), whole: false, cells: vec![Some(cell(ratio))] };
            let figure = OverviewFigure { rows: vec![row], ..example(&rigs(1), 1) };
            let drawing = overview(&figure, 800.0);
            let of = |item: &Item| match item {
                Item::Area { points, .. } if points.len() == 4 => Some((points[0].0, points[1].0)),
                _ => None,
            };
            drawing.items.iter().find_map(of).expect("a bar")
        };
        let (better, worse) = (bar(2.0), bar(0.5));
        assert!((better.0 - worse.1).abs() < 1e-9, "both begin at 1: {better:?}, {worse:?}");
        assert!(((better.1 - better.0) - (worse.1 - worse.0)).abs() < 1e-9, "equal ratios");
        assert!(bar(100.0).1 - bar(100.0).0 < 90.0, "it stays in its cell");
    }
}
