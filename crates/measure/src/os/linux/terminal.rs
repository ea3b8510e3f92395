//! A terminal of the lap's own: a fresh pseudo-terminal, never the user's.

use rustix::io::{FdFlags, fcntl_setfd};
use rustix::process::{ioctl_tiocsctty, setsid};
use rustix::pty::{OpenptFlags, grantpt, ioctl_tiocgptpeer, openpt, unlockpt};
use rustix::termios::{
    LocalModes, OptionalActions, OutputModes, Winsize, tcgetattr, tcsetattr, tcsetwinsize,
};
use std::fs::File;
use std::io;
use std::os::fd::{AsFd, OwnedFd};
use std::os::unix::process::CommandExt;
use std::process::{Command, Stdio};

/// What a person's terminal is at least.
const SIZE: Winsize = Winsize { ws_row: 24, ws_col: 80, ws_xpixel: 0, ws_ypixel: 0 };

/// A pseudo-terminal: our end, from which all that is written there is read, and the lap's.
pub(crate) struct Terminal {
    pub(crate) ours: File,
    /// Held for as long as the lap lasts: else a program that closes it for a moment would lose it.
    pub(crate) theirs: OwnedFd,
}

impl Terminal {
    /// Opens one that passes on what is written as it is, and echoes nothing.
    pub(crate) fn open() -> io::Result<Self> {
        let ours = openpt(OpenptFlags::RDWR | OpenptFlags::NOCTTY | OpenptFlags::CLOEXEC)?;
        grantpt(&ours)?;
        unlockpt(&ours)?;
        let flags = OpenptFlags::RDWR | OpenptFlags::NOCTTY | OpenptFlags::CLOEXEC;
        let theirs = ioctl_tiocgptpeer(&ours, flags)?;
        fcntl_setfd(&theirs, FdFlags::CLOEXEC)?;
        let mut modes = tcgetattr(&theirs)?;
        modes.output_modes.remove(OutputModes::OPOST);
        modes.local_modes.remove(LocalModes::ECHO);
        tcsetattr(&theirs, OptionalActions::Now, &modes)?;
        tcsetwinsize(&theirs, SIZE)?;
        rustix::io::ioctl_fionbio(&ours, true)?;
        Ok(Self { ours: File::from(ours), theirs })
    }

    /// Returns the lap's end, as a stream of a program.
    pub(crate) fn stream(&self) -> io::Result<Stdio> {
        Ok(Stdio::from(self.theirs.try_clone()?))
    }

    /// Makes it the terminal of what `command` starts, in a session of its own.
    #[expect(unsafe_code, reason = "a child takes its terminal between fork and exec")]
    pub(crate) fn becomes_that_of(&self, command: &mut Command) -> io::Result<()> {
        let theirs = self.theirs.try_clone()?;
        let take = move || {
            setsid()?;
            ioctl_tiocsctty(theirs.as_fd())?;
            Ok(())
        };
        // SAFETY: between fork and exec it makes two system calls, and neither allocates nor locks.
        unsafe { command.pre_exec(take) };
        Ok(())
    }
}
