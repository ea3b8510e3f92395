//! `lap run --preview`: what would be run, in which order, and how long it should take.

use super::time_cell::time_cell;
use crate::table::{Cell, Column, Group, Layout, Role, Sheet};
use crate::words::{count, lap_of, lap_time, left_words};
use honest_lap_core::plan::{DoneLap, Forecast, PlannedLap, Planner};
use honest_lap_core::record::{Goal, Launch, Workload};
use honest_lap_core::unit::{display_share, display_span};

/// Returns the sheet of a plan.
pub fn preview(
    workloads: &[Workload],
    planner: &Planner,
    driven: &[DoneLap],
    rig: &str,
    seed: u64,
    forecast: &Forecast,
) -> Sheet {
    let done = |place: usize| driven.iter().any(|lap| lap.place == place);
    let left: Vec<(u64, PlannedLap)> = (1..)
        .zip(planner.order().iter().copied())
        .filter(|(p, _)| !done(*p as usize - 1))
        .collect();
    let order: Vec<PlannedLap> = left.iter().map(|(_, lap)| *lap).collect();
    let expected = forecast.of(&order, |part| workloads[part].rest.time);
    let warm_ups = order.iter().filter(|lap| lap.warm_up).count();
    let time = if expected.unknown == order.len() {
        "how long they take is not known yet".to_owned()
    } else {
        format!("{} in all", left_words(expected))
    };
    let laps = count(order.len(), "lap");
    let lead = format!("On rig {rig}: {laps} ({warm_ups} to warm up), {time}.");
    let goal = match planner.goal() {
        Goal::All => None,
        Goal::Until(share) => {
            let share = display_share(share);
            Some(format!(
                "At most: a workload ends at a look that finds its figures known to ±{share}."
            ))
        }
        Goal::Budget(span) => {
            let span = display_span(span);
            Some(format!("At least: {span} are spent, on whatever is least certain."))
        }
    };
    let shells: Vec<String> = workloads
        .iter()
        .filter(|workload| matches!(workload.task.command, Some(Launch::Shell(_))))
        .map(|workload| {
            format!("{}: its command is a text, so it goes through the shell", workload.name)
        })
        .collect();
    Sheet {
        schema: "honest-lap/preview",
        version: 1,
        title: Some("What would be run".to_owned()),
        lead: [lead].into_iter().chain(goal).collect(),
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
            rows: left.iter().map(|(place, lap)| row(*place, lap, workloads, forecast)).collect(),
            layout: Layout::Table,
            drawing: Vec::new(),
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
