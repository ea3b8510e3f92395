//! A campaign: everything a session is to run, and when it has run enough.

use super::forecast::{Expected, Forecast};
use super::schedule::{DoneLap, Part, PlannedLap, Step, order, round};
use super::spread::LEAST_ROUNDS;
use super::tally::Tally;
use crate::record::{CampaignPart, Goal};
use crate::unit::Nanos;

impl CampaignPart {
    /// Returns it as the schedule takes it.
    pub fn part(&self) -> Part {
        let Self { block, laps, warm_up, .. } = *self;
        Part { variants: self.variants.len(), block, laps, warm_up }
    }
}

/// Rounds after which a budget gives a part no more.
const MOST_ROUNDS: u32 = 10_000;

/// Returns after which counted rounds a campaign with [`Goal::Until`] looks at a part: at most
/// three times, the last at its end.
pub fn looks(part: &Part) -> Vec<u32> {
    let all = part.driven();
    let even = |n: u32| if part.blocks() == 2 { n.next_multiple_of(2) } else { n };
    let mut at: Vec<u32> = [all.div_ceil(3), (2 * all).div_ceil(3), all]
        .into_iter()
        .map(|n| even(n.max(LEAST_ROUNDS)).min(all))
        .collect();
    at.dedup();
    at
}

/// Decides which lap is next. Pure: outcomes and the time spent come in.
#[derive(Clone, Debug)]
pub struct Planner {
    parts: Vec<Part>,
    goal: Goal,
    seed: u64,
    tally: Tally,
    /// Of each part, how many of its looks were taken, and whether one found it precise enough.
    looked: Vec<(usize, bool)>,
}

impl Planner {
    /// Returns the planner of `parts`.
    pub fn new(parts: Vec<Part>, goal: Goal, seed: u64) -> Self {
        let first = match goal {
            Goal::All | Goal::Until(_) => parts.clone(),
            Goal::Budget(_) => {
                let least = |p: &Part| Part { laps: LEAST_ROUNDS, ..*p };
                parts.iter().map(least).collect()
            }
        };
        let mut tally = Tally::new(parts.iter().map(|part| part.variants));
        tally.extend(order(&first, seed));
        let looked = vec![(0, false); parts.len()];
        Self { parts, goal, seed, tally, looked }
    }

    /// Returns the order as far as it is known.
    pub fn order(&self) -> &[PlannedLap] {
        self.tally.order()
    }

    /// Returns what ends the campaign.
    pub fn goal(&self) -> Goal {
        self.goal
    }

    /// Returns the place of a lap in the order, which grows to hold it where a budget ran it.
    pub fn place_of(&mut self, lap: PlannedLap) -> Option<usize> {
        let plan = *self.parts.get(lap.part)?;
        if lap.variant >= plan.variants || lap.round == 0 || lap.round > MOST_ROUNDS {
            return None;
        }
        let grows = matches!(self.goal, Goal::Budget(_)) && !lap.warm_up;
        while grows && self.tally.place_of(lap).is_none() {
            let round = self.next_round(lap.part);
            self.tally.extend(round);
        }
        self.tally.place_of(lap)
    }

    /// Imports what came of a lap.
    pub fn take(&mut self, driven: &DoneLap) {
        self.tally.take(driven);
    }

    /// Returns whether the variant of `lap` has failed too often in a row, and how it stands would matter: laps of it are
    /// left.
    pub fn passes_over(&self, lap: PlannedLap) -> bool {
        self.tally.gave_up(lap) && self.tally.has_more(lap)
    }

    /// Returns how long what is left of the order should take; `rest` says how long the rest behind a part's laps.
    pub fn left(&self, forecast: &Forecast, rest: impl Fn(usize) -> Nanos) -> Expected {
        self.tally.left(forecast, rest)
    }

    /// Returns the next lap, when `spent` was spent; `forecast` says how long a lap takes and `rest` how long the rest
    /// behind it. O(variants), however many laps there were.
    pub fn next(
        &mut self,
        spent: Nanos,
        forecast: &Forecast,
        rest: impl Fn(usize) -> Nanos,
    ) -> Step {
        let step = |place: Option<usize>| place.map_or(Step::Finished, Step::Run);
        match self.goal {
            Goal::All => step(self.tally.next(|_| true)),
            Goal::Until(target) => {
                self.look(target);
                step(self.tally.next(|part| !self.looked[part].1))
            }
            Goal::Budget(budget) => {
                let fits =
                    |laps: &[PlannedLap]| spent.plus(forecast.of(laps, &rest).time) <= budget;
                if spent >= budget {
                    return Step::Finished;
                }
                if let Some(place) = self.tally.next(|_| true) {
                    return if fits(&self.order()[place..=place]) {
                        Step::Run(place)
                    } else {
                        Step::Finished
                    };
                }
                let round = match self.widest() {
                    Some(part) => self.next_round(part),
                    None => return Step::Finished,
                };
                if !fits(&round) {
                    return Step::Finished;
                }
                self.tally.extend(round);
                step(self.tally.next(|_| true))
            }
        }
    }

    /// Takes the looks that are due: what is left of a part is passed over once one found it precise enough. A look sees
    /// what was there when it was due, and no more.
    fn look(&mut self, target: f64) {
        for (part, plan) in self.parts.iter().enumerate() {
            let (taken, settled) = &mut self.looked[part];
            let done = self.tally.whole_rounds(part);
            let due = looks(plan).into_iter().filter(|&at| at <= done && at < plan.driven());
            for at in due.skip(*taken) {
                *taken += 1;
                *settled |= self.tally.half_width(part, at).is_some_and(|half| half <= target);
            }
        }
    }

    /// Returns the part whose widest figure is the widest of all; one that is unknown comes first,
    /// and one that only fails not at all.
    fn widest(&self) -> Option<usize> {
        let alive = |part: &usize| {
            let variants = 0..self.parts[*part].variants;
            let lap = |variant| PlannedLap { part: *part, variant, round: 1, warm_up: false };
            variants.into_iter().any(|v| !self.tally.gave_up(lap(v)))
                && self.tally.last_round(*part) < MOST_ROUNDS
        };
        let width = |part: usize| self.tally.half_width(part, u32::MAX).unwrap_or(f64::INFINITY);
        (0..self.parts.len()).filter(alive).max_by(|&a, &b| width(a).total_cmp(&width(b)))
    }

    /// Returns what a part is run next: a round, or two where two blocks go A B B A.
    fn next_round(&self, part: usize) -> Vec<PlannedLap> {
        let plan = self.parts[part];
        let last = self.tally.last_round(part);
        let rounds = if plan.blocks() == 2 { 2 } else { 1 };
        let numbers = last + 1..=last + rounds;
        numbers.flat_map(|number| round(part, &plan, number, false, self.seed)).collect()
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    const SECOND: Nanos = Nanos::from_seconds(1);

    fn part(variants: usize, laps: u32) -> Part {
        Part { variants, block: 1, laps, warm_up: 1 }
    }

    /// Runs `planner` with laps of `time(part, variant, round)` seconds and returns what was run.
    fn driven(planner: &mut Planner, time: impl Fn(PlannedLap) -> f64) -> Vec<PlannedLap> {
        let (mut all, mut spent, mut forecast) = (Vec::new(), 0.0, Forecast::default());
        loop {
            let now = Nanos((spent * 1e9) as u64);
            let Step::Run(place) = planner.next(now, &forecast, |_| Nanos(0)) else { break };
            let lap = planner.order()[place];
            let seconds = time(lap);
            let wall = Nanos((seconds * 1e9) as u64);
            let driven = DoneLap { place, failed: false, time: Some(wall) };
            planner.take(&driven);
            all.push(driven);
            spent += seconds;
            forecast.add(lap.part, lap.variant, wall);
        }
        all.iter().map(|lap| planner.order()[lap.place]).collect()
    }

    fn counted(laps: &[PlannedLap], part: usize) -> usize {
        laps.iter().filter(|lap| lap.part == part && !lap.warm_up).count()
    }

    #[test]
    fn looks_are_announced_at_most_three_and_the_last_is_the_end() {
        assert_eq!(looks(&part(1, 30)), [10, 20, 30]);
        assert_eq!(looks(&part(2, 10)), [4, 8, 10]);
        assert_eq!(looks(&part(1, 6)), [3, 4, 6]);
        assert_eq!(looks(&part(1, 3)), [3]);
    }

    #[test]
    fn a_steady_part_ends_at_its_first_look_and_a_noisy_one_goes_on() {
        let mut planner = Planner::new(vec![part(1, 12), part(1, 12)], Goal::Until(0.01), 1);
        let noisy = |lap: PlannedLap| 1.0 + f64::from(lap.round % 3) * 0.2;
        let laps = driven(&mut planner, |lap| match lap.part {
            0 => 1.0 + f64::from(lap.round % 2) * 0.001,
            _ => noisy(lap),
        });
        assert_eq!((counted(&laps, 0), counted(&laps, 1)), (4, 12));
    }

    #[test]
    fn a_look_sees_only_what_was_there_when_it_was_due() {
        // Wild first rounds, steady later ones: the first look must not be passed afterwards.
        let mut planner = Planner::new(vec![part(1, 12)], Goal::Until(0.05), 1);
        let laps = driven(&mut planner, |lap| if lap.round == 1 { 2.0 } else { 1.0 });
        assert_eq!(counted(&laps, 0), 12);
    }

    #[test]
    fn a_budget_goes_to_what_is_known_least_and_is_kept() {
        let budget = Nanos::from_seconds(60);
        let mut planner = Planner::new(vec![part(1, 6), part(2, 6)], Goal::Budget(budget), 1);
        let laps = driven(&mut planner, |lap| match lap.part {
            0 => 1.0,
            _ => 1.0 + f64::from(lap.round % 3) * 0.1,
        });
        // Three rounds of the steady part and no more; the rest goes to the noisy one.
        assert_eq!(counted(&laps, 0), 3);
        assert!(counted(&laps, 1) > 30, "{}", counted(&laps, 1));
        assert_eq!(counted(&laps, 1) % 4, 0, "in pairs, an even number of them");
        let none = Planner::new(vec![part(1, 6)], Goal::Budget(SECOND), 1).next(
            SECOND,
            &Forecast::default(),
            |_| Nanos(0),
        );
        assert_eq!(none, Step::Finished);
    }

    #[test]
    fn a_campaign_is_gone_on_with_where_it_stood() {
        for goal in [Goal::All, Goal::Budget(Nanos::from_seconds(40))] {
            let parts = vec![part(3, 5), part(1, 4)];
            let mut whole = Planner::new(parts.clone(), goal, 9);
            let all = driven(&mut whole, |lap| 1.0 + f64::from(lap.round % 4) * 0.1);
            let mut again = Planner::new(parts, goal, 9);
            let places: Vec<Option<usize>> = all.iter().map(|&lap| again.place_of(lap)).collect();
            assert!(places.iter().all(Option::is_some), "{goal:?}");
            let stands =
                |p: &Planner| places.iter().flatten().map(|&at| p.order()[at]).collect::<Vec<_>>();
            assert_eq!(stands(&again), all);
            assert_eq!(
                again.place_of(PlannedLap { part: 7, variant: 0, round: 1, warm_up: false }),
                None
            );
        }
    }
}
