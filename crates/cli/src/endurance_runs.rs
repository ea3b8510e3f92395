//! Endurance laps with what their machines did meanwhile, as figures want them: the last of each rig and variant.

use crate::error::CmdError;
use honest_lap_core::endurance::{Endured, Evidence, Stretches};
use honest_lap_core::lab::KnownLap;
use honest_lap_core::record::{LapHead, LapPage};
use honest_lap_logbook::Logbook;
use honest_lap_view::figure::EnduranceRun;
use honest_lap_view::words::lap_of;
use std::collections::BTreeMap;

/// Moments of what a machine did that a figure can show.
const SHOWN: usize = 300;

/// Returns the last counted endurance lap of each rig and variant among `laps`, by workload.
pub fn endurance_runs(
    laps: &[&KnownLap],
    logbook: &Logbook,
) -> Result<Vec<EnduranceRun>, CmdError> {
    let mut last: BTreeMap<(&str, &str, String), (&LapHead, &Endured, usize)> = BTreeMap::new();
    for lap in laps.iter().copied().filter(|lap| lap.counts()) {
        let Some(endured) = lap.facts.endured.as_deref() else { continue };
        let (rig, settings) = (lap.name.session.rig.as_str(), lap.settings.to_string());
        let known = last.entry((&lap.workload, rig, settings)).or_insert((lap, endured, 0));
        *known = (lap, endured, known.2 + 1);
    }
    let mut all = Vec::new();
    for ((workload, rig, _), (lap, endured, laps)) in last {
        let Some(LapPage { body, task, .. }) = logbook.lap(&lap.name)? else { continue };
        let pass = logbook.pass(&lap.name)?;
        let frames = pass.as_ref().map_or(&[][..], |recorded| &recorded.pass.shown);
        let evidence = Evidence { repeats: &body.repeats, frames, traces: &body.traces };
        all.push(EnduranceRun {
            of: lap_of(rig, &lap.settings),
            workload: workload.to_owned(),
            lap: lap.name.clone(),
            laps,
            endured: endured.clone(),
            stretches: Stretches::of(&task, &lap.settings, &evidence),
            // One lap of hours at a time: what a figure cannot show is let go at once.
            traces: body.traces.thinned(SHOWN),
        });
    }
    Ok(all)
}
