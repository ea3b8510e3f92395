//! What goes wrong between here and a rig, in words.

use super::note::RemoteRun;
use crate::error::{CmdError, Exit};
use honest_lap_reach::ReachError;

/// Returns what went wrong between here and a rig, with what to do about it.
pub fn told(err: &ReachError, away: &RemoteRun, begun: bool) -> CmdError {
    let help = match err {
        _ if begun => "the run goes on there; `lap run --resume` collects it".to_owned(),
        ReachError::Unreached { .. } | ReachError::NotStarted { .. } => format!(
            "try it by hand: {} true; on {} itself: lap run --rig {} --here",
            away.reach, away.rig, away.rig
        ),
        ReachError::NoProgram { .. } => {
            "name a `lap` that was built for it: --binary FILE".to_owned()
        }
        ReachError::NotTaken { .. } => {
            format!("nothing was left there; look at it by hand: {} sh", away.reach)
        }
        _ => "nothing is lost here; try again".to_owned(),
    };
    let CmdError::Failed(mut failure) = CmdError::caused(Exit::Measurement, err, Some(&help))
    else {
        unreachable!("an error with its cause is a failure")
    };
    failure.details = err.said().to_vec();
    CmdError::Failed(failure)
}

impl From<ReachError> for CmdError {
    fn from(err: ReachError) -> Self {
        Self::caused(Exit::Measurement, &err, None)
    }
}
