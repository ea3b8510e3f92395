//! `lap run --preview`: what would be driven, in which order, and how long it should take.

use super::time_cell;
use super::words::{count, lap_of, lap_time};
use crate::progress::left_words;
use honest_lap_core::forecast::Forecast;
use honest_lap_core::schedule::PlannedLap;
use honest_lap_core::workload::{Launch, Workload};
use honest_lap_draw::{Cell, Column, Group, Layout, Role, Sheet};

/// Returns the sheet of a plan.
pub fn preview(
    workloads: &[Workload],
    order: &[PlannedLap],
    rig: &str,
    seed: u64,
    forecast: &Forecast,
) -> Sheet {
    let expected = forecast.of(order, |part| workloads[part].rest);
    let warm_ups = order.iter().filter(|lap| lap.warm_up).count();
    let time = if expected.unknown == order.len() {
        "how long they take is not known yet".to_owned()
    } else {
        format!("{} in all", left_words(expected))
    };
    let laps = count(order.len(), "lap");
    let lead = format!("On rig {rig}: {laps} ({warm_ups} to warm up), {time}.");
    let shells: Vec<String> = workloads
        .iter()
        .filter(|workload| matches!(workload.task.command, Launch::Shell(_)))
        .map(|workload| {
            format!("{}: its command is a text, so it goes through the shell", workload.name)
        })
        .collect();
    Sheet {
        schema: "honest-lap/preview",
        version: 1,
        title: Some("What would be driven".to_owned()),
        lead: vec![lead],
        groups: vec![Group {
            heading: None,
            lead: Vec::new(),
            columns: vec![
                Column::figure("place", "lap"),
                Column::text("workload", "workload").people(),
                Column::machine("workload"),
                Column::machine("variant"),
                Column::figure("round", "round"),
                Column::text("warm_up", "kind"),
                Column::figure("expected_ns", "expected"),
            ],
            rows: (1..)
                .zip(order)
                .map(|(place, lap)| row(place, lap, workloads, forecast))
                .collect(),
            layout: Layout::Table,
            notes: shells,
        }],
        notes: vec![format!("Order seeded with {seed}; the same order again: --seed {seed}")],
    }
}

fn row(place: u64, lap: &PlannedLap, workloads: &[Workload], forecast: &Forecast) -> Vec<Cell> {
    let workload = &workloads[lap.part];
    let variants = workload.variants();
    let settings = &variants[lap.variant];
    let kind = if lap.warm_up { "warm-up" } else { "counted" };
    let role = if lap.warm_up { Role::Quiet } else { Role::Plain };
    vec![
        Cell::whole(place),
        Cell::text(lap_of(&workload.name, settings)),
        Cell::text(&workload.name),
        Cell::text(settings.to_string()),
        Cell::whole(u64::from(lap.round)),
        Cell::flag(lap.warm_up).shown(kind).role(role),
        Cell::or_missing(forecast.lap(lap.part, lap.variant), |wall| {
            time_cell(wall, lap_time(wall)).role(role)
        })
        .role(role),
    ]
}
