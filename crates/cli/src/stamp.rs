//! What every figure and page is stamped with: who drew it, from which logbook, when.

use crate::ctx::Ctx;
use crate::error::CmdError;
use honest_lap_core::lab::Choice;
use honest_lap_logbook::Logbook;
use honest_lap_view::sheet::chosen;

/// Digits of a seal that tell logbooks apart; `lap verify` has all of them.
const DIGITS: usize = 16;

/// What stands below a figure.
pub struct Stamp {
    /// The logbook's seal, whole.
    pub seal: String,
    /// The day, as a label.
    pub date: String,
    /// Whether everything recorded is as it was written.
    pub whole: bool,
}

impl Stamp {
    /// Reads the seal of everything that `logbook` holds, and checks it.
    pub fn of(logbook: &Logbook, ctx: &Ctx) -> Result<Self, CmdError> {
        let (sessions, remarks) = (logbook.verify()?, logbook.verify_remarks()?);
        let whole = remarks.broken.is_none() && sessions.iter().all(|s| s.broken.is_none());
        let date = ctx.now().chars().take(10).collect();
        Ok(Self { seal: logbook.seal()?, date, whole })
    }

    /// Returns the stamp in a line.
    pub fn line(&self) -> String {
        let seal: String = self.seal.chars().take(DIGITS).collect();
        let whole = match self.whole {
            true => "",
            false => " · its seals are broken: what was recorded has changed",
        };
        format!(
            "lap {} · logbook sealed {seal}… · {}{whole} · lap verify checks the seal, lap show LAP has each lap",
            env!("CARGO_PKG_VERSION"),
            self.date
        )
    }

    /// Returns it behind what was chosen of the lab, where that is not all.
    pub fn line_about(&self, choice: &Choice) -> String {
        chosen(choice).into_iter().chain([self.line()]).collect::<Vec<_>>().join(" ")
    }
}
