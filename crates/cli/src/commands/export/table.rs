//! The tables of an export: their columns, and their rows one after another.

use super::sums::{SUMS, sums};
use crate::ctx::Ctx;
use crate::error::CmdError;
use crate::study_file::OpenStudy;
use honest_lap_core::record::LapHead;
use honest_lap_core::unit::Nanos;
use honest_lap_logbook::Logbook;
use honest_lap_logbook::exchange::{Column, Field, Holds, Rows};
use std::io;

use Holds::{Flag, Number, Text, Whole};

/// A table.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Table {
    /// A row a lap.
    Laps,
    /// A row for everything that was read from a lap.
    Readings,
    /// A row for every figure that is compared.
    Sums,
    /// A row for every sample of a sensor.
    Conditions,
    /// A row a frame.
    Frames,
    /// A row for every repetition in an endurance lap.
    Repeats,
}

const LAPS: [(&str, Holds); 16] = [
    ("lap", Text),
    ("session", Text),
    ("rig", Text),
    ("workload", Text),
    ("variant", Text),
    ("task_form", Whole),
    ("round", Whole),
    ("warm_up", Flag),
    ("outcome", Text),
    ("counted", Flag),
    ("set_aside_because", Text),
    ("time_ns", Whole),
    ("wall_ns", Whole),
    ("parts_ns", Whole),
    ("read_in_steps_of_ns", Whole),
    ("peak_memory_bytes", Whole),
];

const READINGS: [(&str, Holds); 11] = [
    ("lap", Text),
    ("rig", Text),
    ("workload", Text),
    ("variant", Text),
    ("measure", Text),
    ("unit", Text),
    ("better", Text),
    ("value", Number),
    ("read_in_steps_of", Number),
    ("counted", Flag),
    ("seen", Text),
];

/// Of the comparison's own columns, those that a figure is made of.
const CONDITIONS: [(&str, Holds); 8] = [
    ("lap", Text),
    ("rig", Text),
    ("workload", Text),
    ("at_ms", Whole),
    ("quantity", Text),
    ("which", Text),
    ("unit", Text),
    ("value", Number),
];

const FRAMES: [(&str, Holds); 10] = [
    ("lap", Text),
    ("rig", Text),
    ("workload", Text),
    ("frame", Whole),
    ("begins_ns", Whole),
    ("frame_time_ns", Whole),
    ("processor_busy_ns", Whole),
    ("graphics_busy_ns", Whole),
    ("call_ns", Whole),
    ("cut", Flag),
];

const REPEATS: [(&str, Holds); 6] = [
    ("lap", Text),
    ("rig", Text),
    ("workload", Text),
    ("repeat", Whole),
    ("began_ns", Whole),
    ("took_ns", Whole),
];

fn failed(err: io::Error) -> CmdError {
    CmdError::output(&err)
}

impl Table {
    /// Every table.
    const ALL: [Self; 6] =
        [Self::Laps, Self::Readings, Self::Sums, Self::Conditions, Self::Frames, Self::Repeats];

    /// Returns the table that `word` names.
    pub fn named(word: &str) -> Option<Self> {
        Self::ALL.into_iter().find(|table| table.word() == word)
    }

    fn fields(self) -> &'static [(&'static str, Holds)] {
        match self {
            Self::Laps => &LAPS,
            Self::Readings => &READINGS,
            Self::Sums => &SUMS,
            Self::Conditions => &CONDITIONS,
            Self::Frames => &FRAMES,
            Self::Repeats => &REPEATS,
        }
    }

    /// Returns its columns, whatever is in the logbook.
    pub fn columns(self) -> Vec<Column> {
        self.fields().iter().map(|(name, holds)| Column::new(name, *holds)).collect()
    }

    /// Returns the word that names it.
    pub fn word(self) -> &'static str {
        match self {
            Self::Laps => "laps",
            Self::Readings => "readings",
            Self::Sums => "sums",
            Self::Conditions => "conditions",
            Self::Frames => "frames",
            Self::Repeats => "repeats",
        }
    }

    /// Writes its rows of `laps`, in their order, and returns how many; sums are of all there are.
    pub fn rows(
        self,
        open: &OpenStudy,
        logbook: &Logbook,
        heads: &[LapHead],
        ctx: &Ctx,
        to: &mut dyn Rows,
    ) -> Result<usize, CmdError> {
        match self {
            Self::Laps => laps(logbook, heads, to),
            Self::Readings => readings(heads, to),
            Self::Sums => sums(open, logbook, ctx, to),
            Self::Conditions => conditions(logbook, heads, to),
            Self::Frames => frames(logbook, heads, to),
            Self::Repeats => repeats(logbook, heads, to),
        }
    }
}

fn nanos(time: Option<Nanos>) -> Field {
    Field::whole(time.map(|time| time.0))
}

fn laps(logbook: &Logbook, laps: &[LapHead], to: &mut dyn Rows) -> Result<usize, CmdError> {
    for lap in laps {
        let page = logbook.lap(&lap.name)?;
        let usage = page.and_then(|page| page.body.usage);
        let row = [
            Field::text(lap.name.to_string()),
            Field::text(lap.name.session.to_string()),
            Field::text(&lap.name.session.rig),
            Field::text(&lap.workload),
            Field::text(lap.settings.to_string()),
            Field::whole(Some(u64::from(lap.task))),
            Field::whole(Some(u64::from(lap.round))),
            Field::Flag(Some(lap.warm_up)),
            Field::text(lap.outcome.word()),
            Field::Flag(Some(lap.counts())),
            Field::Text(lap.set_aside.clone()),
            nanos(lap.time()),
            nanos(lap.wall),
            nanos(lap.parts),
            nanos(lap.step),
            Field::whole(usage.map(|usage| usage.peak_bytes)),
        ];
        to.row(&row).map_err(failed)?;
    }
    Ok(laps.len())
}

/// Returns what tells whose a row is: lap, rig, workload.
fn whose(lap: &LapHead) -> [Field; 3] {
    let name = &lap.name;
    [Field::text(name.to_string()), Field::text(&name.session.rig), Field::text(&lap.workload)]
}

fn readings(laps: &[LapHead], to: &mut dyn Rows) -> Result<usize, CmdError> {
    let mut written = 0;
    for lap in laps {
        for reading in &lap.readings {
            let mut row = whose(lap).to_vec();
            row.extend([
                Field::text(lap.settings.to_string()),
                Field::text(&reading.name),
                Field::text(&reading.unit),
                Field::text(reading.better.word()),
                Field::Number(reading.value),
                Field::Number(reading.step),
                Field::Flag(Some(lap.value(&reading.name).is_some())),
                Field::text(&reading.seen),
            ]);
            to.row(&row).map_err(failed)?;
            written += 1;
        }
    }
    Ok(written)
}

fn conditions(logbook: &Logbook, laps: &[LapHead], to: &mut dyn Rows) -> Result<usize, CmdError> {
    let mut written = 0;
    for lap in laps {
        let Some(page) = logbook.lap(&lap.name)? else { continue };
        let traces = &page.body.traces;
        for (place, at) in traces.at_ms.iter().enumerate() {
            for trace in &traces.channels {
                let (quantity, own) = trace.quantity.words();
                let unit = if trace.unit.is_empty() { own } else { &trace.unit };
                let mut row = whose(lap).to_vec();
                row.extend([
                    Field::whole(Some(*at)),
                    Field::text(quantity),
                    Field::text(&trace.which),
                    Field::text(unit),
                    Field::Number(trace.values.get(place)),
                ]);
                to.row(&row).map_err(failed)?;
                written += 1;
            }
        }
    }
    Ok(written)
}

fn repeats(logbook: &Logbook, laps: &[LapHead], to: &mut dyn Rows) -> Result<usize, CmdError> {
    let mut written = 0;
    for lap in laps {
        let Some(page) = logbook.lap(&lap.name)? else { continue };
        for (number, repeat) in (1..).zip(&page.body.repeats) {
            let mut row = whose(lap).to_vec();
            row.push(Field::whole(Some(number)));
            row.extend([nanos(Some(repeat.began)), nanos(Some(repeat.took))]);
            to.row(&row).map_err(failed)?;
            written += 1;
        }
    }
    Ok(written)
}

fn frames(logbook: &Logbook, laps: &[LapHead], to: &mut dyn Rows) -> Result<usize, CmdError> {
    let (mut written, digests) = (0, logbook.all_digests()?);
    for lap in laps {
        let Some(recorded) = logbook.pass(&lap.name)? else { continue };
        let pass = &recorded.pass;
        let digest = digests.get(&lap.name);
        let mut begins = 0;
        for (place, shown) in pass.shown.iter().enumerate() {
            let of = |series: &[u64]| Field::whole(series.get(place).copied());
            let cut = digest.is_some_and(|digest| digest.cut.leaves_out(Nanos(begins)));
            let mut row = whose(lap).to_vec();
            row.extend([
                Field::whole(Some(place as u64 + 1)),
                Field::whole(Some(begins)),
                Field::whole(Some(*shown)),
                of(&pass.processor),
                of(&pass.graphics),
                of(&pass.presenting),
                Field::Flag(Some(cut)),
            ]);
            to.row(&row).map_err(failed)?;
            written += 1;
            begins += shown;
        }
    }
    Ok(written)
}

#[cfg(test)]
mod tests {
    use super::*;
    use serde_json::{Map, Value, json};

    /// Returns the schema of a line of JSON Lines.
    fn line(table: Table) -> Value {
        let column = |(name, holds): &(&str, Holds)| {
            let of = match holds {
                Text => "string",
                Whole => "integer",
                Number => "number",
                Flag => "boolean",
            };
            ((*name).to_owned(), json!({ "type": [of, "null"] }))
        };
        let columns: Map<String, Value> = table.fields().iter().map(column).collect();
        let required: Vec<&String> = columns.keys().collect();
        json!({ "type": "object", "additionalProperties": false, "required": required, "properties": columns })
    }

    #[test]
    fn the_published_schema_is_that_of_these_tables() {
        let all: Map<String, Value> =
            Table::ALL.into_iter().map(|table| (table.word().to_owned(), line(table))).collect();
        let draft = "https://json-schema.org/draft/2020-12/schema";
        let schema =
            json!({ "$schema": draft, "title": "lines of lap export, by table", "$defs": all });
        let made = format!("{}\n", serde_json::to_string_pretty(&schema).unwrap());
        let path = concat!(env!("CARGO_MANIFEST_DIR"), "/../../docs/formats/export.schema.json");
        if std::env::var_os("LAP_WRITE_REFERENCE").is_some() {
            std::fs::write(path, &made).unwrap();
        }
        let published = std::fs::read_to_string(path).unwrap_or_default();
        let how = "LAP_WRITE_REFERENCE=1 cargo test -p honest-lap --bin lap published_schema";
        assert!(published == made, "{path} is not what the tables say: {how}");
    }
}
