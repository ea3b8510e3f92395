//! Markdown as text for a terminal: what our own pages use of it.

use crate::table::{Role, style};
use pulldown_cmark::{CodeBlockKind, Event, Options, Parser, Tag, TagEnd};
use std::fmt::Write;
use textwrap::WordSplitter;

/// Text is not set wider than this, however wide the terminal: long lines are hard to read.
const MOST: usize = 100;

/// Returns a page as lines of at most `width` columns, styled; code stands as it is written.
///
/// Pictures are left out, links to other pages of the guide say how they are asked for, and a table is a paragraph a row:
/// its cells hold sentences.
pub fn in_terminal(markdown: &str, width: usize) -> String {
    let mut page = Text { width: width.min(MOST), ..Text::default() };
    for event in Parser::new_ext(markdown, Options::ENABLE_TABLES) {
        page.take(event);
    }
    page.out
}

/// What is being written.
#[derive(Default)]
struct Text {
    width: usize,
    out: String,
    /// The words of the paragraph, heading, item or cell under way.
    words: String,
    /// For each list that is open the number of its next item, where it has numbers.
    lists: Vec<Option<u64>>,
    /// What stands ahead of the item under way.
    mark: Option<String>,
    /// Whether code is under way, and a picture, whose words are left out.
    code: bool,
    picture: bool,
    /// Where the link under way leads.
    link: String,
    /// The headings of the table under way, and the number of the cell.
    headings: Vec<String>,
    cell: usize,
    in_headings: bool,
}

impl Text {
    fn take(&mut self, event: Event<'_>) {
        match event {
            Event::Start(tag) => self.begin(tag),
            Event::End(tag) => self.end(tag),
            Event::Text(text) if self.code => {
                for line in text.lines() {
                    let _ = writeln!(self.out, "{}", format!("    {line}").trim_end());
                }
            }
            Event::Text(text) if !self.picture => self.words += &text,
            Event::Code(text) => self.styled(Role::Open, &text),
            Event::SoftBreak | Event::HardBreak => self.words.push(' '),
            _ => {}
        }
    }

    fn begin(&mut self, tag: Tag<'_>) {
        match tag {
            Tag::Heading { .. } => self.blank(),
            Tag::Paragraph if self.mark.is_none() => self.blank(),
            Tag::CodeBlock(CodeBlockKind::Fenced(_) | CodeBlockKind::Indented) => {
                self.blank();
                self.code = true;
            }
            Tag::List(first) => {
                if self.lists.is_empty() {
                    self.blank();
                }
                self.lists.push(first);
            }
            Tag::Item => {
                let mark = match self.lists.last_mut() {
                    Some(Some(next)) => {
                        *next += 1;
                        format!("{}. ", *next - 1)
                    }
                    _ => "· ".to_owned(),
                };
                self.mark = Some(mark);
            }
            Tag::Image { .. } => self.picture = true,
            Tag::Link { dest_url, .. } => self.link = dest_url.to_string(),
            Tag::Table(_) => self.headings.clear(),
            Tag::TableHead => self.in_headings = true,
            Tag::TableRow => {
                self.blank();
                self.cell = 0;
            }
            Tag::Strong => {
                let _ = write!(self.words, "{}", style(Role::Plain).bold());
            }
            _ => {}
        }
    }

    fn end(&mut self, tag: TagEnd) {
        match tag {
            TagEnd::Heading(_) => {
                let words = std::mem::take(&mut self.words);
                let heading = style(Role::Heading);
                self.set(&format!("{heading}{words}{heading:#}"), "", "");
            }
            TagEnd::Paragraph => self.paragraph(),
            TagEnd::Item => {
                self.paragraph();
                self.mark = None;
            }
            TagEnd::List(_) => {
                self.lists.pop();
            }
            TagEnd::CodeBlock => self.code = false,
            TagEnd::Image => self.picture = false,
            TagEnd::Link => {
                if let Some(topic) = self.link.split('#').next().and_then(topic_of) {
                    let _ = write!(self.words, " (lap help {topic})");
                }
            }
            TagEnd::TableHead => self.in_headings = false,
            TagEnd::TableCell => self.end_cell(),
            TagEnd::Strong => {
                let _ = write!(self.words, "{:#}", style(Role::Plain).bold());
            }
            _ => {}
        }
    }

    /// Ends a paragraph or an item's only one.
    fn paragraph(&mut self) {
        let words = std::mem::take(&mut self.words);
        if words.trim().is_empty() {
            return;
        }
        let depth = "  ".repeat(self.lists.len().saturating_sub(1));
        match self.mark.replace("  ".to_owned()).filter(|_| !self.lists.is_empty()) {
            Some(mark) => {
                let rest = format!("{depth}{}", " ".repeat(mark.chars().count()));
                self.set(&words, &format!("{depth}{mark}"), &rest);
            }
            None => {
                self.mark = None;
                self.set(&words, "", "");
            }
        }
    }

    /// Ends a cell: the first of a row is its heading, the others are told below it.
    fn end_cell(&mut self) {
        let words = std::mem::take(&mut self.words);
        if self.in_headings {
            return self.headings.push(words);
        }
        let place = self.cell;
        self.cell += 1;
        if words.trim().is_empty() {
            return;
        }
        match (place, self.headings.len()) {
            (0, _) => self.set(&words, "", ""),
            (_, 0..=2) => self.set(&words, "    ", "    "),
            _ => {
                let heading = self.headings.get(place).cloned().unwrap_or_default();
                self.set(&format!("{heading}: {words}"), "    ", "    ");
            }
        }
    }

    fn styled(&mut self, role: Role, text: &str) {
        let style = style(role);
        let _ = write!(self.words, "{style}{text}{style:#}");
    }

    /// Leaves a line blank, unless it is the first or one is blank already.
    fn blank(&mut self) {
        if !self.out.is_empty() && !self.out.ends_with("\n\n") {
            self.out.push('\n');
        }
    }

    fn set(&mut self, words: &str, first: &str, rest: &str) {
        let options = textwrap::Options::new(self.width)
            .initial_indent(first)
            .subsequent_indent(rest)
            .break_words(false)
            .word_splitter(WordSplitter::NoHyphenation);
        for line in textwrap::wrap(words.trim(), options) {
            let _ = writeln!(self.out, "{}", line.trim_end());
        }
    }
}

/// Returns the page of the guide that a link leads to.
fn topic_of(target: &str) -> Option<&'static str> {
    let name = target.strip_suffix(".md")?;
    super::PAGES.iter().map(|page| page.topic).find(|topic| *topic == name)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_page_reads_well_without_its_marks() {
        let markdown = "# Games\n\nA pass is judged by **all** its `frames`, which is\nsaid in [the glossary](glossary.md) and [elsewhere](../method.md).\n\n\
                        ![a picture](x.png)\n\n```sh elsewhere\nlap run   # now\n```\n\n1. one\n2. two that is long enough to be wrapped at this width\n\n\
                        | word | meaning |\n|---|---|\n| `lap` | a repetition |\n| pass | a lap of frames |\n\n| a | b | c |\n|---|---|---|\n| x | 1 | 2 |\n";
        let plain = anstream::adapter::strip_str(&in_terminal(markdown, 44)).to_string();
        insta::assert_snapshot!(plain, @"
        Games

        A pass is judged by all its frames, which is
        said in the glossary (lap help glossary) and
        elsewhere.

            lap run   # now

        1. one
        2. two that is long enough to be wrapped at
           this width

        lap
            a repetition

        pass
            a lap of frames

        x
            b: 1
            c: 2
        ");
    }
}
