//! `lap show`: every session, and what came of its laps.

use crate::table::{Cell, Column, Group, Layout, Role, Sheet};
use crate::words::count;
use honest_lap_core::record::SessionPage;
use std::collections::BTreeSet;

/// Returns the sheet of `pages`, or of those of one rig.
pub fn sessions(title: Option<&str>, pages: &[SessionPage], rig: Option<&str>) -> Sheet {
    let pages: Vec<&SessionPage> =
        pages.iter().filter(|page| rig.is_none_or(|rig| page.record.name.rig == rig)).collect();
    let rigs: BTreeSet<&str> = pages.iter().map(|page| page.record.name.rig.as_str()).collect();
    let counted: usize = pages.iter().map(|page| page.counted).sum();
    let failed: usize = pages.iter().map(|page| not_done(page)).sum();
    let aside = match pages.iter().map(|page| page.set_aside).sum::<usize>() {
        0 => String::new(),
        n => format!("{n} set aside, "),
    };
    let lead = format!(
        "{} on {}: {} counted, {aside}{failed} not done.",
        count(pages.len(), "session"),
        count(rigs.len(), "rig"),
        count(counted, "lap"),
    );
    Sheet {
        schema: "honest-lap/sessions",
        version: 1,
        title: title.map(str::to_owned),
        lead: vec![lead],
        groups: vec![Group {
            heading: None,
            lead: Vec::new(),
            columns: vec![
                Column::text("session", "session"),
                Column::machine("rig"),
                Column::text("started", "started"),
                Column::machine("measured_on"),
                Column::text("workloads", "workloads").wrap(24),
                Column::figure("laps_counted", "laps"),
                Column::figure("laps_warm_up", "warm-up").spare(2),
                Column::figure("laps_set_aside", "set aside"),
                Column::figure("laps_not_done", "not done"),
                Column::text("processor", "processor").spare(1),
                Column::machine("tool"),
                Column::machine("seed"),
            ],
            rows: pages.iter().map(|page| row(page)).collect(),
            layout: Layout::Table,
            drawing: Vec::new(),
            notes: Vec::new(),
        }],
        notes: vec!["One session, lap by lap: lap show NAME".to_owned()],
    }
}

fn row(page: &SessionPage) -> Vec<Cell> {
    let record = &page.record;
    let failed = not_done(page);
    vec![
        Cell::text(record.name.to_string()),
        Cell::text(&record.name.rig),
        Cell::text(&record.started).shown(match record.about.on {
            Some(day) => day.to_string(),
            None => minute(&record.started),
        }),
        Cell::or_missing(record.about.on, |day| Cell::text(day.to_string())),
        Cell::list(page.workloads.clone()).shown(page.workloads.join(", ")),
        Cell::whole(page.counted as u64),
        Cell::whole(page.warm_up as u64),
        Cell::whole(page.set_aside as u64),
        Cell::whole(failed as u64).role(if failed > 0 { Role::Failed } else { Role::Plain }),
        Cell::or_missing(record.found.processor.clone(), Cell::text),
        Cell::text(&record.tool),
        Cell::whole(record.seed),
    ]
}

fn not_done(page: &SessionPage) -> usize {
    page.not_done.values().sum()
}

/// Returns an RFC 3339 moment to the minute.
pub fn minute(moment: &str) -> String {
    match (moment.get(..10), moment.get(11..16)) {
        (Some(day), Some(time)) => format!("{day} {time}"),
        _ => moment.to_owned(),
    }
}
