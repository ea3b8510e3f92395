//! Single keys from the terminal, each with its moment.

use crate::os::now;
use crate::stop::{Stop, timespec};
use honest_lap_core::unit::{Nanos, Stamp};
use rustix::event::{PollFd, PollFlags, poll};
use rustix::termios::{
    LocalModes, OptionalActions, SpecialCodeIndex, Termios, isatty, tcgetattr, tcsetattr,
};
use std::io;

/// The terminal, giving keys as they are pressed; put back as it was when dropped.
#[derive(Debug)]
pub struct Keys(Termios);

/// What came while keys were waited for.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Key {
    /// A key, and when it was read.
    Pressed(u8, Stamp),
    /// Nothing within the time.
    None,
    /// The end: of the input, or asked for.
    End,
}

impl Keys {
    /// Takes the terminal on standard input; `None` if there is none.
    pub fn take() -> io::Result<Option<Self>> {
        let stdin = rustix::stdio::stdin();
        if !isatty(stdin) {
            return Ok(None);
        }
        let before = tcgetattr(stdin)?;
        let mut keys = before.clone();
        // Ctrl-C still ends the tool, by its own handler.
        keys.local_modes.remove(LocalModes::ICANON | LocalModes::ECHO);
        keys.special_codes[SpecialCodeIndex::VMIN] = 1;
        keys.special_codes[SpecialCodeIndex::VTIME] = 0;
        tcsetattr(stdin, OptionalActions::Now, &keys)?;
        Ok(Some(Self(before)))
    }

    /// Waits for a key for `span` at most.
    pub fn wait(&self, span: Nanos, stop: &Stop) -> Key {
        let stdin = rustix::stdio::stdin();
        let mut fds = [
            PollFd::from_borrowed_fd(stdin, PollFlags::IN),
            PollFd::from_borrowed_fd(stop.fd(), PollFlags::IN),
        ];
        match poll(&mut fds, Some(&timespec(span.0))) {
            Ok(0) | Err(rustix::io::Errno::INTR) => return Key::None,
            Err(_) => return Key::End,
            Ok(_) => {}
        }
        if !fds[1].revents().is_empty() {
            return Key::End;
        }
        // The moment first: reading takes time of its own.
        let at = now();
        let mut byte = [0];
        match rustix::io::read(stdin, &mut byte) {
            Ok(1) => Key::Pressed(byte[0], at),
            _ => Key::End,
        }
    }
}

impl Drop for Keys {
    fn drop(&mut self) {
        // A terminal that is gone needs nothing.
        let _ = tcsetattr(rustix::stdio::stdin(), OptionalActions::Now, &self.0);
    }
}
