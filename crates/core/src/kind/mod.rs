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
        let timed = (self.kind == Kind::Task).then(Measure::time);
        let framed = match self.kind {
            Kind::Frames => frame::measures(),
            Kind::Endurance => {
                self.endurance.as_ref().map_or(Vec::new(), |rule| endurance::measures(self, rule))
            }
            Kind::Task | Kind::Score | Kind::Capacity => Vec::new(),
        };
        // What a lap of a search says of itself is told by the search as a whole.
        if let Some(rule) = &self.load {
            return vec![capacity::measure(rule)];
        }
        let read = read.map(ReadingRule::measure);
        timed.into_iter().chain(parts).chain(framed).chain(read).collect()
    }
}
