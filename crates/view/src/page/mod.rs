//! A report: everything that the other commands say of a study, as one page.
//!
//! Records in, page out: nothing here reads a file or decides what a figure means.

mod anonymous;
mod answer;
mod files;
pub mod form;
mod material;

pub use anonymous::{Anonymous, Kind};
pub use answer::conclusion;
use answer::missing;
use files::files;
pub use material::Material;

use crate::chart::{self, BarsFigure};
use crate::figure::{self, Over};
use crate::overview::overview;
use crate::page::form::{Block, Frames, Page, Part, Race};
use crate::sheet::{self, Detail, Doubted, Tables, heading};
use crate::table::{Cell, Column, Group, Layout, Sheet};
use crate::words;
use honest_lap_core::capacity::CAPACITY;
use honest_lap_core::judge::{Against, Group as Compared, HeldConstant, Row, WorkloadView};
use honest_lap_core::lab::{Lap, Run};
use honest_lap_core::record::SessionPage;
use honest_lap_core::record::{Rig, TIME};
use honest_lap_draw::Drawing;

/// How wide figures are: for a screen or paper, and for a phone.
const WIDE: f64 = 1132.0;
const NARROW: f64 = 390.0;

/// Returns the page of `from`.
pub fn page(from: &Material<'_>) -> Page {
    let study = from.study;
    let compared = sheet::compare(study, from.shown, Detail::Full);
    let index = from.shown.analysis.indexes.first();
    let mut parts = workloads(from);
    parts.extend(overall(from));
    parts.extend(worth(from));
    parts.extend(claims(from));
    parts.push(doubts(from));
    parts.push(rigs(from));
    parts.push(sessions(from));
    parts.push(method(from, &compared));
    let analysis = from.shown.analysis;
    let seen = overview(study, analysis);
    let mut conclusion = conclusion(index, &seen, &analysis.views);
    conclusion.extend(sheet::chosen(&analysis.chosen));
    let despite = analysis.question.despite.as_ref();
    conclusion.extend(despite.map(|why| format!("Compared despite what differs, since: {why}.")));
    let unread = &from.shown.analysis.unread;
    let missing = missing(study, index, &seen, unread);
    let glance = "All of it at a glance";
    let figure = chart::OverviewFigure {
        bare: true,
        ..figure::overview(&seen, glance, conclusion.first().cloned().unwrap_or_default())
    };
    let glance =
        (!seen.lines.is_empty()).then(|| both(&[], |width| chart::overview(&figure, width)));
    Page {
        title: study.title.clone().unwrap_or_else(|| "A study".to_owned()),
        question: study.question.clone(),
        conclusion,
        overview: glance,
        missing,
        parts,
        files: files(from, &compared),
        evidence: from.evidence.clone(),
        stamp: from.stamp.clone(),
    }
}

/// Returns a part for every workload, in the order of the comparison's tables.
fn workloads(from: &Material<'_>) -> Vec<Part> {
    let mut parts: Vec<Part> = Vec::new();
    let all = sheet::tables(from.study, from.shown, Detail::Full);
    for (place, Tables { view, own, elsewhere }) in all.iter().enumerate() {
        let new = parts.last().is_none_or(|part| part.heading != view.workload);
        if new {
            parts.push(Part { heading: view.workload.clone(), blocks: Vec::new() });
        }
        let Some(part) = parts.last_mut() else { continue };
        let doubted = Doubted::about(&view.workload, from.shown);
        for (group, table) in view.groups.iter().zip(own) {
            let figure = figure::bars(view, group, &doubted, &from.shown.analysis.elsewhere);
            part.blocks.push(both(&figure.notes, |width| chart::bars(&figure, width)));
            part.blocks.extend(race(view, group).map(Block::Race));
            part.blocks.push(Block::Table(beside(table.clone(), &figure)));
            let words = "The laps that these figures are made of".to_owned();
            part.blocks.push(Block::Way { words, to: laps_of(&view.workload) });
        }
        part.blocks.extend(elsewhere.clone().map(Block::Table));
        if view.measure.name == CAPACITY {
            let finding = view.groups.iter().flat_map(|group| sheet::answer(group, &view.measure));
            let finding = finding.collect::<Vec<_>>().join(" ");
            let figure = figure::loads(&view.workload, finding, from.searches);
            part.blocks.push(both(&[], |width| chart::loads(&figure, width)));
        }
        let last = all.get(place + 1).is_none_or(|next| next.view.workload != view.workload);
        if last {
            let figure = figure::rate_profile(&view.workload, from.runs);
            part.blocks.extend(
                figure.map(|figure| both(&[], |width| chart::rate_profile(&figure, width))),
            );
            part.blocks.extend(passes(from, &view.workload));
            part.blocks.push(every_lap(from, view));
        }
    }
    parts
}

/// Returns a table without what the figure ahead of it says already.
fn beside(table: Group, figure: &BarsFigure) -> Group {
    let new = |lines: Vec<String>, said: &[String]| {
        lines.into_iter().filter(|line| !said.contains(line)).collect::<Vec<_>>()
    };
    let (lead, notes) = (new(table.lead, &figure.answer), new(table.notes, &figure.notes));
    Group { lead, notes, ..table }
}

/// Returns a figure as it is drawn for a screen and for a phone.
fn both(notes: &[String], draw: impl Fn(f64) -> Drawing) -> Block {
    let (wide, narrow) = (Box::new(draw(WIDE)), Some(Box::new(draw(NARROW))));
    Block::Figure { wide, narrow, notes: notes.to_vec() }
}

fn one(drawing: Drawing) -> Block {
    Block::Figure { wide: Box::new(drawing), narrow: None, notes: Vec::new() }
}

/// Returns the rigs side by side, where they do the same work and it is timed.
fn race(view: &WorkloadView, group: &Compared) -> Option<Race> {
    if view.measure.name != TIME || group.held == HeldConstant::Rigs {
        return None;
    }
    let comparable = |row: &&Row| row.differs.is_empty();
    let seconds = |row: &Row| row.cell.as_ref().map(|cell| cell.typical());
    let mut rigs: Vec<(String, f64, String)> = group
        .rows
        .iter()
        .filter(comparable)
        .filter_map(|row| Some((row.rig.clone(), seconds(row)?)))
        .map(|(rig, s)| (rig, s, words::measured(s, "s")))
        .collect();
    rigs.sort_by(|a, b| a.1.total_cmp(&b.1));
    (rigs.len() > 1).then(|| Race { of: heading(view, group), rigs })
}

/// Returns the frame times of a workload's passes, to be seen and to be looked into.
fn passes(from: &Material<'_>, workload: &str) -> Vec<Block> {
    let Some(framed) = from.frames.iter().find(|framed| framed.name == workload) else {
        return Vec::new();
    };
    let figure = figure::passes(framed);
    let looked = framed.passes.iter().zip(figure::says_of(framed)).map(|(pass, says)| {
        let cut = pass.digest.cut.stretches().iter();
        let seconds = |nanos: honest_lap_core::unit::Nanos| nanos.seconds();
        Block::Frames(Frames {
            name: pass.lap.to_string(),
            says,
            frames: pass.recorded.pass.shown.clone(),
            budget: figure.display.map(|(_, ms)| ms),
            cut: cut.map(|stretch| (seconds(stretch.from), seconds(stretch.to))).collect(),
        })
    });
    let table = sheet::frames(None, std::slice::from_ref(framed)).groups.into_iter().next();
    let mut blocks = vec![
        Block::Heading("Frame times".to_owned()),
        one(chart::passes(&figure)),
        one(chart::tail(&figure::tail(framed))),
    ];
    // The strips are the figure above, drawn with letters.
    blocks.extend(table.map(|table| Block::Table(Group { drawing: Vec::new(), ..table })));
    blocks.push(Block::Details {
        summary: format!("Look into the passes of {workload}, frame by frame"),
        blocks: looked.collect(),
    });
    blocks
}

fn laps_of(workload: &str) -> String {
    format!("Every lap of {workload}, and what the machine did meanwhile")
}

/// Returns the laps behind the figures of a workload.
fn every_lap(from: &Material<'_>, view: &WorkloadView) -> Block {
    let laps = from.laps.in_order();
    let laps = laps.into_iter().filter(|lap| lap.workload() == view.workload);
    let laps: Vec<Lap<'_>> = laps.collect();
    let analysis = from.shown.analysis;
    let figure = figure::laps(&view.workload, &view.measure, &analysis.series, &analysis.findings);
    let table = sheet::laps(&laps).groups.into_iter().map(Block::Table);
    // A phone scrolls it: drawn twice, the laps of thirty workloads would be half the page.
    let figure = one(chart::laps(&figure, WIDE));
    let told = "Each by its name: `lap show` with that name has all that is known of it.";
    Block::Details {
        summary: laps_of(&view.workload),
        blocks: [figure, Block::Words(told.to_owned())].into_iter().chain(table).collect(),
    }
}

fn overall(from: &Material<'_>) -> Option<Part> {
    let sheet =
        sheet::overall(from.study, &from.shown.analysis.indexes, &from.shown.analysis.views);
    let mut blocks = Vec::new();
    for (index, table) in from.shown.analysis.indexes.iter().zip(sheet.groups) {
        if index.found.rows.len() > 1 {
            let figure =
                figure::index(index, &from.shown.analysis.views, from.shown.analysis.assume.margin);
            blocks.push(both(&[], |width| chart::ratios(&figure, width)));
        }
        blocks.push(Block::Table(table));
    }
    blocks.push(Block::List(sheet.notes));
    let any = from.shown.analysis.indexes.iter().any(|index| index.found.rows.len() > 1);
    any.then(|| Part { heading: "Overall".to_owned(), blocks })
}

fn worth(from: &Material<'_>) -> Option<Part> {
    let valued = from.shown.analysis.worth.as_ref()?;
    let sheet = sheet::value(from.study, valued, false, &from.shown.analysis.findings);
    let figure = figure::worth(from.study, &valued.found, Over::Price)?;
    let mut blocks = vec![one(chart::worth(&figure))];
    blocks.extend(sheet.lead.into_iter().map(Block::Words));
    blocks.extend(sheet.groups.into_iter().map(Block::Table));
    blocks.push(Block::List(sheet.notes));
    Some(Part { heading: "What it is worth".to_owned(), blocks })
}

fn claims(from: &Material<'_>) -> Option<Part> {
    if from.shown.analysis.answered.is_empty() {
        return None;
    }
    let analysis = from.shown.analysis;
    let sheet = sheet::claims(from.study, &analysis.answered, &analysis.findings, &analysis.assume);
    let mut blocks: Vec<Block> = sheet.lead.into_iter().map(Block::Words).collect();
    blocks.extend(sheet.groups.into_iter().map(Block::Table));
    blocks.push(Block::List(sheet.notes));
    Some(Part { heading: "Claims checked".to_owned(), blocks })
}

fn doubts(from: &Material<'_>) -> Part {
    let sheet = sheet::doubts(&from.shown.analysis.findings, from.shown.analysis.laps());
    let mut blocks: Vec<Block> = sheet.lead.into_iter().map(Block::Words).collect();
    if !from.shown.analysis.findings.is_empty() {
        blocks.extend(sheet.groups.into_iter().map(Block::Table));
        blocks.push(Block::List(sheet.notes));
    }
    Part { heading: "Doubts".to_owned(), blocks }
}

/// Returns the rigs in full: as people describe them, and as they were last found.
fn rigs(from: &Material<'_>) -> Part {
    let mut names: Vec<&str> = from.study.rigs.iter().map(|rig| rig.name.as_str()).collect();
    for page in from.sessions {
        if !names.contains(&page.record.name.rig.as_str()) {
            names.push(&page.record.name.rig);
        }
    }
    let mut blocks = Vec::new();
    for name in names {
        blocks.push(Block::Heading(name.to_owned()));
        let mut fields = from.study.rig(name).map(described).unwrap_or_default();
        let found = from.sessions.iter().filter(|page| page.record.name.rig == name);
        if let Some(page) = found.max_by_key(|page| page.record.measured().into_owned()) {
            let sheet = sheet::rig(&page.record.found, None, &[]);
            let group = sheet.groups.into_iter().next();
            let of = |group: Group| group.columns.into_iter().zip(group.rows.into_iter().flatten());
            let known = group.into_iter().flat_map(of);
            fields.extend(known.filter(|(_, cell)| *cell != Cell::missing()));
        }
        if fields.is_empty() {
            blocks.push(Block::Words("Nothing is known of it but its name.".to_owned()));
            continue;
        }
        let (columns, row) = fields.into_iter().unzip();
        blocks.push(Block::Table(record(columns, row)));
    }
    Part { heading: "The rigs".to_owned(), blocks }
}

fn record(columns: Vec<Column>, row: Vec<Cell>) -> Group {
    let (heading, lead, drawing, notes) = Default::default();
    Group { heading, lead, columns, rows: vec![row], layout: Layout::Record, drawing, notes }
}

/// Returns what the study says of a rig.
fn described(rig: &Rig) -> Vec<(Column, Cell)> {
    let text = |key, title: &str, value: String| (Column::text(key, title), Cell::text(value));
    let mut fields = Vec::new();
    fields.extend(rig.about.iter().map(|about| text("about", "about", about.clone())));
    fields.extend(rig.price.iter().map(|price| text("price", "price", price.to_string())));
    fields.extend(rig.model.iter().map(|model| text("model", "model", model.clone())));
    let peaks = rig.peaks.iter().map(words::peak_words);
    fields.extend(peaks.map(|peak| text("peak", "at most, on paper", peak)));
    for part in &rig.parts {
        fields.push(text("part", &part.name, words::part_words(part)));
    }
    for (name, watts) in
        [("mean", rig.power.mean), ("peak", rig.power.peak), ("idle", rig.power.idle)]
    {
        fields.extend(watts.map(|watts| {
            text("power", &format!("power, {name}, as stated"), format!("{watts} W"))
        }));
    }
    for cannot in &rig.unsupported {
        let what = words::lap_of(&cannot.workload, &cannot.settings);
        fields.push(text("unsupported", &format!("cannot do {what}"), cannot.why.clone()));
    }
    fields
}

fn sessions(from: &Material<'_>) -> Part {
    let sheet = sheet::sessions(None, from.sessions, None);
    let mut blocks: Vec<Block> = sheet.lead.into_iter().map(Block::Words).collect();
    blocks.extend(sheet.groups.into_iter().map(Block::Table));
    let seed = |page: &SessionPage| format!("{}: seed {}", page.record.name, page.record.seed);
    blocks.push(Block::Details {
        summary: "Seeds of the orders in which laps were run".to_owned(),
        blocks: vec![Block::List(from.sessions.iter().map(seed).collect())],
    });
    let aside = |lap: &Lap<'_>| Some(format!("{}: {}", lap.name(), lap.set_aside.as_ref()?));
    let aside: Vec<String> = from.laps.in_order().iter().filter_map(aside).collect();
    if !aside.is_empty() {
        blocks.push(Block::Heading("Set aside, and why".to_owned()));
        blocks.push(Block::List(aside));
    }
    if !from.shown.remarks.is_empty() {
        blocks.push(Block::Heading("Remarks".to_owned()));
        blocks.extend(sheet::remarks(from.shown.remarks).groups.into_iter().map(Block::Table));
    }
    Part { heading: "Sessions and conditions".to_owned(), blocks }
}

fn method(from: &Material<'_>, compared: &Sheet) -> Part {
    let order = "Laps of the variants of a workload take turns, A B B A for two, in a seeded order that is \
                 recorded; rests between laps are not counted. Time is read on the monotonic clock \
                 around start and end of each lap's own process.";
    let judged = |view: &WorkloadView| {
        let rows = view.groups.iter().flat_map(|group| &group.rows);
        rows.filter(|row| matches!(row.against, Against::Other(_))).count()
    };
    let runs = from.shown.analysis.series.iter().flat_map(|series| series.runs());
    let counted: usize = runs.filter(Run::counts).map(|run| run.len()).sum();
    let sums = format!(
        "{} laps are recorded, of which {counted} count; {} comparisons are made of them in {} sessions.",
        from.laps.len(),
        from.shown.analysis.views.iter().map(judged).sum::<usize>(),
        from.sessions.len()
    );
    let mut blocks = vec![Block::Words(sums), Block::Words(order.to_owned())];
    blocks.push(Block::List(compared.notes.clone()));
    Part { heading: "Method".to_owned(), blocks }
}
