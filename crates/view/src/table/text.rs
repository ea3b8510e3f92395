//! Text for a terminal: aligned columns, units once in the heading, fitted to the width.
//!
//! Where a table does not fit, each row becomes a short record: nothing is cut and nothing is
//! squeezed into columns of three letters.

use super::sheet::{Align, Cell, Column, Group, Layout, Role, Sheet};
use super::theme::style;
use comfy_table::{CellAlignment, ColumnConstraint, ContentArrangement, Table, Width, presets};
use honest_lap_core::record::plain_line;
use std::io::{self, Write};
use textwrap::core::display_width;
use textwrap::{Options, WordSplitter};

/// Blanks between two columns.
const GAP: u16 = 2;
/// Text is not set wider than this, however wide the terminal: long lines are hard to read.
const MOST_PROSE: usize = 100;

pub(crate) fn write(sheet: &Sheet, width: Option<usize>, out: &mut dyn Write) -> io::Result<()> {
    let mut first = true;
    let mut blank = |out: &mut dyn Write| {
        if std::mem::take(&mut first) { Ok(()) } else { writeln!(out) }
    };
    if sheet.title.is_some() || !sheet.lead.is_empty() {
        blank(out)?;
        prose(sheet.title.as_slice(), Role::Heading, "", width, out)?;
        prose(&sheet.lead, Role::Plain, "", width, out)?;
    }
    for group in &sheet.groups {
        blank(out)?;
        prose(group.heading.as_slice(), Role::Heading, "", width, out)?;
        prose(&group.lead, Role::Plain, "", width, out)?;
        rows(group, width, out)?;
        if !group.drawing.is_empty() {
            writeln!(out)?;
        }
        // Drawn for eighty columns: broken into lines it would be no drawing.
        for line in &group.drawing {
            writeln!(out, "{}", plain_line(line))?;
        }
        prose(&group.notes, Role::Quiet, "· ", width, out)?;
    }
    if !sheet.notes.is_empty() {
        blank(out)?;
        prose(&sheet.notes, Role::Quiet, "", width, out)?;
    }
    Ok(())
}

fn rows(group: &Group, width: Option<usize>, out: &mut dyn Write) -> io::Result<()> {
    if group.rows.is_empty() {
        return Ok(());
    }
    if group.layout == Layout::Record {
        return records(group, width, out);
    }
    let fits = |lines: &[String]| {
        width.is_none_or(|width| lines.iter().all(|line| display_width(line) <= width))
    };
    let (alike, all): (Vec<_>, Vec<(usize, &Column)>) =
        group.for_people().partition(|(at, column)| is_alike(group, *at, column));
    let mut ranks: Vec<u8> = all.iter().filter_map(|(_, column)| column.spare).collect();
    ranks.sort_unstable();
    ranks.dedup();
    for dropped in std::iter::once(None).chain(ranks.into_iter().map(Some)) {
        let spared = |column: &Column| column.spare.is_some_and(|rank| Some(rank) <= dropped);
        let (left_out, kept): (Vec<_>, Vec<_>) =
            all.iter().copied().partition(|(_, column)| spared(column));
        let lines = table(group, &kept);
        if fits(&lines) {
            lines.iter().try_for_each(|line| writeln!(out, "{line}"))?;
            let same = alike.iter().map(|(at, column)| {
                let unit = column.unit.as_deref().unwrap_or_default();
                let said = format!("{} {} {}", column.title, group.rows[0][*at].read(), unit);
                said.trim_end().to_owned()
            });
            let same: Vec<String> = same.collect();
            let titles: Vec<&str> = left_out.iter().map(|(_, c)| c.title.as_str()).collect();
            let mut notes = Vec::new();
            if !same.is_empty() {
                notes.push(format!("in every row: {}", same.join(", ")));
            }
            if !titles.is_empty() {
                notes.push(format!("on a wider screen: {}", titles.join(", ")));
            }
            return prose(&notes, Role::Quiet, "· ", width, out);
        }
    }
    records(group, width, out)
}

/// Returns whether a column that may be left out says the same in every row: that is said once.
fn is_alike(group: &Group, at: usize, column: &Column) -> bool {
    let Some((first, rest)) = group.rows.split_first() else { return false };
    let same = |row: &Vec<Cell>| row[at].read() == first[at].read();
    column.spare.is_some() && !rest.is_empty() && rest.iter().all(same)
}

fn table(group: &Group, columns: &[(usize, &Column)]) -> Vec<String> {
    let mut table = Table::new();
    table.load_style(presets::NOTHING);
    table.set_content_arrangement(ContentArrangement::Dynamic);
    // Nothing is squeezed but what may wrap; what is too wide is noticed by the caller.
    table.set_width(u16::MAX);
    table.set_header(columns.iter().map(|(_, column)| heading(column)));
    for row in &group.rows {
        table.add_row(columns.iter().map(|&(at, _)| shown(&row[at])));
    }
    for (place, (_, column)) in columns.iter().enumerate() {
        if let Some(set) = table.column_mut(place) {
            set.set_padding((0, GAP));
            set.set_constraint(match column.wrap {
                Some(chars) => ColumnConstraint::UpperBoundary(Width::Fixed(chars + GAP)),
                None => ColumnConstraint::ContentWidth,
            });
            set.set_cell_alignment(match column.align {
                Align::Left => CellAlignment::Left,
                Align::Right => CellAlignment::Right,
            });
        }
    }
    table.lines().map(|line| line.trim_end().to_owned()).collect()
}

/// Returns the heading, its unit below it.
fn heading(column: &Column) -> String {
    let title = styled(&column.title, Role::Quiet);
    match &column.unit {
        Some(unit) => format!("{title}\n{}", styled(&format!("[{unit}]"), Role::Quiet)),
        None => title,
    }
}

fn records(group: &Group, width: Option<usize>, out: &mut dyn Write) -> io::Result<()> {
    let titles: Vec<String> = group.for_people().map(|(_, column)| column.heading()).collect();
    let widest = titles.iter().map(|title| display_width(title)).max().unwrap_or(0);
    for (place, row) in group.rows.iter().enumerate() {
        if place > 0 {
            writeln!(out)?;
        }
        for ((at, _), title) in group.for_people().zip(&titles) {
            let pad = " ".repeat(widest - display_width(title) + usize::from(GAP));
            let indent = " ".repeat(widest + usize::from(GAP));
            let text = plain_line(&row[at].read());
            let room = width.map_or(usize::MAX, |width| width.saturating_sub(indent.len()).max(12));
            let lines = textwrap::wrap(&text, unsplit(room));
            for (n, line) in lines.iter().enumerate() {
                let lead = if n == 0 { styled(title, Role::Quiet) + &pad } else { indent.clone() };
                writeln!(out, "{}", format!("{lead}{}", styled(line, row[at].role)).trim_end())?;
            }
        }
    }
    Ok(())
}

fn prose(
    lines: &[String],
    role: Role,
    bullet: &str,
    width: Option<usize>,
    out: &mut dyn Write,
) -> io::Result<()> {
    let width = width.unwrap_or(MOST_PROSE).min(MOST_PROSE);
    let indent = " ".repeat(display_width(bullet));
    for line in lines {
        let text = plain_line(line);
        let options = unsplit(width).initial_indent(bullet).subsequent_indent(&indent);
        for line in textwrap::wrap(&text, options) {
            writeln!(out, "{}", styled(&line, role))?;
        }
    }
    Ok(())
}

/// Returns options that break lines at blanks only: `Linux 6.0-harbour` is one word.
fn unsplit<'a>(width: usize) -> Options<'a> {
    Options::new(width).word_splitter(WordSplitter::NoHyphenation)
}

fn shown(cell: &Cell) -> String {
    styled(&plain_line(&cell.read()), cell.role)
}

/// Returns safe `text` in the look of `role`; the stream drops the look where it is not wanted.
fn styled(text: &str, role: Role) -> String {
    let style = style(role);
    format!("{style}{text}{style:#}")
}
