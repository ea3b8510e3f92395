//! Markdown: headings, sentences and pipe tables.

use super::sheet::{Align, Group, Layout, Sheet};
use honest_lap_core::record::plain_line;
use std::fmt::Write;
use std::io;

pub(crate) fn write(sheet: &Sheet, out: &mut dyn io::Write) -> io::Result<()> {
    let mut text = String::new();
    if let Some(title) = &sheet.title {
        // Writing to a string cannot fail.
        let _ = writeln!(text, "# {}\n", safe(title));
    }
    paragraphs(&sheet.lead, &mut text);
    sheet.groups.iter().for_each(|one| group(one, 2, &mut text));
    list(&sheet.notes, &mut text);
    out.write_all(text.as_bytes())
}

/// Writes a table or record, its heading of this `level`.
pub(crate) fn group(group: &Group, level: usize, out: &mut String) {
    if let Some(heading) = &group.heading {
        let _ = writeln!(out, "{} {}\n", "#".repeat(level), safe(heading));
    }
    paragraphs(&group.lead, out);
    match group.layout {
        Layout::Table => table(group, out),
        Layout::Record => record(group, out),
    }
    if !group.drawing.is_empty() {
        let lines: Vec<_> = group.drawing.iter().map(|line| plain_line(line)).collect();
        // Four ticks, so that no three in it end the block.
        let _ = writeln!(out, "````text\n{}\n````\n", lines.join("\n"));
    }
    list(&group.notes, out);
}

pub(crate) fn paragraphs(lines: &[String], out: &mut String) {
    for line in lines {
        let _ = writeln!(out, "{}\n", safe(line));
    }
}

pub(crate) fn list(lines: &[String], out: &mut String) {
    for line in lines {
        let _ = writeln!(out, "- {}", safe(line));
    }
    if !lines.is_empty() {
        out.push('\n');
    }
}

fn table(group: &Group, out: &mut String) {
    let titles: Vec<String> = group.for_people().map(|(_, c)| safe(&c.heading())).collect();
    let rules: Vec<&str> = group
        .for_people()
        .map(|(_, column)| if column.align == Align::Right { "---:" } else { "---" })
        .collect();
    let _ = writeln!(out, "| {} |\n|{}|", titles.join(" | "), rules.join("|"));
    for row in &group.rows {
        let cells: Vec<String> = group.for_people().map(|(at, _)| safe(&row[at].read())).collect();
        let _ = writeln!(out, "| {} |", cells.join(" | "));
    }
    out.push('\n');
}

fn record(group: &Group, out: &mut String) {
    for row in &group.rows {
        for (at, column) in group.for_people() {
            let (heading, words) = (safe(&column.heading()), safe(&row[at].read()));
            let _ = writeln!(out, "- **{heading}**: {words}");
        }
        out.push('\n');
    }
}

/// Returns `text` on one line with every character of Markdown and HTML made plain.
pub(crate) fn safe(text: &str) -> String {
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
