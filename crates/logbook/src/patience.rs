//! Waiting for whoever else holds the file.

use std::sync::OnceLock;
use std::time::Duration;

/// How long to sleep between two tries. Shorter than a commit takes: whoever sleeps longer is always late.
const NAP: Duration = Duration::from_millis(5);
/// After so many tries, ten seconds, the user is told.
const TOLD_AFTER: i32 = 2_000;
/// After so many, two minutes, it is given up: something that does not let go is no writer.
const GIVEN_UP_AFTER: i32 = 24_000;

static TELL: OnceLock<fn()> = OnceLock::new();

/// Has `tell` called once when a logbook has been waited for ten seconds. The first to ask for it is heard.
pub fn when_waiting(tell: fn()) {
    let _ = TELL.set(tell);
}

/// Waits a little, after so many tries; returns whether to try again.
pub(crate) fn wait(tries: i32) -> bool {
    if tries == TOLD_AFTER
        && let Some(tell) = TELL.get()
    {
        tell();
    }
    std::thread::sleep(NAP);
    tries < GIVEN_UP_AFTER
}
