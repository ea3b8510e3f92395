//! A signal that sets a mark: for a key of the desktop, or a button on the desk.

use crate::error::CmdError;
use honest_lap_measure::{MarkSignal, now};
use std::io::Write;
use std::os::unix::net::UnixStream;

/// Returns the moments at which the signal USR1 comes, from now on.
#[expect(unsafe_code, reason = "what runs inside a signal handler is restricted")]
pub fn mark_on_signal() -> Result<MarkSignal, CmdError> {
    let failed = |err: std::io::Error| CmdError::io("watch", "signals".as_ref(), &err);
    let (read, write) = UnixStream::pair().map_err(failed)?;
    // One mark too many is lost rather than waited for.
    write.set_nonblocking(true).map_err(failed)?;
    let note = move || {
        let _ = (&write).write(&now().0.to_ne_bytes());
    };
    // SAFETY: it reads a clock and writes to a socket, both of which a handler may do, and allocates
    // nothing.
    unsafe { signal_hook::low_level::register(signal_hook::consts::SIGUSR1, note) }
        .map_err(failed)?;
    MarkSignal::new(read.into()).map_err(failed)
}
