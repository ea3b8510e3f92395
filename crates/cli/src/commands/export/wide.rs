//! One wide table, a row a rig and a column a workload, as people keep them in spreadsheets.

use crate::ctx::Ctx;
use crate::error::CmdError;
use crate::lab::read_lab;
use crate::study_file::OpenStudy;
use honest_lap_core::analysis::{Question, analyse};
use honest_lap_core::judge::{Group, HeldConstant, WorkloadView};
use honest_lap_core::record::SECONDS;
use honest_lap_logbook::Logbook;
use honest_lap_logbook::exchange::{Column, Field, Holds};
use honest_lap_view::sheet::{heading, in_study_order};

/// Digits of a value: 1:42 is 102 s, whatever the logarithm leaves behind the twelfth.
const DIGITS: usize = 12;

/// A wide table.
pub struct Wide {
    pub columns: Vec<Column>,
    pub rows: Vec<Vec<Field>>,
}

/// Returns the typical values of every rig. A heading has the unit behind it: `dome-still threads=2 [s]`.
pub fn wide(open: &OpenStudy, logbook: &Logbook, ctx: &Ctx) -> Result<Wide, CmdError> {
    let study = &open.study;
    let lab = read_lab(study, logbook, ctx)?;
    let analysis = analyse(&lab, &Question::default())?;
    let mut columns = vec![Column::new("rig", Holds::Text)];
    let known = study.rigs.iter().map(|rig| &rig.name);
    let mut rigs: Vec<String> = study.baseline.iter().chain(known).cloned().collect();
    let views = in_study_order(study, &analysis.views);
    let groups = views.iter().flat_map(|view| view.groups.iter().map(move |group| (view, group)));
    let across: Vec<_> =
        groups.filter(|(_, group)| matches!(group.held, HeldConstant::Variant(_))).collect();
    for (view, group) in &across {
        let name = heading(view, group);
        let unit = &view.measure.unit;
        let name = if unit.is_empty() { name } else { format!("{name} [{unit}]") };
        columns.push(Column::new(&name, Holds::Number));
        rigs.extend(group.rows.iter().map(|row| row.rig.clone()));
    }
    let mut seen = std::collections::BTreeSet::new();
    rigs.retain(|rig| seen.insert(rig.clone()));
    let row = |rig: &String| {
        let value = |(view, group): &(&&WorkloadView, &Group)| {
            let unit = &view.measure.unit;
            let row = group.rows.iter().find(|row| row.rig == *rig);
            let typical = row.and_then(|row| row.cell.as_ref()).map(|cell| cell.typical());
            Field::Number(typical.map(|typical| as_read(typical, unit)))
        };
        let mut fields = vec![Field::text(rig)];
        fields.extend(across.iter().map(value));
        fields
    };
    let rows: Vec<Vec<Field>> = rigs.iter().map(row).collect();
    Ok(Wide { columns, rows })
}

/// Returns a value as whoever types it in again means it: times to the nanosecond, in which they are kept.
fn as_read(value: f64, unit: &str) -> f64 {
    let value = if unit == SECONDS { (value * 1e9).round() / 1e9 } else { value };
    format!("{value:.*e}", DIGITS - 1).parse().unwrap_or(value)
}
