//! What differs between laps that are alike but for their times: what was read from each and what else is known of it, packed.

use super::alike::Common;
use super::details::OwnRow;
use super::facts::Known;
use crate::record::NumberRows;
use std::sync::Arc;

/// What is known of one of several laps besides its head, where it lies.
#[derive(Clone, Copy, Debug)]
pub struct DetailsOfLap<'d> {
    pub(super) common: &'d Arc<Common>,
    pub(super) own: OwnRow<'d>,
}

impl DetailsOfLap<'_> {
    /// Returns it by itself.
    pub fn known(self) -> Known {
        self.common.known(self.own)
    }
}

/// What is known of laps besides their heads, one after the other.
#[derive(Clone, Debug, Default)]
pub struct LapDetails {
    /// Where laps end of which the same is known but for numbers, what that is, and the numbers of each.
    runs: Vec<(u32, Arc<Common>, NumberRows)>,
}

impl LapDetails {
    /// Returns of how many laps they are.
    pub fn len(&self) -> usize {
        self.runs.last().map_or(0, |(end, ..)| *end as usize)
    }

    /// Returns whether they are of none.
    pub fn is_empty(&self) -> bool {
        self.runs.is_empty()
    }

    /// Adds those of a lap behind the others.
    pub fn push(&mut self, known: Known) {
        let before = self.runs.last().map(|(_, common, _)| common);
        let (common, own) = Common::of(known, before);
        let end = self.len() as u32 + 1;
        match self.runs.last_mut().filter(|(_, last, _)| Arc::ptr_eq(last, &common)) {
            Some((to, _, rows)) => {
                *to = end;
                rows.push(&own);
            }
            None => {
                let mut rows = NumberRows::default();
                rows.push(&own);
                self.runs.push((end, common, rows));
            }
        }
    }

    /// Returns those of each lap, where they lie.
    pub fn each(&self) -> impl Iterator<Item = DetailsOfLap<'_>> {
        self.runs.iter().flat_map(|(_, common, rows)| {
            (0..rows.len()).map(move |place| DetailsOfLap { common, own: OwnRow { rows, place } })
        })
    }

    /// Lets go of room that is not needed any more.
    pub fn shrink(&mut self) {
        self.runs.shrink_to_fit();
        self.runs.iter_mut().for_each(|(.., rows)| rows.shrink());
    }

    pub(super) fn runs(&self) -> impl Iterator<Item = (u32, &Arc<Common>, &NumberRows)> {
        self.runs.iter().map(|(end, common, rows)| (*end, common, rows))
    }
}
