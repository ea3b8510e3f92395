//! A call that presents: made as the program meant it, and recorded around.

use crate::Pointer;
use crate::book;
use crate::clock;
use crate::thread::Inside;
use honest_lap_present_abi::Api;

/// Makes a call by the function `by`, and returns what it answered, and when it began and ended; no times of one that another present makes,
/// which is the same frame.
#[inline(always)]
pub(crate) fn around<R>(by: Pointer, call: impl FnOnce() -> R) -> (R, Option<(u64, u64)>) {
    let inside = Inside::enter(by);
    let nested = inside.nested;
    let begun = clock::now_ns();
    let answer = call();
    inside.leave();
    (answer, (!nested).then(|| (begun, clock::now_ns())))
}

/// As above, and records it as a present of `surface` where it was one.
#[inline(always)]
pub(crate) fn presented<R>(
    api: Api,
    surface: u64,
    by: Pointer,
    call: impl FnOnce() -> R,
    shown: impl FnOnce(&R) -> bool,
) -> R {
    let (answer, times) = around(by, call);
    if let Some((begun, ended)) = times
        && shown(&answer)
    {
        book::record(api, surface, begun, ended);
    }
    answer
}
