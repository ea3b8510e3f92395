//! Markdown: headings, sentences and pipe tables.

use crate::sheet::{Align, Group, Layout, Sheet};
use honest_lap_core::plain::plain_line;
use std::io::{self, Write};

pub(crate) fn write(sheet: &Sheet, out: &mut dyn Write) -> io::Result<()> {
    if let Some(title) = &sheet.title {
        writeln!(out, "# {}\n", safe(title))?;
    }
    paragraphs(&sheet.lead, out)?;
    for group in &sheet.groups {
        if let Some(heading) = &group.heading {
            writeln!(out, "## {}\n", safe(heading))?;
        }
        paragraphs(&group.lead, out)?;
        match group.layout {
            Layout::Table => table(group, out)?,
            Layout::Record => record(group, out)?,
        }
        if !group.drawing.is_empty() {
            let lines: Vec<String> = group.drawing.iter().map(|line| plain_line(line)).collect();
            // Four ticks, so that no three in it end the block.
            writeln!(out, "````text\n{}\n````\n", lines.join("\n"))?;
        }
        list(&group.notes, out)?;
    }
    list(&sheet.notes, out)
}

fn paragraphs(lines: &[String], out: &mut dyn Write) -> io::Result<()> {
    lines.iter().try_for_each(|line| writeln!(out, "{}\n", safe(line)))
}

fn list(lines: &[String], out: &mut dyn Write) -> io::Result<()> {
    lines.iter().try_for_each(|line| writeln!(out, "- {}", safe(line)))?;
    if lines.is_empty() { Ok(()) } else { writeln!(out) }
}

fn table(group: &Group, out: &mut dyn Write) -> io::Result<()> {
    let titles: Vec<String> = group.for_people().map(|(_, c)| safe(&c.heading())).collect();
    let rules: Vec<&str> = group
        .for_people()
        .map(|(_, column)| if column.align == Align::Right { "---:" } else { "---" })
        .collect();
    writeln!(out, "| {} |\n|{}|", titles.join(" | "), rules.join("|"))?;
    for row in &group.rows {
        let cells: Vec<String> = group.for_people().map(|(at, _)| safe(&row[at].read())).collect();
        writeln!(out, "| {} |", cells.join(" | "))?;
    }
    writeln!(out)
}

fn record(group: &Group, out: &mut dyn Write) -> io::Result<()> {
    for row in &group.rows {
        for (at, column) in group.for_people() {
            writeln!(out, "- **{}**: {}", safe(&column.heading()), safe(&row[at].read()))?;
        }
        writeln!(out)?;
    }
    Ok(())
}

/// Returns `text` on one line with every character of Markdown and HTML made plain.
fn safe(text: &str) -> String {
    let mut out = String::new();
    for c in plain_line(text).chars() {
        match c {
            '<' => out.push_str("&lt;"),
            '>' => out.push_str("&gt;"),
            '&' => out.push_str("&amp;"),
            '|' | '\\' | '`' | '*' | '_' | '[' | ']' | '#' | '!' | '~' => {
                out.push('\\');
                out.push(c);
            }
            c => out.push(c),
        }
    }
    out
}
