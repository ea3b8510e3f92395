//! Tests that share one rate: where nothing is wrong with a lab, all of them together accuse it seldom.

use super::raised::Raised;
use crate::stat::accusing;

/// How often any test accuses a lab that has nothing wrong with it, at most.
///
/// With the tests that stand by themselves (still falling: 1 % of long laps) it stays below 10 %; simulated in
/// `core/tests/judgement/clean.rs`.
const RATE: f64 = 0.08;

/// Tests of one kind: how many were made, and what those with a small p would say.
#[derive(Default)]
pub(super) struct Tests {
    made: usize,
    found: Vec<(f64, Raised)>,
}

impl Tests {
    /// Counts a test, which says `raised` where its `p` is small enough beside all others.
    pub(super) fn made(&mut self, p: f64, raised: Option<Raised>) {
        self.made += 1;
        self.found.extend(raised.map(|raised| (p, raised)));
    }
}

/// Returns what the tests of `all` kinds may say.
pub(super) fn shared(all: Vec<Tests>) -> Vec<Raised> {
    let made = all.iter().map(|tests| tests.made).sum();
    let (p, raised): (Vec<f64>, Vec<Raised>) =
        all.into_iter().flat_map(|tests| tests.found).unzip();
    let may = accusing(&p, made, RATE);
    let raised = raised.into_iter().enumerate();
    raised.filter(|(place, _)| may.contains(place)).map(|(_, raised)| raised).collect()
}
