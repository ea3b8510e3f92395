//! The options that leave stretches of passes out: what `lap import` and `lap trim` have in common.

use crate::error::CmdError;
use honest_lap_core::frame::{CutError, Cutting, Edge};
use honest_lap_core::record::{Cut, Mark, Pass};

/// What is left out of the figures of a pass.
#[derive(clap::Args, Debug, Clone, Default)]
pub struct CutArgs {
    /// Leave out what lies ahead of this: a time into the pass (4.2s, 1:05) or a mark of it
    #[arg(long, value_name = "PLACE")]
    from: Option<String>,
    /// Leave out what lies behind this
    #[arg(long, value_name = "PLACE")]
    to: Option<String>,
    /// Leave out a stretch in between, as in 20s..24.5s; may be given several times
    #[arg(long, value_name = "PLACE..PLACE", value_parser = stretch)]
    without: Vec<(Edge, Edge)>,
}

fn stretch(text: &str) -> Result<(Edge, Edge), String> {
    let (from, to) = text.split_once("..").ok_or("write it as 20s..24.5s")?;
    Ok((Edge::parse(from), Edge::parse(to)))
}

impl CutArgs {
    /// Returns whether anything is to be left out.
    pub fn is_empty(&self) -> bool {
        self.from.is_none() && self.to.is_none() && self.without.is_empty()
    }

    /// Returns the cut of `pass`, which `what` names in errors.
    pub fn cut(&self, pass: &Pass, marks: &[Mark], what: &str) -> Result<Cut, CmdError> {
        let edge = |text: &Option<String>| text.as_deref().map(Edge::parse);
        let cutting =
            Cutting { from: edge(&self.from), to: edge(&self.to), without: self.without.clone() };
        cutting.of(&pass.shown, marks).map_err(|err| {
            let help = match &err {
                CutError::NoMark { known, .. } if known.is_empty() => {
                    "it has no marks at all: give a time, such as 4.2s".to_owned()
                }
                CutError::NoMark { known, .. } => format!("its marks are: {}", known.join(", ")),
                CutError::Behind { .. } | CutError::Backward => {
                    "give times from its beginning, such as --from 4.2s --to 1:02".to_owned()
                }
            };
            CmdError::request(format!("{what}: {err}; nothing was written"), help)
        })
    }
}
