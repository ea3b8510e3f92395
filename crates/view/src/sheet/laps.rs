//! Every lap of a logbook in one table: what all other figures are made of.

use crate::table::{Cell, Column, Group, Layout, Role, Sheet};
use crate::words::{measured, time_read};
use honest_lap_core::lab::Lap;
use honest_lap_core::record::{Reading, TIME};
use std::collections::BTreeSet;

/// Returns the sheet of `laps`, in the order given, with a column for every reading any of them has.
pub fn laps(laps: &[Lap<'_>]) -> Sheet {
    let readings: BTreeSet<(&str, &str)> = laps
        .iter()
        .flat_map(|lap| lap.alike.read())
        .map(|reading| (reading.name.as_str(), reading.unit.as_str()))
        .collect();
    let mut columns = vec![
        Column::text("lap", "lap"),
        Column::machine("session"),
        Column::machine("rig"),
        Column::machine("workload"),
        Column::text("variant", "variant"),
        Column::machine("round"),
        Column::text("outcome", "what came of it"),
        Column::machine("warm_up"),
        Column::machine("counted"),
        Column::text("set_aside_because", "set aside because"),
        Column::figure("time_ns", TIME),
        Column::text("readings", "readings"),
    ];
    if laps.iter().all(|lap| lap.settings().is_untold()) {
        columns[4] = Column::machine("variant");
    }
    if laps.iter().all(|lap| lap.set_aside.is_none()) {
        columns[9] = Column::machine("set_aside_because");
    }
    if readings.is_empty() {
        columns[11] = Column::machine("readings");
    }
    Sheet {
        schema: "honest-lap/laps",
        version: 1,
        title: None,
        lead: Vec::new(),
        groups: vec![Group {
            heading: None,
            lead: Vec::new(),
            columns,
            rows: laps.iter().map(row).collect(),
            layout: Layout::Table,
            drawing: Vec::new(),
            notes: Vec::new(),
        }],
        notes: Vec::new(),
    }
}

fn row(lap: &Lap<'_>) -> Vec<Cell> {
    let counts = lap.yields().counts();
    let outcome = match (lap.set_aside.is_some(), lap.warm_up) {
        (true, _) => "set aside",
        (false, true) => "warm-up",
        (false, false) => "counted",
    };
    let came = match lap.outcome {
        honest_lap_core::record::Outcome::Done => outcome,
        outcome => outcome.phrase(),
    };
    let role = if counts { Role::Plain } else { Role::Quiet };
    let said = |reading: &Reading| {
        let value = reading.value.map(|value| measured(value, &reading.unit));
        format!("{} {}", reading.name, value.unwrap_or_else(|| "not read".to_owned()))
    };
    vec![
        Cell::text(lap.name().to_string()),
        Cell::text(lap.session().to_string()),
        Cell::text(lap.rig()),
        Cell::text(lap.workload()),
        Cell::text(lap.settings().to_string()),
        Cell::whole(u64::from(lap.round)),
        Cell::text(lap.outcome.word()).shown(came).role(role),
        Cell::flag(lap.warm_up),
        Cell::flag(counts),
        Cell::or_missing(lap.set_aside.as_ref(), Cell::text),
        Cell::or_missing(lap.yields().time(), |time| {
            Cell::whole(time.0).shown(time_read(time, lap.step)).role(role)
        }),
        Cell::list(lap.readings().iter().map(said).collect()),
    ]
}

#[cfg(test)]
mod tests {
    use super::*;
    use honest_lap_core::lab::Laps;
    use honest_lap_core::record::{LapHead, LapName, Settings};
    use honest_lap_core::unit::Nanos;

    #[test]
    fn laps_that_do_not_count_say_why_and_keep_their_time() {
        let name = |text| LapName::parse(text).unwrap();
        let lap = |text| LapHead::done(name(text), "w", Settings::default(), Nanos(1_500_000_000));
        let warm = LapHead { warm_up: true, ..lap("heron-1.1") };
        let aside = LapHead { set_aside: Some("a door slammed".into()), ..lap("heron-1.2") };
        let packed = Laps::from(vec![warm, aside, lap("heron-1.3")]);
        let sheet = laps(&packed.in_order());
        let rows = &sheet.groups[0].rows;
        let came = |row: &Vec<Cell>| row[6].text.clone().unwrap();
        assert_eq!(rows.iter().map(came).collect::<Vec<_>>(), ["warm-up", "set aside", "counted"]);
        assert_eq!(rows[1][9], Cell::text("a door slammed"));
        assert_eq!(rows[0][10].text.as_deref(), Some("1.500 s"));
    }
}
