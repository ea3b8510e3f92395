//! The part of a lab that is asked about: sessions, groups, variants.

use crate::error::CmdError;
use honest_lap_core::lab::{Choice, ChoiceError, VariantChoice};
use honest_lap_core::record::SessionName;

/// Which laps are asked about.
#[derive(clap::Args, Debug, Default)]
pub struct ChoiceArgs {
    /// Only laps of these sessions, such as heron-2,wren-1
    #[arg(long = "session", value_name = "SESSIONS", value_delimiter = ',', value_parser = session)]
    sessions: Vec<SessionName>,
    /// Only workloads of these groups
    #[arg(long = "group", value_name = "GROUPS", value_delimiter = ',')]
    groups: Vec<String>,
    /// Only these variants: threads=1,threads=2; or a value of any setting, such as fast
    #[arg(long = "variant", value_name = "VARIANTS", value_delimiter = ',', value_parser = variant)]
    variants: Vec<VariantChoice>,
}

fn session(text: &str) -> Result<SessionName, String> {
    SessionName::parse(text).ok_or_else(|| format!("`{text}` is no session, such as heron-1"))
}

fn variant(text: &str) -> Result<VariantChoice, String> {
    VariantChoice::parse(text).ok_or_else(|| {
        format!("`{text}` is no variant: write threads=2, or \"threads=2 codec=fast\"")
    })
}

impl ChoiceArgs {
    /// Returns whether anything is said.
    pub fn is_given(&self) -> bool {
        !self.choice().is_everything()
    }

    /// Returns what is chosen.
    pub fn choice(&self) -> Choice {
        Choice {
            sessions: self.sessions.clone(),
            groups: self.groups.clone(),
            variants: self.variants.clone(),
        }
    }
}

impl From<ChoiceError> for CmdError {
    fn from(err: ChoiceError) -> Self {
        let known = |all: Vec<String>, none: &str| match all.is_empty() {
            true => none.to_owned(),
            false => format!("there are: {}", all.join(", ")),
        };
        match err {
            ChoiceError::NoSession(name) => Self::request(
                format!("--session: no session {name} has laps in the logbook"),
                "lap show lists them",
            ),
            ChoiceError::NoGroup { name, known: all } => Self::request(
                format!("--group: no workload belongs to a group `{name}`"),
                known(all, "no workload has one: group = \"games\" in its section"),
            ),
            ChoiceError::NoVariant { name, known: all } => Self::request(
                format!("--variant: no variant with laps is `{name}`"),
                known(all, "no workload with laps varies a setting"),
            ),
            ChoiceError::Nothing => Self::request(
                "no lap is of everything that is chosen",
                "leave --session, --group or --variant out, or name others",
            ),
        }
    }
}
