//! What a workload says of its loads: which there are, and what counts as held, strained or broken.

use super::Search;
use crate::record::{LoadOutcome, LoadRule, Loads, Outcome, Reading, Strained};

impl LoadRule {
    /// Returns how many loads there are.
    pub fn steps(&self) -> usize {
        match &self.loads {
            Loads::Range { from, to, step } => ((to - from) / step) as usize + 1,
            Loads::Named(names) => names.len(),
        }
    }

    /// Returns the load at `place`, as the command is given it.
    pub fn text(&self, place: usize) -> String {
        match &self.loads {
            Loads::Range { from, step, .. } => (from + step * place as u32).to_string(),
            Loads::Named(names) => names.get(place).cloned().unwrap_or_default(),
        }
    }

    /// Returns the place of the load that `text` gives.
    pub fn place(&self, text: &str) -> Option<usize> {
        match &self.loads {
            Loads::Range { from, to, step } => {
                let load: u32 = text.parse().ok().filter(|load| (*from..=*to).contains(load))?;
                let above = load - from;
                above.is_multiple_of(*step).then_some((above / step) as usize)
            }
            Loads::Named(names) => names.iter().position(|name| name == text),
        }
    }

    /// Returns the load that lies `at` steps from the first: of named ones, the count of those up to it.
    pub fn load(&self, at: f64) -> f64 {
        match self.loads {
            Loads::Range { from, step, .. } => f64::from(from) + f64::from(step) * at,
            Loads::Named(_) => at + 1.0,
        }
    }

    /// Returns the search over them that begins at `start`.
    pub fn search(&self, start: Option<usize>) -> Search {
        Search { steps: self.steps(), start, most: self.most as usize }
    }

    /// Returns what came of a lap; `None` of one that failed for another reason than its load.
    ///
    /// `found` says whether the pattern of strain was found in its output; `on_time` is the share of its frames that
    /// came on time, where it has frames.
    pub fn came(
        &self,
        outcome: Outcome,
        exit_code: Option<i32>,
        readings: &[Reading],
        found: bool,
        on_time: Option<f64>,
    ) -> Option<LoadOutcome> {
        match outcome {
            Outcome::Done => {}
            Outcome::OverLimit => return self.broke.limit.then_some(LoadOutcome::Broke),
            Outcome::Signal => return self.broke.signals.then_some(LoadOutcome::Broke),
            Outcome::ExitCode => {
                let listed = exit_code.is_some_and(|code| self.broke.exit_codes.contains(&code));
                return listed.then_some(LoadOutcome::Broke);
            }
            _ => return None,
        }
        let value = |name: &str| readings.iter().find(|reading| reading.name == name)?.value;
        let strained = match &self.strained {
            None => false,
            Some(Strained::Pattern(_)) => found,
            Some(Strained::Above(name, limit)) => value(name)? > *limit,
            Some(Strained::Below(name, limit)) => value(name)? < *limit,
            Some(Strained::LateFrames(share)) => 1.0 - on_time? > *share,
        };
        Some(if strained { LoadOutcome::Strained } else { LoadOutcome::Held })
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::record::{Better, Broke};

    fn rule(strained: Option<Strained>) -> LoadRule {
        let loads = Loads::Range { from: 10, to: 50, step: 5 };
        let broke = Broke { exit_codes: vec![3], limit: true, signals: false };
        LoadRule { loads, unit: "layers".into(), strained, broke, most: 36 }
    }

    #[test]
    fn loads_have_places_and_places_loads() {
        let numbers = rule(None);
        assert_eq!((numbers.steps(), numbers.text(8)), (9, "50".to_owned()));
        assert_eq!(
            (numbers.place("25"), numbers.place("26"), numbers.place("55")),
            (Some(3), None, None)
        );
        assert_eq!(numbers.load(2.5), 22.5);
        let named =
            LoadRule { loads: Loads::Named(vec!["half".into(), "full".into()]), ..rule(None) };
        assert_eq!(
            (named.place("full"), named.text(0), named.load(1.0)),
            (Some(1), "half".into(), 2.0)
        );
    }

    #[test]
    fn what_breaks_is_the_studys_to_say_and_a_usage_error_is_no_load() {
        let plain = rule(None);
        let came = |outcome, code| plain.came(outcome, code, &[], false, None);
        assert_eq!(came(Outcome::Done, Some(0)), Some(LoadOutcome::Held));
        assert_eq!(came(Outcome::ExitCode, Some(3)), Some(LoadOutcome::Broke));
        assert_eq!(came(Outcome::ExitCode, Some(64)), None, "a usage error");
        assert_eq!(came(Outcome::OverLimit, None), Some(LoadOutcome::Broke));
        assert_eq!(came(Outcome::Signal, None), None, "this study takes a crash for a failure");
        assert_eq!(came(Outcome::Interrupted, None), None);
    }

    #[test]
    fn strain_is_a_pattern_or_a_reading_past_its_limit() {
        let dropped = |value| Reading {
            name: "dropped".into(),
            unit: String::new(),
            better: Better::Less,
            value,
            step: None,
            seen: String::new(),
            reports_time: false,
        };
        let above = rule(Some(Strained::Above("dropped".into(), 0.0)));
        let came = |value| above.came(Outcome::Done, Some(0), &[dropped(value)], false, None);
        assert_eq!(came(Some(0.0)), Some(LoadOutcome::Held));
        assert_eq!(came(Some(2.0)), Some(LoadOutcome::Strained));
        assert_eq!(came(None), None, "what was not read says nothing");
        let pattern = rule(Some(Strained::Pattern("dropped".into())));
        assert_eq!(
            pattern.came(Outcome::Done, Some(0), &[], true, None),
            Some(LoadOutcome::Strained)
        );
        let late = rule(Some(Strained::LateFrames(0.01)));
        let came = |on_time| late.came(Outcome::Done, Some(0), &[], false, on_time);
        assert_eq!(
            [Some(0.995), Some(0.98), None].map(came),
            [Some(LoadOutcome::Held), Some(LoadOutcome::Strained), None]
        );
    }
}
