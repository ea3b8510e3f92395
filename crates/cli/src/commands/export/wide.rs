//! One wide table, a row a rig and a column a workload, as people keep them in spreadsheets.

use crate::ctx::Ctx;
use crate::error::CmdError;
use crate::lab::read_lab;
use crate::study_file::OpenStudy;
use honest_lap_core::analysis::{Question, analyse};
use honest_lap_core::judge::Held;
use honest_lap_logbook::Logbook;
use honest_lap_logbook::exchange::{Column, Field, Holds};
use honest_lap_view::sheet::{heading, in_study_order};

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
        groups.filter(|(_, group)| matches!(group.held, Held::Variant(_))).collect();
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
        let value = |(_, group): &(
            &&honest_lap_core::judge::WorkloadView,
            &honest_lap_core::judge::Group,
        )| {
            let row = group.rows.iter().find(|row| row.rig == *rig);
            Field::Number(row.and_then(|row| row.cell.as_ref()).map(|cell| cell.typical()))
        };
        let mut fields = vec![Field::text(rig)];
        fields.extend(across.iter().map(value));
        fields
    };
    let rows: Vec<Vec<Field>> = rigs.iter().map(row).collect();
    Ok(Wide { columns, rows })
}
