//! A command line that runs a command on another machine.

use crate::error::ReachError;
use std::process::{Child, Command, Stdio};

/// A command line that runs there the command that it is given as its last word: `ssh lab@heron`.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct CommandLine(String);

impl CommandLine {
    /// Returns the command line that a study writes.
    pub fn new(line: &str) -> Self {
        Self(line.to_owned())
    }

    /// Returns it as it was written.
    pub fn text(&self) -> &str {
        &self.0
    }

    /// Starts `command` there, with its three streams here.
    ///
    /// Ctrl-C and a closing terminal are for this tool, which passes them on in its own way: what it starts here takes no
    /// notice of them. It stays in the terminal's foreground, so that it may ask for a password.
    pub(crate) fn start(&self, command: &str) -> Result<Child, ReachError> {
        let script = format!("trap '' INT HUP; exec {} \"$1\"", self.0);
        Command::new("sh")
            .args(["-c", &script, "lap", command])
            .stdin(Stdio::piped())
            .stdout(Stdio::piped())
            .stderr(Stdio::piped())
            .spawn()
            .map_err(|source| ReachError::NotStarted { line: self.0.clone(), source })
    }
}
