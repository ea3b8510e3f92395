//! `lap show SESSION`: its rig as found, and every lap in the order driven.

use super::time_cell;
use super::words::{count, lap_time};
use honest_lap_core::lap::{LapHead, Outcome};
use honest_lap_core::rig::RigFound;
use honest_lap_core::unit::display_size;
use honest_lap_draw::{Cell, Column, Group, Layout, Role, Sheet};
use honest_lap_logbook::SessionPage;

/// Returns the sheet of one session.
pub fn session(page: &SessionPage, laps: &[LapHead]) -> Sheet {
    let record = &page.record;
    let failed: usize = page.not_done.values().sum();
    let mut lead = vec![format!(
        "{} counted, {} to warm up, {failed} not done.",
        count(page.counted, "lap"),
        page.warm_up
    )];
    lead.push(machine(&record.found));
    lead.extend(record.versions.iter().map(|version| {
        let line = version.line.as_deref().unwrap_or("not known: the command failed");
        format!("{} of {}: {line}", version.label, version.workload)
    }));
    Sheet {
        schema: "honest-lap/session",
        version: 1,
        title: Some(format!("session {} · {}", record.name, record.started)),
        lead,
        groups: vec![Group {
            heading: None,
            lead: Vec::new(),
            columns: vec![
                Column::text("lap", "lap"),
                Column::text("workload", "workload"),
                Column::text("variant", "variant"),
                Column::figure("round", "round"),
                Column::machine("warm_up"),
                Column::figure("wall_ns", "time"),
                Column::text("outcome", "outcome"),
                Column::machine("counted"),
            ],
            rows: laps.iter().map(row).collect(),
            layout: Layout::Table,
            notes: Vec::new(),
        }],
        notes: vec![
            format!("Order seeded with {}; driven by lap {}.", record.seed, record.tool),
            "One lap in full: lap show NAME".to_owned(),
        ],
    }
}

fn row(lap: &LapHead) -> Vec<Cell> {
    let done = lap.outcome == Outcome::Done;
    let outcome = match (done, lap.warm_up) {
        (true, true) => "warm-up",
        _ => lap.outcome.phrase(),
    };
    let role = match lap.outcome {
        Outcome::Done if lap.warm_up => Role::Quiet,
        Outcome::Done => Role::Plain,
        Outcome::Interrupted | Outcome::Lost => Role::Open,
        _ => Role::Failed,
    };
    let variant = lap.settings.to_string();
    vec![
        Cell::text(lap.name.to_string()),
        Cell::text(&lap.workload),
        if variant.is_empty() { Cell::missing() } else { Cell::text(variant) },
        Cell::whole(u64::from(lap.round)),
        Cell::flag(lap.warm_up),
        // How long a failed lap lasted is kept, and is no time of the work.
        Cell::or_missing(lap.wall, |wall| {
            let text = if done { lap_time(wall) } else { "–".to_owned() };
            time_cell(wall, text)
        }),
        Cell::text(lap.outcome.word()).shown(outcome).role(role),
        Cell::flag(lap.counted().is_some()),
    ]
}

/// Returns the machine in a line; what is not known is not guessed.
fn machine(found: &RigFound) -> String {
    let cores = match (found.cores, found.threads) {
        (Some(cores), Some(threads)) if cores != threads => {
            Some(format!("{} ({threads} threads)", count(cores as usize, "core")))
        }
        (Some(cores), _) => Some(count(cores as usize, "core")),
        (None, Some(threads)) => Some(count(threads as usize, "thread")),
        (None, None) => None,
    };
    let parts = [
        found.processor.clone(),
        cores,
        found.memory_bytes.map(|bytes| format!("{} of memory", display_size(bytes))),
        found.system.clone(),
        found.kernel.clone(),
        found.governor.as_ref().map(|governor| format!("{governor} governor")),
    ];
    let known: Vec<String> = parts.into_iter().flatten().collect();
    if known.is_empty() {
        "The machine said nothing of itself.".to_owned()
    } else {
        known.join(" · ")
    }
}
