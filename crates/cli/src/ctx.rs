//! What a command takes from its process: clock, folder, terminal. Nothing else reads them.

use crate::error::CmdError;
use crate::ui::Ui;
use honest_lap_core::unit::{Date, Nanos};
use std::path::PathBuf;

/// The process around a command.
pub struct Ctx {
    /// Where results and messages go.
    pub ui: Ui,
    /// The folder it was called in.
    pub folder: PathBuf,
    /// The moment that counts as now, where it is not the present one.
    moment: Option<jiff::Timestamp>,
}

impl Ctx {
    /// Returns the present process as a context.
    pub fn from_process() -> Self {
        let folder = std::env::current_dir().unwrap_or_default();
        Self { ui: Ui::new(width()), folder, moment: None }
    }

    /// Returns the same context at another moment, RFC 3339; `None` where that is no moment.
    pub fn at(&self, moment: &str) -> Option<Self> {
        let moment = Some(moment.parse().ok()?);
        Some(Self { ui: Ui::new(self.ui.width()), folder: self.folder.clone(), moment })
    }

    /// Returns the wall clock's time, RFC 3339 in whole seconds: a label, never a measurement.
    pub fn now(&self) -> String {
        let now = self.moment.unwrap_or_else(jiff::Timestamp::now);
        jiff::Timestamp::from_second(now.as_second()).unwrap_or(now).to_string()
    }

    /// Returns the day of this moment, of universal time as all moments in a logbook are.
    pub fn today(&self) -> Date {
        Date::parse(&self.now()).expect("the calendar has every day that comes")
    }

    /// Returns what tells how long before this moment a time was, RFC 3339; `None` where it is no moment of the past.
    pub fn ages(&self) -> impl Fn(&str) -> Option<Nanos> + use<> {
        let now = self.moment.unwrap_or_else(jiff::Timestamp::now);
        move |then| {
            let then: jiff::Timestamp = then.parse().ok()?;
            let age = now.duration_since(then).as_nanos();
            u64::try_from(age).ok().map(Nanos)
        }
    }

    /// Returns the time of day on this machine's clock in `span` from now: `14:32`.
    pub fn time_of_day_in(&self, span: Nanos) -> String {
        let seconds = i64::try_from(span.0 / 1_000_000_000).unwrap_or(i64::MAX);
        let then = jiff::Zoned::now().checked_add(jiff::SignedDuration::from_secs(seconds));
        // A run that ends beyond the calendar has no time of day.
        then.map_or_else(|_| "some day".to_owned(), |then| then.strftime("%a %H:%M").to_string())
    }

    /// Returns what this machine and whoever uses it are called, to leave that out where it must not be told.
    pub fn names_here(&self) -> (Option<String>, Option<String>) {
        let host = std::fs::read_to_string("/proc/sys/kernel/hostname").ok();
        let user = ["USER", "LOGNAME"].into_iter().find_map(|key| std::env::var(key).ok());
        (host.map(|host| host.trim().to_owned()), user)
    }

    /// Returns the folder in which the tool keeps what is the user's own on this machine.
    pub fn config_folder(&self) -> Option<PathBuf> {
        let absolute = |key| std::env::var_os(key).map(PathBuf::from).filter(|p| p.is_absolute());
        let base =
            absolute("XDG_CONFIG_HOME").or_else(|| Some(absolute("HOME")?.join(".config")))?;
        Some(base.join("honest-lap"))
    }

    /// Returns the path of this program.
    pub fn tool(&self) -> Result<PathBuf, CmdError> {
        std::env::current_exe().map_err(|err| CmdError::io("find", "this program".as_ref(), &err))
    }

    /// Returns 128 bits that no other session has.
    pub fn mark(&self) -> Result<String, CmdError> {
        let (high, low) = (self.random()?, self.random()?);
        Ok(format!("{high:016x}{low:016x}"))
    }

    /// Returns a seed.
    pub fn random(&self) -> Result<u64, CmdError> {
        getrandom::u64().map_err(|err| {
            CmdError::request(
                format!("no random numbers can be had: {err}"),
                "is /dev/urandom there?",
            )
        })
    }
}

/// Columns of text where nothing says how many there are.
const USUAL_WIDTH: usize = 100;

/// Returns how wide text is set: as the terminal is, be it behind a pager; else as `COLUMNS` says.
fn width() -> usize {
    let terminal = terminal_size::terminal_size().map(|(width, _)| usize::from(width.0));
    let said = || std::env::var("COLUMNS").ok()?.trim().parse().ok();
    terminal.or_else(said).filter(|width| *width > 0).unwrap_or(USUAL_WIDTH)
}
