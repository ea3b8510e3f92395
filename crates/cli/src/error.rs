//! What a command may fail with, and the exit status that says so.

use honest_lap_logbook::LogbookError;
use honest_lap_measure::MeasureError;
use rustix::io::Errno;
use std::error::Error;
use std::io;
use std::process::ExitCode;

/// Exit statuses, as `lap --help` lists them.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Exit {
    /// Done.
    Done,
    /// Done, and the answer is no.
    No,
    /// The request or the study is wrong.
    Request,
    /// The measurement failed.
    Measurement,
    /// The tool itself is at fault.
    Fault,
}

impl From<Exit> for ExitCode {
    fn from(exit: Exit) -> Self {
        match exit {
            Exit::Done => Self::SUCCESS,
            Exit::No => Self::from(1),
            Exit::Request => Self::from(2),
            Exit::Measurement => Self::from(3),
            Exit::Fault => Self::from(70),
        }
    }
}

/// Why a command failed.
#[derive(Debug)]
pub enum CmdError {
    /// The command line itself; also `--help` and `--version`, which are no failures.
    Usage(clap::Error),
    /// Mistakes in a file, already framed with their lines.
    Framed(String),
    /// Whoever read the result has seen enough, which is no failure.
    ReaderLeft,
    /// Anything else.
    Failed(Box<Failure>),
}

/// A failure in words.
#[derive(Debug)]
pub struct Failure {
    pub exit: Exit,
    pub problem: String,
    /// What it consists of, a line each.
    pub details: Vec<String>,
    pub causes: Vec<String>,
    pub help: Option<String>,
}

impl CmdError {
    /// Returns the error of a request that cannot be met.
    pub fn request(problem: impl Into<String>, help: impl Into<String>) -> Self {
        Self::failed(Exit::Request, problem, Some(help.into()))
    }

    /// Returns the error of a request in which several things are wrong, told below the problem.
    pub fn several(problem: String, details: Vec<String>, help: impl Into<String>) -> Self {
        let exit = Exit::Request;
        let help = Some(help.into());
        Self::Failed(Box::new(Failure { exit, problem, details, causes: Vec::new(), help }))
    }

    fn failed(exit: Exit, problem: impl Into<String>, help: Option<String>) -> Self {
        let (problem, details, causes) = (problem.into(), Vec::new(), Vec::new());
        Self::Failed(Box::new(Failure { exit, problem, details, causes, help }))
    }

    /// Returns the error of a file or folder that could not be used.
    pub fn io(action: &str, path: &std::path::Path, source: &io::Error) -> Self {
        let problem = format!("cannot {action} {}: {source}", path.display());
        Self::failed(exit_of(source), problem, None)
    }

    /// Returns the error of results that could not be written.
    pub fn output(source: &io::Error) -> Self {
        if source.kind() == io::ErrorKind::BrokenPipe {
            return Self::ReaderLeft;
        }
        Self::failed(exit_of(source), format!("cannot write the result: {source}"), None)
    }

    /// Returns the error that `error` is, with what it comes from.
    pub fn caused(exit: Exit, error: &dyn Error, help: Option<&str>) -> Self {
        let mut causes = Vec::new();
        let mut next = error.source();
        while let Some(cause) = next {
            causes.push(cause.to_string());
            next = cause.source();
        }
        let help = help.map(str::to_owned);
        let (problem, details) = (error.to_string(), Vec::new());
        Self::Failed(Box::new(Failure { exit, problem, details, causes, help }))
    }
}

impl From<LogbookError> for CmdError {
    fn from(error: LogbookError) -> Self {
        let exit = match error.is_about_surroundings() {
            true => Exit::Measurement,
            false => Exit::Request,
        };
        Self::caused(exit, &error, error.help())
    }
}

/// Returns the exit status of what the system refused: its limits are no fault of the request.
fn exit_of(source: &io::Error) -> Exit {
    const LIMITS: [Errno; 7] = [
        Errno::MFILE,
        Errno::NFILE,
        Errno::NOMEM,
        Errno::NOSPC,
        Errno::DQUOT,
        Errno::AGAIN,
        Errno::IO,
    ];
    let limit =
        source.raw_os_error().map(Errno::from_raw_os_error).is_some_and(|no| LIMITS.contains(&no));
    if limit { Exit::Measurement } else { Exit::Request }
}

impl From<MeasureError> for CmdError {
    fn from(error: MeasureError) -> Self {
        // A logbook that failed under the run knows best what to do about it.
        let logbook = error.source().and_then(|source| source.downcast_ref::<LogbookError>());
        let help = logbook.map_or_else(|| error.help(), LogbookError::help);
        Self::caused(Exit::Measurement, &error, help)
    }
}
