//! Ctrl-C, a closing terminal and a polite kill, as a request to stop.

use crate::error::CmdError;
use honest_lap_measure::Stop;

/// Returns a stop that Ctrl-C, a closing terminal or a polite kill requests.
pub fn stop_on_signals() -> Result<Stop, CmdError> {
    let failed = |err: std::io::Error| CmdError::io("watch", "signals".as_ref(), &err);
    let (read, write) = std::os::unix::net::UnixStream::pair().map_err(failed)?;
    for signal in
        [signal_hook::consts::SIGINT, signal_hook::consts::SIGTERM, signal_hook::consts::SIGHUP]
    {
        let write = write.try_clone().map_err(failed)?;
        signal_hook::low_level::pipe::register(signal, write).map_err(failed)?;
    }
    Ok(Stop::new(read.into()))
}
