//! A screen of its own, without a monitor, for programs that draw.

use std::io::{BufRead, BufReader};
use std::process::{Child, Command, Stdio};

/// An X server that nobody sees; it ends with this value.
pub struct Screen {
    server: Child,
    display: String,
}

impl Screen {
    /// Starts one, and waits until it takes clients.
    pub fn new() -> Self {
        let mut server = Command::new("Xvfb")
            .args(["-displayfd", "1", "-screen", "0", "800x600x24", "-nolisten", "tcp"])
            .stdin(Stdio::null())
            .stdout(Stdio::piped())
            .stderr(Stdio::null())
            .spawn()
            .expect("Xvfb is there: scripts/test installs it");
        let mut number = String::new();
        let stdout = server.stdout.take().expect("a pipe was asked for");
        BufReader::new(stdout).read_line(&mut number).expect("its number is text");
        assert!(!number.trim().is_empty(), "Xvfb ended before it had a display");
        Self { server, display: format!(":{}", number.trim()) }
    }

    /// Returns its name, as the variable `DISPLAY` says it.
    pub fn display(&self) -> &str {
        &self.display
    }
}

impl Default for Screen {
    fn default() -> Self {
        Self::new()
    }
}

impl Drop for Screen {
    fn drop(&mut self) {
        let _ = self.server.kill();
        let _ = self.server.wait();
    }
}
