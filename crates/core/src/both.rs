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

/// Returns what `each` makes of every one of `all`, in their order: of two or more, both halves at once.
pub fn in_halves<T: Sync, R: Send>(all: &[T], each: impl Fn(&T) -> R + Sync) -> Vec<R> {
    let of = |half: &[T]| half.iter().map(&each).collect::<Vec<R>>();
    if all.len() < 2 {
        return of(all);
    }
    let (first, second) = all.split_at(all.len() / 2);
    let (mut made, others) = both(|| of(first), || of(second));
    made.extend(others);
    made
}

/// So many are worth a thread of their own for half of them.
pub const MANY: usize = 100;

/// Returns the same: of [`MANY`] or more, both halves at once.
pub fn of_many<T: Sync, R: Send>(all: &[T], each: impl Fn(&T) -> R + Sync) -> Vec<R> {
    if all.len() < MANY { all.iter().map(each).collect() } else { in_halves(all, each) }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn halves_come_back_in_order() {
        for many in (0..6).chain(MANY - 1..MANY + 2) {
            let many = many as u32;
            let all: Vec<u32> = (0..many).collect();
            let doubled: Vec<u32> = all.iter().map(|one| one * 2).collect();
            assert_eq!(in_halves(&all, |one| one * 2), doubled);
            assert_eq!(of_many(&all, |one| one * 2), doubled);
        }
    }

    #[test]
    fn both_are_worked_out_and_a_panic_comes_through() {
        let text = String::from("still");
        assert_eq!(both(|| text.len(), || text.to_uppercase()), (5, "STILL".to_owned()));
        let fails = std::panic::catch_unwind(|| both(|| 1, || panic!("no")));
        assert!(fails.is_err());
    }
}
