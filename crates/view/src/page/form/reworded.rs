//! A page with every text of it put otherwise: for what must not be published.

use super::{Block, File, Frames, Page, Part, Race};
use crate::table::{Cell, Column, Group, Value};

impl Page {
    /// Returns the page with every text in it as `put` puts it: figures, tables and files as well.
    pub fn reworded(self, put: &mut dyn FnMut(&str) -> String) -> Self {
        let Self { title, question, conclusion, overview, missing, parts, files, stamp, .. } = self;
        Self {
            title: put(&title),
            question: question.map(|question| put(&question)),
            conclusion: lines(conclusion, put),
            overview: overview.map(|one| block(one, put)),
            missing: lines(missing, put),
            parts: parts
                .into_iter()
                .map(|part| Part { heading: put(&part.heading), blocks: blocks(part.blocks, put) })
                .collect(),
            files: files.into_iter().map(|one| file(one, put)).collect(),
            // What was recorded names whom it names.
            evidence: None,
            stamp: put(&stamp),
        }
    }
}

type Put<'a> = &'a mut dyn FnMut(&str) -> String;

fn lines(lines: Vec<String>, put: Put<'_>) -> Vec<String> {
    lines.iter().map(|line| put(line)).collect()
}

fn blocks(blocks: Vec<Block>, put: Put<'_>) -> Vec<Block> {
    blocks.into_iter().map(|one| block(one, put)).collect()
}

fn block(block: Block, put: Put<'_>) -> Block {
    match block {
        Block::Heading(words) => Block::Heading(put(&words)),
        Block::Words(words) => Block::Words(put(&words)),
        Block::List(all) => Block::List(lines(all, put)),
        Block::Figure { wide, narrow, notes } => Block::Figure {
            wide: Box::new(wide.reworded(put)),
            narrow: narrow.map(|narrow| Box::new(narrow.reworded(put))),
            notes: lines(notes, put),
        },
        Block::Table(group) => Block::Table(table(group, put)),
        Block::Way { words, to } => Block::Way { words: put(&words), to: put(&to) },
        Block::Details { summary, blocks: within } => {
            Block::Details { summary: put(&summary), blocks: blocks(within, put) }
        }
        Block::Frames(frames) => {
            Block::Frames(Frames { name: put(&frames.name), says: put(&frames.says), ..frames })
        }
        Block::Race(Race { of, rigs }) => {
            let of = put(&of);
            let rigs = rigs.into_iter().map(|(rig, seconds, words)| (put(&rig), seconds, words));
            Block::Race(Race { of, rigs: rigs.collect() })
        }
    }
}

fn table(group: Group, put: Put<'_>) -> Group {
    let columns = group.columns.into_iter();
    let rows = group.rows.into_iter();
    Group {
        heading: group.heading.map(|heading| put(&heading)),
        lead: lines(group.lead, put),
        columns: columns.map(|one| Column { title: put(&one.title), ..one }).collect(),
        rows: rows.map(|row| row.into_iter().map(|one| cell(one, put)).collect()).collect(),
        drawing: lines(group.drawing, put),
        notes: lines(group.notes, put),
        ..group
    }
}

fn cell(cell: Cell, put: Put<'_>) -> Cell {
    let value = match cell.value {
        Value::Text(text) => Value::Text(put(&text)),
        Value::List(items) => Value::List(lines(items, put)),
        value => value,
    };
    Cell { value, text: cell.text.map(|text| put(&text)), ..cell }
}

fn file(file: File, put: Put<'_>) -> File {
    match String::from_utf8(file.bytes) {
        Ok(text) => File { bytes: put(&text).into_bytes(), ..file },
        Err(err) => File { bytes: err.into_bytes(), ..file },
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::page::form::html;
    use crate::table::Layout;
    use honest_lap_draw::Drawing;

    #[test]
    fn no_text_of_a_page_escapes() {
        let secret = || "ada's machine".to_owned();
        let table = Group {
            heading: Some(secret()),
            lead: vec![secret()],
            columns: vec![Column::text("rig", secret()), Column::text("all", "all")],
            rows: vec![vec![
                Cell::text(secret()).shown(secret()),
                Cell::list(vec![secret(), secret()]),
            ]],
            layout: Layout::Table,
            drawing: vec![secret()],
            notes: vec![secret()],
        };
        let mut figure = Drawing::example(&secret());
        figure = figure.stamped(&secret());
        let frames =
            Frames { name: secret(), says: secret(), frames: vec![1], budget: None, cut: vec![] };
        let within = vec![
            Block::Heading(secret()),
            Block::Words(secret()),
            Block::List(vec![secret()]),
            Block::Figure {
                wide: Box::new(figure.clone()),
                narrow: Some(Box::new(figure)),
                notes: vec![secret()],
            },
            Block::Table(table),
            Block::Way { words: secret(), to: secret() },
            Block::Frames(frames),
            Block::Race(Race { of: secret(), rigs: vec![(secret(), 1.0, "1 s".into())] }),
        ];
        let page = Page {
            title: secret(),
            question: Some(secret()),
            conclusion: vec![secret()],
            missing: vec![secret()],
            overview: None,
            evidence: None,
            parts: vec![Part {
                heading: secret(),
                blocks: vec![Block::Details { summary: secret(), blocks: within }],
            }],
            files: vec![File {
                name: "laps.csv".into(),
                about: "laps".into(),
                kind: "text/csv",
                bytes: secret().into_bytes(),
            }],
            stamp: secret(),
        };
        let page = page.reworded(&mut |text| text.replace("ada", "somebody"));
        let out = html(&page);
        let body = &out[out.find("<body>").unwrap()..];
        assert!(body.contains("somebody") && !body.to_lowercase().contains("ada'"), "{body}");
        assert_eq!(page.files[0].bytes, b"somebody's machine");
    }
}
