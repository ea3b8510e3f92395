//! Frame times over passes: one panel a pass, all on one scale.

use super::head::head;
use honest_lap_draw::MARGIN;
use honest_lap_draw::Paint;
use honest_lap_draw::Scale;
use honest_lap_draw::axis::{SIZE, across, number, upward};
use honest_lap_draw::{Anchor, Drawing, Stroke, Type};

/// A slice of a pass: the frames in one column of the figure, in milliseconds.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Slice {
    /// The shortest.
    pub least: f64,
    /// The longest.
    pub most: f64,
    /// Their mean.
    pub mean: f64,
}

/// A pass.
#[derive(Clone, Debug, PartialEq)]
pub struct PassPanel {
    /// Its rig: panels of one rig stand under one another.
    pub rig: String,
    /// Its name.
    pub name: String,
    /// What it comes to, in a few words.
    pub says: String,
    /// How long it took, in seconds.
    pub seconds: f64,
    /// Its frames, slice by slice of equal length.
    pub slices: Vec<Option<Slice>>,
    /// When frames stood out, in seconds.
    pub hitches: Vec<f64>,
    /// What its figures leave out, in seconds.
    pub cut: Vec<(f64, f64)>,
}

/// Passes of one workload.
#[derive(Clone, Debug, PartialEq)]
pub struct PassesFigure {
    /// The workload.
    pub title: String,
    /// What the figure shows, in a sentence.
    pub finding: String,
    /// The display's rate in Hz and the budget of a frame in milliseconds, where one is stated.
    pub display: Option<(f64, f64)>,
    /// The passes.
    pub panels: Vec<PassPanel>,
}

/// How many slices of a pass a figure can show.
pub const SLICES: usize = 560;

const WIDTH: f64 = 1280.0;
/// Room for the labels of the vertical axis, and on the other side for that of the budget.
const AXIS: f64 = 44.0;
const BUDGET: f64 = 56.0;
const HEAD: f64 = 78.0;
const FOOT: f64 = 56.0;
const GAP: f64 = 34.0;
/// Room above a panel for its name, and for the marks of its hitches.
const NAME: f64 = 30.0;
const LEAST_PANEL: f64 = 64.0;
const MOST_PANEL: f64 = 190.0;
/// Where the longest frame is this many times the budget or the median, equal ratios are equally far.
const LOG_FROM: f64 = 5.0;

/// Where everything is.
struct Layout {
    columns: Vec<Vec<usize>>,
    width: f64,
    panel: f64,
    height: f64,
}

/// Returns the columns of panels: two rigs stand side by side, otherwise all under one another.
fn layout(figure: &PassesFigure) -> Layout {
    let mut rigs: Vec<&str> = figure.panels.iter().map(|panel| panel.rig.as_str()).collect();
    rigs.dedup();
    let all = || 0..figure.panels.len();
    let columns: Vec<Vec<usize>> = match rigs.as_slice() {
        [one, other] if one != other => [one, other]
            .iter()
            .map(|rig| all().filter(|&at| figure.panels[at].rig == **rig).collect())
            .collect(),
        _ => vec![all().collect()],
    };
    let rows = columns.iter().map(Vec::len).max().unwrap_or(0).max(1) as f64;
    let room = 800.0 - HEAD - FOOT - rows * NAME;
    let panel = (room / rows).clamp(LEAST_PANEL, MOST_PANEL);
    let many = columns.len() as f64;
    let width = (WIDTH - 2.0 * MARGIN - GAP * (many - 1.0)) / many - AXIS - BUDGET;
    Layout { columns, width, panel, height: HEAD + FOOT + rows * (panel + NAME) }
}

/// Returns the vertical scale of all panels, in milliseconds.
fn scale(figure: &PassesFigure) -> ((f64, f64), bool) {
    let slices = || figure.panels.iter().flat_map(|panel| panel.slices.iter().flatten());
    let most = slices().map(|slice| slice.most).fold(0.0, f64::max);
    let least = slices().map(|slice| slice.least).fold(f64::INFINITY, f64::min);
    let mut means: Vec<f64> = slices().map(|slice| slice.mean).collect();
    means.sort_by(f64::total_cmp);
    let usual = means.get(means.len() / 2).copied().unwrap_or(1.0);
    let budget = figure.display.map_or(usual, |(_, budget)| budget);
    let (most, usual) = (most.max(budget * 1.1), usual.max(budget));
    match most > usual * LOG_FROM {
        true => ((least.min(budget) * 0.85, most * 1.1), true),
        false => ((0.0, most * 1.08), false),
    }
}

/// Returns the figure, drawn.
pub fn passes(figure: &PassesFigure) -> Drawing {
    let layout = layout(figure);
    let mut drawing = Drawing::new(WIDTH, &figure.title, &figure.finding);
    let ((least, most), log) = scale(figure);
    let how = if log { ", equal ratios equally far" } else { "" };
    let budget = match figure.display {
        Some((hz, _)) => format!("; dashed: a frame's time at {hz} Hz"),
        None => String::new(),
    };
    let words = format!(
        "Frame time in milliseconds over the pass in seconds{how}. Shorter is better. Line: the mean; \
         band: shortest to longest; ▼: a hitch{budget}."
    );
    // What stands above takes what it needs; what stands below moves down with it.
    let down = (head(&mut drawing, &[words]) + 8.0 - HEAD).max(0.0);
    drawing.height = layout.height + down;
    let longest = figure.panels.iter().map(|panel| panel.seconds).fold(0.0, f64::max);
    for (place, column) in layout.columns.iter().enumerate() {
        let left = MARGIN + AXIS + place as f64 * (layout.width + AXIS + BUDGET + GAP);
        for (row, &at) in column.iter().enumerate() {
            let top = HEAD + down + NAME + row as f64 * (layout.panel + NAME);
            let x =
                Scale { values: (0.0, longest), places: (left, left + layout.width), log: false };
            let y = Scale { values: (least, most), places: (top + layout.panel, top), log };
            panel(
                &mut drawing,
                &figure.panels[at],
                (x, y),
                figure.display,
                row + 1 == column.len(),
            );
        }
    }
    drawing
}

fn panel(
    drawing: &mut Drawing,
    panel: &PassPanel,
    (x, y): (Scale, Scale),
    display: Option<(f64, f64)>,
    last: bool,
) {
    let (left, right) = x.places;
    let (bottom, top) = y.places;
    upward(drawing, &y, (left, right), number);
    let small = Type::small(SIZE).anchored(Anchor::End);
    for &(from, to) in &panel.cut {
        let (from, to) = (x.place(from), x.place(to));
        drawing.rect(from, top, to - from, bottom - top, Paint::Mist);
        let set = Type { anchor: Anchor::Middle, ..small };
        if to - from > 26.0 {
            drawing.text((f64::midpoint(from, to), bottom - 5.0), set, "cut");
        }
    }
    let (name, says) = (Type::name(14.0), Type::small(13.0));
    let words = name.fitted(&panel.name, (right - left) * 0.6);
    drawing.text((left, top - 13.0), name, &words);
    let from = left + name.width(&words) + 12.0;
    drawing.text((from, top - 13.0), says, &says.fitted(&panel.says, right - from));
    if let Some((_, budget)) = display {
        let at = y.place(budget);
        drawing.line(
            (left, at),
            (right, at),
            Stroke { hue: Paint::Brass, width: 1.5, dashes: "6 4" },
        );
        let set = Type { anchor: Anchor::Start, fill: Paint::BrassInk, ..small };
        drawing.text((right + 6.0, at + 4.0), set, &format!("{budget:.1} ms"));
    }
    frames(drawing, panel, (x, y));
    for &hitch in &panel.hitches {
        let at = x.place(hitch);
        drawing.area(&[(at - 3.5, top - 7.0), (at + 3.5, top - 7.0), (at, top)], Paint::Clay, 1.0);
    }
    drawing.line(
        (left, bottom),
        (right, bottom),
        Stroke { hue: Paint::Grey, width: 1.0, dashes: "" },
    );
    if last {
        across(drawing, &x, (bottom, bottom), number);
        drawing.text((right, bottom + 36.0), small, "seconds");
    }
}

/// Draws the band from the shortest to the longest frame of each slice, and the line of their means.
fn frames(drawing: &mut Drawing, panel: &PassPanel, (x, y): (Scale, Scale)) {
    let slice = panel.seconds / panel.slices.len().max(1) as f64;
    let at = |place: usize| x.place((place as f64 + 0.5) * slice);
    // Where a slice is left out, the band and the line are broken.
    for run in panel.slices.iter().enumerate().collect::<Vec<_>>().split(|(_, s)| s.is_none()) {
        let known: Vec<(f64, Slice)> =
            run.iter().filter_map(|(place, slice)| Some((at(*place), (**slice)?))).collect();
        if known.is_empty() {
            continue;
        }
        let upper = known.iter().map(|(x, slice)| (*x, y.place(slice.most)));
        let lower = known.iter().rev().map(|(x, slice)| (*x, y.place(slice.least)));
        // A peak of one slice has no width: its edge keeps it in sight.
        let edge = Stroke { hue: Paint::Lake, width: 0.8, dashes: "" };
        let band: Vec<_> = upper.chain(lower).collect();
        drawing.edged_area(&band, Paint::Lake, 0.28, edge);
        let mean: Vec<(f64, f64)> =
            known.iter().map(|(x, slice)| (*x, y.place(slice.mean))).collect();
        drawing.curve(&mean, Stroke { hue: Paint::Ink, width: 1.4, dashes: "" });
    }
}

/// Returns a figure of made-up passes, for tests.
#[cfg(test)]
pub(super) fn example(rigs: &[String]) -> PassesFigure {
    let slice = |at: usize| Slice { least: 15.0, most: 17.0 + (at % 9) as f64, mean: 16.5 };
    let panel = |rig: &String| PassPanel {
        rig: rig.clone(),
        name: format!("{rig}-1.2"),
        says: "58.2 fps · low 1% 41.0 fps · 12 hitches · capped at 60 Hz · cut: 0–4.2 s".into(),
        seconds: 61.3,
        slices: (0..100).map(|at| (at > 8).then(|| slice(at))).collect(),
        hitches: vec![14.2, 14.5],
        cut: vec![(0.0, 4.2)],
    };
    PassesFigure {
        title: "fly-through".into(),
        finding: "all hold".into(),
        display: Some((60.0, 16.67)),
        panels: rigs.iter().map(panel).collect(),
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use honest_lap_draw::Look;

    fn pass(rig: &str, number: u32, most: f64) -> PassPanel {
        let slice =
            |at: usize| Slice { least: 15.0, most: if at == 7 { most } else { 18.0 }, mean: 16.5 };
        PassPanel {
            rig: rig.into(),
            name: format!("{rig}-1.{number}"),
            says: "60 fps".into(),
            seconds: 60.0,
            slices: (0..100).map(|at| Some(slice(at))).collect(),
            hitches: vec![4.2],
            cut: Vec::new(),
        }
    }

    fn figure(panels: Vec<PassPanel>) -> PassesFigure {
        let (title, finding) = ("fly-through".into(), "all hold".into());
        PassesFigure { title, finding, display: Some((60.0, 16.67)), panels }
    }

    #[test]
    fn two_rigs_stand_side_by_side_and_more_under_one_another() {
        let two =
            figure(vec![pass("heron", 1, 20.0), pass("heron", 2, 20.0), pass("wren", 1, 20.0)]);
        assert_eq!(layout(&two).columns, [vec![0, 1], vec![2]]);
        let three =
            figure(vec![pass("heron", 1, 20.0), pass("wren", 1, 20.0), pass("kestrel", 1, 20.0)]);
        assert_eq!(layout(&three).columns, [vec![0, 1, 2]]);
        assert!(layout(&three).height <= 800.0);
    }

    #[test]
    fn one_scale_for_all_keeps_the_highest_peak() {
        let mild = figure(vec![pass("heron", 1, 30.0), pass("wren", 1, 20.0)]);
        assert_eq!(scale(&mild), ((0.0, 30.0 * 1.08), false));
        let wild = figure(vec![pass("heron", 1, 250.0), pass("wren", 1, 20.0)]);
        let ((least, most), log) = scale(&wild);
        assert!(log && most > 250.0 && least < 15.0);
        let svg = passes(&wild).svg(Look::Light);
        assert!(
            svg.contains("equal ratios equally far")
                && svg.contains(">16.7 ms<")
                && svg.contains("at 60 Hz"),
            "{svg}"
        );
        assert_eq!(svg.matches("#b5563c").count(), 2, "a mark for each hitch");
    }

    #[test]
    fn nothing_is_drawn_of_nothing() {
        assert!(passes(&figure(Vec::new())).height > 0.0);
        let empty = PassPanel { slices: Vec::new(), ..pass("heron", 1, 20.0) };
        assert!(passes(&figure(vec![empty])).for_page().contains("heron-1.1"));
    }
}
