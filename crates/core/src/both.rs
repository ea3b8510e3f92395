//! Two computations at once.

use std::sync::{Mutex, PoisonError};
use std::thread::Builder;

/// Returns what both come to: the second on a thread of its own, or after the first where none can be started.
///
/// A panic of either is the caller's.
pub fn both<A, B: Send>(first: impl FnOnce() -> A, second: impl FnOnce() -> B + Send) -> (A, B) {
    let second = Mutex::new(Some(second));
    let take = || {
        let second = second.lock().unwrap_or_else(PoisonError::into_inner).take();
        second.map(|second| second())
    };
    let (first, theirs) = std::thread::scope(|scope| {
        let thread = Builder::new().spawn_scoped(scope, take);
        let first = first();
        let theirs = thread
            .ok()
            .map(|thread| thread.join().unwrap_or_else(|panic| std::panic::resume_unwind(panic)));
        (first, theirs.flatten())
    });
    let second = theirs.or_else(take);
    (first, second.expect("it was taken once, by the thread or here"))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn both_are_worked_out_and_a_panic_comes_through() {
        let text = String::from("still");
        assert_eq!(both(|| text.len(), || text.to_uppercase()), (5, "STILL".to_owned()));
        let fails = std::panic::catch_unwind(|| both(|| 1, || panic!("no")));
        assert!(fails.is_err());
    }
}
