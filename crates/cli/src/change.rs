//! Before and after a change: how the sides are named, and what a mistake in them is told as.

use crate::error::CmdError;
use honest_lap_core::lab::{Lab, OnSide, Sides, SidesError};
use honest_lap_core::record::SessionName;
use honest_lap_core::unit::Date;

/// The sides of a change of one rig.
#[derive(clap::Args, Debug)]
pub struct ChangeArgs {
    /// Sessions of one rig before a change, such as heron-1,heron-2; or the day of the change: all
    /// that the rig measured before it
    #[arg(long, value_name = "SESSIONS|DAY", value_delimiter = ',', value_parser = on_side, requires = "after")]
    before: Vec<OnSide>,
    /// Sessions of the same rig after it, or its day: all from that day on; whatever else differs is
    /// listed
    #[arg(long, value_name = "SESSIONS|DAY", value_delimiter = ',', value_parser = on_side, requires = "before")]
    after: Vec<OnSide>,
}

fn on_side(text: &str) -> Result<OnSide, String> {
    // A day could name a session of a rig called `2026-03`; nobody means that.
    if text.chars().all(|c| c.is_ascii_digit() || "-/.".contains(c)) {
        let day = Date::parse(text).map(OnSide::Day);
        return day.map_err(|err| format!("{}; {}", err.problem, err.remedy));
    }
    let session = SessionName::parse(text).map(OnSide::Session);
    session.ok_or_else(|| {
        format!("`{text}` is no session, such as heron-1, and no day, such as 2026-03-14")
    })
}

impl ChangeArgs {
    /// Returns whether a change is asked for.
    pub fn is_asked(&self) -> bool {
        !self.before.is_empty()
    }

    /// Returns the lab of the sessions around the change alone, and the rig; the whole lab where no change is asked for.
    pub fn of(&self, lab: Lab, rigs: &[String]) -> Result<(Lab, Option<String>), CmdError> {
        if !self.is_asked() {
            return Ok((lab, None));
        }
        let Sides { before, after } = lab.sides(rigs, &self.before, &self.after)?;
        let rig = before.first().map(|session| session.rig.clone());
        Ok((lab.before_and_after(&before, &after), rig))
    }
}

impl From<SidesError> for CmdError {
    fn from(err: SidesError) -> Self {
        match err {
            SidesError::Unknown(name) => {
                Self::request(format!("no session {name} is in the logbook"), "lap show lists them")
            }
            SidesError::SeveralRigs => Self::request(
                "before and after a change means sessions of one rig",
                "rigs are held against each other without it: lap compare --across rigs",
            ),
            SidesError::WhichRig(rigs) => Self::request(
                "a day names no rig, and several have sessions",
                format!("say which, one of {}: --rig {}", rigs.join(", "), rigs[0]),
            ),
            SidesError::OnBoth(name) => Self::request(
                format!("session {name} is on both sides of the change"),
                "name each once: --before heron-1 --after heron-2",
            ),
            SidesError::Nothing { rig, day, before, has } => {
                let side = if before { "before" } else { "on or after" };
                Self::request(
                    format!("{rig} has no session that was measured {side} {day}"),
                    match has {
                        Some((first, last)) if first == last => {
                            format!("its sessions are of {first}")
                        }
                        Some((first, last)) => format!("its sessions are of {first} to {last}"),
                        None => "lap show lists the sessions".to_owned(),
                    },
                )
            }
            SidesError::Exchanged => Self::request(
                "what is named as before was measured later than what is named as after",
                "exchange the two",
            ),
        }
    }
}
