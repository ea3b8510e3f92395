//! The overview as a figure.

use crate::chart::{OverviewCell, OverviewFigure, OverviewRow, Tone};
use crate::overview::{Columns, Line, Overview, Sign, Stand, signs_words};

/// Returns the figure of `seen`, under `title`; `finding` is what it shows, in a sentence.
pub fn overview(seen: &Overview, title: &str, finding: String) -> OverviewFigure {
    let lines = || seen.index.iter().chain(&seen.lines);
    let signs = signs_words(lines().flat_map(|line| line.cells.iter().flatten()));
    let against = match (seen.across, seen.columns.first()) {
        (Columns::Rigs, Some(base)) => format!("Against {base}"),
        _ => "Against the first variant".to_owned(),
    };
    let signs = if signs.is_empty() { String::new() } else { format!(": {signs}") };
    let row = |line: &Line| OverviewRow {
        name: line.name.clone(),
        whole: line.workload.is_empty(),
        cells: line.cells.iter().map(|stand| stand.as_ref().map(cell)).collect(),
    };
    OverviewFigure {
        title: title.to_owned(),
        finding,
        how: format!(
            "{against}{signs}. Bars: to the right better, to the left worse; a full one is 4×."
        ),
        columns: seen.columns.clone(),
        rows: lines().map(row).collect(),
        bare: false,
    }
}

fn cell(stand: &Stand) -> OverviewCell {
    let tone = match stand.sign {
        Sign::Baseline | Sign::Alone => Tone::Baseline,
        Sign::Better | Sign::BetterWithin => Tone::Better,
        Sign::Same => Tone::Same,
        Sign::Worse | Sign::WorseWithin => Tone::Worse,
        Sign::TooClose | Sign::Refused => Tone::Open,
    };
    OverviewCell {
        shown: stand.shown.clone(),
        ratio: stand.ratio,
        tone,
        sign: stand.sign.mark(),
        doubted: stand.doubted,
    }
}
