//! From a logbook to the lab that core analyses, and from a question that has no answer to an error.

use crate::ctx::Ctx;
use crate::error::CmdError;
use crate::working::Working;
use honest_lap_core::analysis::{NameKind, QuestionError};
use honest_lap_core::lab::{Lab, Records};
use honest_lap_core::record::Study;
use honest_lap_logbook::{AlikeLaps, Everything, Logbook};

/// Reads everything that `logbook` has of `study`.
pub fn read_lab(study: &Study, logbook: &Logbook, ctx: &Ctx) -> Result<Lab, CmdError> {
    read_lab_with(study, logbook, AlikeLaps::new(), ctx)
}

/// Reads the same of a logbook that does not have `alike` laps, with these.
pub fn read_lab_with(
    study: &Study,
    logbook: &Logbook,
    alike: AlikeLaps,
    ctx: &Ctx,
) -> Result<Lab, CmdError> {
    let _working = Working::on("reading the logbook");
    // All by one moment: what began in one second is of one age.
    let age_of = ctx.ages();
    let Everything { sessions, tasks, laps } = logbook.everything_with(alike)?;
    let sessions = sessions.into_iter().map(|record| {
        let age = age_of(&record.measured());
        (record, age)
    });
    let records = Records { tasks, laps, sessions: sessions.collect() };
    Ok(Lab::of(study.clone(), records))
}

impl From<QuestionError> for CmdError {
    fn from(err: QuestionError) -> Self {
        let QuestionError::Unknown { kind, name, known } = err;
        let list = known.join(", ");
        match kind {
            NameKind::Workload => Self::request(
                format!("no laps of a workload `{name}` are in the logbook"),
                format!("it has laps of: {list}"),
            ),
            NameKind::Rig => Self::request(
                format!("no laps of a rig `{name}` are in the logbook"),
                format!("it has laps of: {list}"),
            ),
            NameKind::Measure => Self::request(
                format!("no lap in the logbook has a measure `{name}`"),
                format!("they have: {list}"),
            ),
            NameKind::Setting => Self::request(
                format!("no two variants with laps differ in a setting `{name}`"),
                match known.is_empty() {
                    true => "no workload with laps varies a setting: vary = { threads = [1, 2] }"
                        .to_owned(),
                    false => format!("settings that vary: {list}"),
                },
            ),
        }
    }
}
