//! What the laps of sessions that were just run say by themselves.

use crate::args::FormatArg;
use crate::ctx::Ctx;
use crate::error::CmdError;
use honest_lap_core::analysis::{Analysis, Question, analyse};
use honest_lap_core::lab::{Lab, Laps, Records};
use honest_lap_core::record::{SessionName, Study};
use honest_lap_logbook::Logbook;
use honest_lap_view::sheet;
use honest_lap_view::table::Sheet;
use honest_lap_view::words::count;

/// The most sessions that are named in a title.
const MOST_NAMED: usize = 4;

/// Prints what the laps of the sessions `names` say by themselves.
pub(super) fn print_result(
    names: &[SessionName],
    logbook: &Logbook,
    study: &Study,
    format: FormatArg,
    ctx: &Ctx,
) -> Result<(), CmdError> {
    let mut laps = Laps::default();
    for name in names {
        laps = laps.with(logbook.known_laps_of(name)?);
    }
    let of_these = logbook.records()?.into_iter().filter(|record| names.contains(&record.name));
    let records = Records {
        tasks: logbook.tasks()?,
        laps,
        sessions: of_these.map(|record| (record, None)).collect(),
    };
    let lab = Lab::of(study.clone(), records);
    // What misleads is told of the whole study: lap doubts.
    let analysis = Analysis { findings: Vec::new(), ..analyse(&lab, &Question::default())? };
    let shown = sheet::Shown { analysis: &analysis, remarks: &[], reads: "" };
    let title = match names {
        [name] => format!("session {name}"),
        names if names.len() <= MOST_NAMED => {
            let names: Vec<String> = names.iter().map(ToString::to_string).collect();
            format!("sessions {}", names.join(", "))
        }
        names => count(names.len(), "session"),
    };
    let sheet = || Sheet {
        title: Some(title),
        lead: Vec::new(),
        ..sheet::compare(study, &shown, sheet::Detail::Short { near: None })
    };
    ctx.ui.print_answer(&analysis, format, sheet)
}
