//! A page written down as HTML. Everything from outside is text: maud escapes it.

use super::evidence::{LOGBOOK, META};
use super::moving::{of_frames, of_race};
use super::packed::{gzip, step_ns};
use super::{Block, File, Page, Part};
use crate::table::{Align, Cell, Group, Layout, Role};
use base64::Engine;
use base64::engine::general_purpose::STANDARD;
use honest_lap_core::record::plain_line;
use honest_lap_draw::{Drawing, Look, font_faces, paints, word_styles};
use maud::{DOCTYPE, Markup, PreEscaped, html as markup};
use sha2::{Digest, Sha256};

const STYLE: &str = include_str!("style.css");
const SCRIPT: &str = include_str!("script.js");
/// What a table is to a browser.
const TABLE: &str = "text/csv";
/// Bytes up to which a table is not worth packing.
const LONG_TABLE: usize = 4096;

/// Returns `page` as one HTML file: it fetches nothing, and runs no script but its own.
pub fn html(page: &Page) -> String {
    let style = style();
    let policy = format!(
        "default-src 'none'; style-src '{}'; script-src '{}'; font-src data:; img-src data:; \
         base-uri 'none'; form-action 'none'",
        hash(&style),
        hash(SCRIPT)
    );
    let frames = page.parts.iter().flat_map(|part| &part.blocks).map(frame_count).sum();
    let step = step_ns(frames);
    let addresses = addresses(&page.parts);
    let document = markup! {
        (DOCTYPE)
        html lang="en" {
            head {
                meta charset="utf-8";
                meta http-equiv="Content-Security-Policy" content=(policy);
                meta name="viewport" content="width=device-width, initial-scale=1";
                meta name="color-scheme" content="light dark";
                @if let Some(made) = made(page) { meta name=(META) content=(made); }
                title { (plain_line(&page.title)) }
                style { (PreEscaped(&style)) }
            }
            body {
                (front(page, &addresses))
                main {
                    @for (part, id) in page.parts.iter().zip(&addresses) { (one(part, id, step)) }
                    @if !page.files.is_empty() { (saved(page)) }
                }
                footer { p { (plain_line(&page.stamp)) } }
                script { (PreEscaped(SCRIPT)) }
            }
        }
    };
    document.into_string()
}

fn style() -> String {
    let faces = font_faces();
    let (light, dark) = (paints(Look::Light), paints(Look::Dark));
    format!(
        "{faces}:root{{{light}}}@media(prefers-color-scheme:dark){{:root{{{dark}}}}}\
         @media print{{:root{{{light}}}}}{}\n{STYLE}",
        word_styles()
    )
}

/// Returns a source as a content policy names it.
fn hash(source: &str) -> String {
    format!("sha256-{}", STANDARD.encode(Sha256::digest(source)))
}

fn front(page: &Page, addresses: &[String]) -> Markup {
    markup! {
        header {
            h1 { (plain_line(&page.title)) }
            @if let Some(question) = &page.question { p.question { (plain_line(question)) } }
            section aria-labelledby="conclusion" {
                h2 #conclusion { "Conclusion" }
                @for line in &page.conclusion { p.answer { (plain_line(line)) } }
            }
            @if let Some(overview) = &page.overview { (of_block(overview, 1)) }
            @if !page.missing.is_empty() {
                section aria-labelledby="missing" {
                    h2 #missing { "What is missing" }
                    ul { @for line in &page.missing { li { (plain_line(line)) } } }
                }
            }
            nav aria-label="Parts of this page" {
                @for (part, id) in page.parts.iter().zip(addresses) {
                    a href=(format!("#{id}")) { (plain_line(&part.heading)) }
                }
                @if !page.files.is_empty() { a href="#files" { "Files" } }
            }
        }
    }
}

fn one(part: &Part, id: &str, step: u64) -> Markup {
    markup! {
        section id=(id) aria-label=(plain_line(&part.heading)) {
            h2 { (plain_line(&part.heading)) }
            @for block in &part.blocks { (of_block(block, step)) }
        }
    }
}

/// Returns an address for every part; what a workload is called may be the page's own word as well.
fn addresses(parts: &[Part]) -> Vec<String> {
    let mut taken: Vec<String> = ["conclusion", "missing", "files"].map(str::to_owned).to_vec();
    let mut one = |part: &Part| {
        let plain = address(&part.heading);
        let numbered = (2..).map(|number| format!("{plain}-{number}"));
        let mut free = std::iter::once(plain.clone()).chain(numbered);
        let id = free.find(|id| !taken.contains(id)).expect("numbers do not end");
        taken.push(id.clone());
        id
    };
    parts.iter().map(&mut one).collect()
}

/// Returns the address of what is called `name` within the page.
fn address(name: &str) -> String {
    let kept = name.chars().map(|c| if c.is_alphanumeric() { c } else { '-' });
    kept.collect::<String>().to_lowercase()
}

fn of_block(block: &Block, step: u64) -> Markup {
    match block {
        Block::Heading(words) => markup! { h3 { (plain_line(words)) } },
        Block::Words(words) => markup! { p { (plain_line(words)) } },
        Block::List(lines) => markup! { ul { @for line in lines { li { (plain_line(line)) } } } },
        Block::Figure { wide, narrow, .. } => figure(wide, narrow.as_deref()),
        Block::Table(group) => table(group),
        Block::Way { words, to } => markup! {
            p.way { a href=(format!("#in-{}", address(to))) { (plain_line(words)) } }
        },
        Block::Details { summary, blocks } => markup! {
            details {
                summary { (plain_line(summary)) }
                // A browser opens what holds the place that is gone to.
                span id=(format!("in-{}", address(summary))) {}
                @for block in blocks { (of_block(block, step)) }
            }
        },
        Block::Frames(frames) => of_frames(frames, step),
        Block::Race(race) => of_race(race),
    }
}

fn figure(wide: &Drawing, narrow: Option<&Drawing>) -> Markup {
    markup! {
        figure {
            div.scroll.wide[narrow.is_some()] tabindex="0" role="group" aria-label=(wide.title()) {
                (PreEscaped(wide.for_page()))
            }
            @if let Some(narrow) = narrow { div.narrow { (PreEscaped(narrow.for_page())) } }
        }
    }
}

fn table(group: &Group) -> Markup {
    let columns: Vec<_> = group.for_people().collect();
    let side = |align: Align| if align == Align::Right { "n" } else { "" };
    let label = group.heading.clone().unwrap_or_else(|| "table".to_owned());
    markup! {
        @if let Some(heading) = &group.heading { h4 { (plain_line(heading)) } }
        @for line in &group.lead { p { (plain_line(line)) } }
        @match group.layout {
            Layout::Table => {
                div.scroll tabindex="0" role="group" aria-label=(plain_line(&label)) {
                    table {
                        thead { tr {
                            @for (_, column) in &columns {
                                th scope="col" class=[Some(side(column.align)).filter(|side| !side.is_empty())] { (plain_line(&column.heading())) }
                            }
                        } }
                        tbody {
                            @for row in &group.rows { tr {
                                @for (at, column) in &columns {
                                    (cell(&row[*at], side(column.align)))
                                }
                            } }
                        }
                    }
                }
            }
            Layout::Record => {
                @for row in &group.rows { dl {
                    @for (at, column) in &columns {
                        dt { (plain_line(&column.heading())) }
                        dd class=(role(row[*at].role)) { (plain_line(&row[*at].read())) }
                    }
                } }
            }
        }
        @if !group.drawing.is_empty() {
            pre { @for line in &group.drawing { (plain_line(line)) "\n" } }
        }
        @if !group.notes.is_empty() {
            ul.notes { @for note in &group.notes { li { (plain_line(note)) } } }
        }
    }
}

/// Letters up to which a cell stays on one line.
const SHORT: usize = 26;

fn cell(cell: &Cell, side: &str) -> Markup {
    let words = plain_line(&cell.read());
    let long = if words.chars().count() <= SHORT { "" } else { "w" };
    let class = [side, long, role(cell.role)].into_iter().filter(|class| !class.is_empty());
    let class = class.collect::<Vec<_>>().join(" ");
    markup! { td class=[Some(class).filter(|class| !class.is_empty())] { (words) } }
}

/// Returns the style of a role; the words say the same.
fn role(role: Role) -> &'static str {
    match role {
        Role::Plain | Role::Heading => "",
        Role::Quiet => "quiet",
        Role::Better => "better",
        Role::Worse | Role::Failed => "worse",
        Role::Open => "open",
    }
}

fn frame_count(block: &Block) -> usize {
    match block {
        Block::Frames(frames) => frames.frames.len(),
        Block::Details { blocks, .. } => blocks.iter().map(frame_count).sum(),
        _ => 0,
    }
}

/// Returns what the page was made of, as its head says it.
fn made(page: &Page) -> Option<String> {
    let made = &page.evidence.as_ref()?.made;
    Some(serde_json::to_string(made).expect("plain fields"))
}

fn saved(page: &Page) -> Markup {
    markup! {
        section #files aria-label="Files" {
            h2 { "Files" }
            p { "Everything that the figures were made from, inside this page." }
            ul {
                @if let Some(evidence) = &page.evidence {
                    li {
                        a download=(LOGBOOK)
                            href=(format!("data:application/zstd;base64,{}", evidence.logbook))
                        { (LOGBOOK) }
                        ", everything recorded: lap verify with the name of this page proves its figures from it"
                    }
                }
                @for file in &page.files { li { (one_file(file)) ", " (file.about) } }
            }
        }
    }
}

/// Returns the way to a file: a long table is packed, and unpacked by the script, or by whoever saves it without.
fn one_file(file: &File) -> Markup {
    if file.kind != TABLE || file.bytes.len() <= LONG_TABLE {
        let href = format!("data:{};base64,{}", file.kind, STANDARD.encode(&file.bytes));
        return markup! { a download=(file.name) href=(href) { (file.name) } };
    }
    let packed = format!("data:application/gzip;base64,{}", gzip(&file.bytes));
    let name = format!("{}.gz", file.name);
    markup! { a download=(name) href=(packed) data-plain=(file.name) { (name) } }
}

#[cfg(test)]
mod tests {
    use super::super::{Frames, Race};
    use super::*;
    use crate::table::Column;

    fn page() -> Page {
        let frames = Frames {
            name: "heron-1.1".into(),
            says: "60 fps".into(),
            frames: vec![16_666_667; 100],
            budget: Some(16.67),
            cut: vec![(0.0, 0.5)],
        };
        let group = Group {
            heading: Some("dome-still".into()),
            lead: vec![],
            columns: vec![Column::text("rig", "rig"), Column::machine("hidden")],
            rows: vec![vec![Cell::text("<b>wren</b>"), Cell::text("for programs")]],
            layout: Layout::Table,
            drawing: vec![],
            notes: vec![],
        };
        let race = Race {
            of: "dome-still".into(),
            rigs: vec![("heron".into(), 2.0, "2 s".into()), ("wren".into(), 4.0, "4 s".into())],
        };
        Page {
            title: "Dome <script>alert(1)</script>".into(),
            conclusion: vec!["heron is ahead".into()],
            parts: vec![Part {
                heading: "dome-still & more".into(),
                blocks: vec![
                    Block::Table(group),
                    Block::Frames(frames),
                    Block::Race(race),
                    Block::Way { words: "its laps".into(), to: "Every lap of it".into() },
                    Block::Details { summary: "Every lap of it".into(), blocks: vec![] },
                ],
            }],
            files: vec![File {
                name: "laps.csv".into(),
                about: "every lap".into(),
                kind: "text/csv",
                bytes: b"a,b\n".to_vec(),
            }],
            stamp: "lap 0.2.0".into(),
            ..Page::default()
        }
    }

    #[test]
    fn what_comes_from_outside_is_text_and_the_policy_allows_its_own_script_alone() {
        let out = html(&page());
        assert!(out.contains("Dome &lt;script&gt;") && out.contains("&lt;b&gt;wren&lt;/b&gt;"));
        assert!(!out.contains("for programs"), "machine columns stay in the files");
        let own = hash(SCRIPT);
        assert!(out.contains(&format!("script-src '{own}'")) && out.contains("default-src 'none'"));
        // One script that runs; what carries frames is no script.
        assert_eq!(out.matches("<script>").count(), 1);
        assert_eq!(out.matches("<script type=\"text/plain\">").count(), 1);
        for elsewhere in ["http://", "https://", "src=\"", "@import"] {
            assert!(!out.contains(elsewhere), "{elsewhere}");
        }
    }

    #[test]
    fn a_race_without_script_shows_how_far_each_is_when_the_quickest_is_done() {
        let out = html(&page());
        assert!(out.contains("value=\"1.0000\"") && out.contains("value=\"0.5000\""), "{out}");
    }

    #[test]
    fn parts_and_files_can_be_reached() {
        let mut page = page();
        page.parts.push(Part { heading: "Files".into(), blocks: vec![] });
        let out = html(&page);
        let there = |id: &str| {
            out.contains(&format!("href=\"#{id}\"")) && out.contains(&format!("id=\"{id}\""))
        };
        assert!(there("dome-still---more") && there("files") && there("files-2"), "{out}");
        assert!(there("in-every-lap-of-it"), "details are gone to from outside");
        assert!(out.contains("download=\"laps.csv\" href=\"data:text/csv;base64,YSxiCg==\""));
        page.files[0].bytes = b"rig,time\n".repeat(1_000);
        let out = html(&page);
        let packed = "download=\"laps.csv.gz\" href=\"data:application/gzip;base64,H4sI";
        assert!(out.contains(packed) && out.contains("data-plain=\"laps.csv\""), "{out}");
    }
}
