//! Kinds of workload: which measures a lap of each yields.

use crate::capacity;
use crate::endurance;
use crate::frame;
use crate::record::{Kind, Measure, ReadingRule, SplitRule, Task};

impl Task {
    /// Returns the measures that a lap of it yields, its time first.
    pub fn measures(&self) -> Vec<Measure> {
        let part = |rule: &SplitRule| Measure { name: rule.part.clone(), ..Measure::time() };
        let parts = self.splits.iter().flat_map(|splits| &splits.parts).map(part);
        let read = self.readings.iter().filter(|rule| !rule.reports_time);
        let own = match &self.kind {
            Kind::Task => vec![Measure::time()],
            Kind::Score => Vec::new(),
            Kind::Frames(_) => frame::measures(),
            // What a lap of a search says of itself is told by the search as a whole.
            Kind::Capacity(capacity) => return vec![capacity::measure(&capacity.load)],
            Kind::Endurance(endurance) => endurance::measures(self, &endurance.rule),
        };
        let read = read.map(ReadingRule::measure);
        match &self.kind {
            // Its time stands ahead of what that is divided into.
            Kind::Task => own.into_iter().chain(parts).chain(read).collect(),
            _ => parts.chain(own).chain(read).collect(),
        }
    }
}
