//! A page as Markdown: what can be read in a forum or a pull request, without figures and raw laps.

use super::{Block, Page};
use crate::table::Group;
use crate::table::markdown::{group, list, paragraphs, safe};
use std::fmt::Write;

/// Returns `page` as Markdown; figures, frames and what is folded away stay in the page itself.
pub fn markdown(page: &Page) -> String {
    let mut out = format!("# {}\n\n", safe(&page.title));
    // Writing to a string cannot fail.
    if let Some(question) = &page.question {
        let _ = writeln!(out, "*{}*\n", safe(question));
    }
    let _ = writeln!(out, "## Conclusion\n");
    paragraphs(&page.conclusion, &mut out);
    if !page.missing.is_empty() {
        let _ = writeln!(out, "## What is missing\n");
        list(&page.missing, &mut out);
    }
    for part in &page.parts {
        let _ = writeln!(out, "## {}\n", safe(&part.heading));
        let mut waiting = Vec::new();
        part.blocks.iter().for_each(|one| block(one, &mut waiting, &mut out));
        list(&waiting, &mut out);
    }
    let _ = writeln!(out, "---\n\n{}", safe(&page.stamp));
    out
}

/// Writes a block; footnotes of a figure are `waiting` for the table that shows what it would.
fn block(block: &Block, waiting: &mut Vec<String>, out: &mut String) {
    match block {
        Block::Heading(words) => {
            let _ = writeln!(out, "### {}\n", safe(words));
        }
        Block::Words(words) => paragraphs(std::slice::from_ref(words), out),
        Block::List(lines) => list(lines, out),
        Block::Table(table) => {
            let notes = waiting.drain(..).chain(table.notes.iter().cloned()).collect();
            group(&Group { notes, ..table.clone() }, 4, out);
        }
        // The tables say the same; what is folded away is too long to be read here.
        Block::Figure { notes, .. } => waiting.extend(notes.iter().cloned()),
        Block::Details { .. } | Block::Way { .. } | Block::Frames(_) | Block::Race(_) => {}
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::page::Part;
    use crate::table::{Cell, Column, Layout};
    use honest_lap_draw::Drawing;

    #[test]
    fn the_answer_comes_first_and_nothing_from_outside_becomes_markup() {
        let table = Group {
            heading: Some("dome-still".into()),
            lead: vec![],
            columns: vec![Column::text("rig", "rig"), Column::figure("time", "time").unit("ms")],
            rows: vec![vec![Cell::text("he|ron"), Cell::number(1.0, "1.0")]],
            layout: Layout::Table,
            drawing: vec![],
            notes: vec!["a *note*".into()],
        };
        let page = Page {
            title: "Dome <b>".into(),
            question: Some("Which?".into()),
            conclusion: vec!["heron is ahead.".into()],
            missing: vec!["wren: too few laps".into()],
            overview: None,
            evidence: None,
            parts: vec![Part {
                heading: "dome-still".into(),
                blocks: vec![
                    Block::Figure {
                        wide: Box::new(Drawing::example("drawn")),
                        narrow: None,
                        notes: vec!["¹ a doubt".into()],
                    },
                    Block::Table(table),
                    Block::Words("said".into()),
                ],
            }],
            stamp: "lap 0.2.0".into(),
            ..Page::default()
        };
        insta::assert_snapshot!(markdown(&page), @r"
        # Dome &lt;b&gt;

        *Which?*

        ## Conclusion

        heron is ahead.

        ## What is missing

        - wren: too few laps

        ## dome-still

        #### dome-still

        | rig | time \[ms\] |
        |---|---:|
        | he\|ron | 1.0 |

        - ¹ a doubt
        - a \*note\*

        said

        ---

        lap 0.2.0
        ");
    }
}
