//! Rows of a figure: a name, what is drawn, its figure and its verdict, in columns that fit their words.

use honest_lap_draw::MARGIN;
use honest_lap_draw::Paint;
use honest_lap_draw::{Anchor, Drawing, Type};

/// How something stands to what it is held against. Its words say so too.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub enum Tone {
    /// It is what others are held against; drawn hollow.
    Baseline,
    /// Shown to be better.
    Better,
    /// Shown to be worse.
    Worse,
    /// Shown to be the same.
    Same,
    /// Open: too close to call, or not to be judged.
    #[default]
    Open,
    /// It was measured by others; drawn hollow.
    Elsewhere,
}

impl Tone {
    pub(super) fn paint(self) -> Paint {
        match self {
            Self::Baseline => Paint::Ink,
            Self::Better => Paint::Moss,
            Self::Worse => Paint::Clay,
            Self::Same => Paint::Lake,
            Self::Open => Paint::Brass,
            Self::Elsewhere => Paint::Grey,
        }
    }
}

/// How a row's name is set.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum Weight {
    Bold,
    /// It is a part of the row above it.
    Plain,
}

/// Where the parts of rows stand.
pub(super) struct Columns {
    /// Where what is drawn begins and ends.
    pub(super) left: f64,
    pub(super) right: f64,
    /// Height of a row.
    pub(super) row: f64,
    name: f64,
    shown: f64,
    says: f64,
    /// Whether words stand above what is drawn, for want of width.
    above: bool,
}

/// Figures narrower than this have their words above what is drawn.
const NARROW: f64 = 700.0;
const NAME: Type = Type { size: 14.0, bold: true, fill: Paint::Ink, anchor: Anchor::End };
const WORDS: Type = Type { size: 13.0, bold: false, fill: Paint::Ink, anchor: Anchor::Start };
const GAP: f64 = 12.0;

impl Columns {
    /// Returns the columns for rows of these words, with so much room `beside` what is drawn.
    pub(super) fn of(rows: &[[&str; 3]], width: f64, beside: f64) -> Self {
        if width < NARROW {
            let room = width - 2.0 * MARGIN;
            let (left, right) = (MARGIN, width - MARGIN - beside);
            return Self {
                left,
                right,
                row: 62.0,
                name: room,
                shown: 0.0,
                says: room,
                above: true,
            };
        }
        let widest = |at: usize, set: Type| {
            rows.iter().map(|row| set.width(row[at])).fold(0.0, f64::max).ceil()
        };
        // Names have up to a third, verdicts a quarter: what is drawn keeps the rest.
        let name = widest(0, NAME).min(width / 3.0);
        let shown = widest(1, WORDS).min(width / 8.0);
        let says = widest(2, WORDS).min(width / 4.0);
        let left = MARGIN + name + GAP;
        let right = width - MARGIN - says - GAP - shown - GAP - beside - 6.0;
        Self { left, right, row: 32.0, name, shown, says, above: false }
    }

    /// Returns how far the middle of what is drawn is from the lower end of its row.
    pub(super) fn row_tail(&self) -> f64 {
        if self.above { 16.0 } else { self.row / 2.0 }
    }
}

/// Draws the words of a row whose middle is at `y`: its name, its figure, its verdict.
pub(super) fn label(
    drawing: &mut Drawing,
    columns: &Columns,
    y: f64,
    [name, shown, says]: [&str; 3],
    tone: Tone,
    weight: Weight,
) {
    let own = Type { bold: weight == Weight::Bold, ..NAME };
    let base = y + 4.8;
    let quiet =
        Type { fill: if tone == Tone::Baseline { Paint::Grey } else { Paint::Ink }, ..WORDS };
    if columns.above {
        let set = own.anchored(Anchor::Start);
        let figure = WORDS.anchored(Anchor::End);
        let right = drawing.width - MARGIN;
        let most = columns.name - figure.width(shown) - GAP;
        drawing.text((MARGIN, base - 37.0), set, &set.fitted(name, most));
        drawing.text((right, base - 37.0), figure, shown);
        drawing.text((MARGIN, base - 20.0), quiet, &quiet.fitted(says, columns.says));
        return;
    }
    drawing.text((columns.left - GAP, base), own, &own.fitted(name, columns.name));
    let says_at = drawing.width - MARGIN - columns.says;
    let shown_at = says_at - GAP;
    let figure = WORDS.anchored(Anchor::End);
    drawing.text((shown_at, base), figure, &figure.fitted(shown, columns.shown));
    drawing.text((says_at, base), quiet, &quiet.fitted(says, columns.says));
}
