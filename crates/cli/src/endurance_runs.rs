//! Endurance laps with what their machines did meanwhile, as figures want them: the last of each rig and variant.

use crate::error::CmdError;
use honest_lap_core::endurance::{Endured, Evidence, Stretches};
use honest_lap_core::lab::{Lap, LapSeries, Run};
use honest_lap_core::record::LapPage;
use honest_lap_logbook::Logbook;
use honest_lap_view::figure::EnduranceRun;
use honest_lap_view::words::lap_of;
use std::collections::BTreeMap;

/// Moments of what a machine did that a figure can show.
const SHOWN: usize = 300;

/// Returns the last counted endurance lap of each rig and variant among `laps`, by workload.
pub fn endurance_runs(
    series: &[&LapSeries],
    logbook: &Logbook,
) -> Result<Vec<EnduranceRun>, CmdError> {
    let mut last: BTreeMap<(&str, &str, String), (Lap<'_>, &Endured, usize)> = BTreeMap::new();
    let counted = series.iter().flat_map(|one| one.runs()).filter(Run::counts);
    let endured = counted.filter_map(|run| Some((run.alike.endured()?, run)));
    for (lap, endured) in
        endured.flat_map(|(endured, run)| run.laps().map(move |lap| (lap, endured)))
    {
        let of = (lap.workload(), lap.rig(), lap.settings().to_string());
        let known = last.entry(of).or_insert((lap, endured, 0));
        *known = (lap, endured, known.2 + 1);
    }
    let mut all = Vec::new();
    for ((workload, rig, _), (lap, endured, laps)) in last {
        let name = lap.name();
        let Some(LapPage { body, task, .. }) = logbook.lap(&name)? else { continue };
        let pass = logbook.pass(&name)?;
        let frames = pass.as_ref().map_or(&[][..], |recorded| &recorded.pass.shown);
        let evidence = Evidence { repeats: &body.repeats, frames, traces: &body.traces };
        all.push(EnduranceRun {
            of: lap_of(rig, lap.settings()),
            workload: workload.to_owned(),
            lap: name,
            laps,
            endured: endured.clone(),
            stretches: Stretches::of(&task, lap.settings(), &evidence),
            // One lap of hours at a time: what a figure cannot show is let go at once.
            traces: body.traces.thinned(SHOWN),
        });
    }
    Ok(all)
}
