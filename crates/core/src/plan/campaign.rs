//! A campaign: everything a session is to drive, and when it has driven enough.

use super::forecast::Forecast;
use super::schedule::{Dealt, Driven, Part, PlannedLap, Step, order, round};
use crate::judge::LOOK_ALPHA;
use crate::record::{CampaignPart, Goal};
use crate::stat::{StatError, paired, typical_interval};
use crate::unit::Nanos;
use std::collections::BTreeMap;

impl CampaignPart {
    /// Returns it as the schedule takes it.
    pub fn part(&self) -> Part {
        let Self { block, laps, warm_up, .. } = *self;
        Part { variants: self.variants.len(), block, laps, warm_up }
    }
}

/// The least counted laps of a variant before its precision is looked at.
const LEAST_ROUNDS: u32 = 3;
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
    order: Vec<PlannedLap>,
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
        let order = order(&first, seed);
        Self { parts, goal, seed, order }
    }

    /// Returns the order as far as it is known.
    pub fn order(&self) -> &[PlannedLap] {
        &self.order
    }

    /// Returns what ends the campaign.
    pub fn goal(&self) -> Goal {
        self.goal
    }

    /// Returns the place of a lap in the order, which grows to hold it where a budget drove it.
    pub fn place_of(&mut self, lap: PlannedLap) -> Option<usize> {
        let plan = *self.parts.get(lap.part)?;
        if lap.variant >= plan.variants || lap.round == 0 || lap.round > MOST_ROUNDS {
            return None;
        }
        let found = |order: &[PlannedLap]| order.iter().position(|known| *known == lap);
        while found(&self.order).is_none() && matches!(self.goal, Goal::Budget(_)) && !lap.warm_up {
            self.add_round(lap.part);
        }
        found(&self.order)
    }

    /// Returns the next lap, when `driven` were dealt with in `spent`; `forecast` says how long a
    /// lap takes and `rest` how long the rest behind it.
    pub fn next(
        &mut self,
        driven: &[Driven],
        spent: Nanos,
        forecast: &Forecast,
        rest: impl Fn(usize) -> Nanos,
    ) -> Step {
        let cost = |laps: &[PlannedLap]| forecast.of(laps, &rest).time;
        match self.goal {
            Goal::All => Dealt::of(&self.order, driven).next_step(),
            Goal::Until(target) => self.next_until(target, driven),
            Goal::Budget(budget) => {
                if spent >= budget {
                    return Step::Finished;
                }
                if let Step::Drive(place) = Dealt::of(&self.order, driven).next_step() {
                    let fits = spent.plus(cost(&self.order[place..=place])) <= budget;
                    return if fits { Step::Drive(place) } else { Step::Finished };
                }
                let Some(part) = self.widest(driven) else { return Step::Finished };
                let from = self.order.len();
                self.add_round(part);
                if spent.plus(cost(&self.order[from..])) > budget {
                    self.order.truncate(from);
                    return Step::Finished;
                }
                Dealt::of(&self.order, driven).next_step()
            }
        }
    }

    /// Passes over what is left of a part once a look found it precise enough.
    fn next_until(&self, target: f64, driven: &[Driven]) -> Step {
        let dealt = Dealt::of(&self.order, driven);
        let done = self.rounds_done(&dealt);
        let settled = |part: usize| {
            let plan = &self.parts[part];
            // A look sees what was there when it was due, and no more.
            let mut due =
                looks(plan).into_iter().filter(|&at| at <= done[part] && at < plan.driven());
            due.any(|at| self.half_width(part, driven, at).is_some_and(|half| half <= target))
        };
        let settled: Vec<bool> = (0..self.parts.len()).map(settled).collect();
        let next = dealt.left().find(|(_, lap)| !settled[lap.part]);
        next.map_or(Step::Finished, |(place, _)| Step::Drive(place))
    }

    /// Returns how many counted rounds of each part have been dealt with whole.
    fn rounds_done(&self, dealt: &Dealt<'_>) -> Vec<u32> {
        let mut done = vec![0; self.parts.len()];
        for lap in &self.order {
            done[lap.part] = lap.round.max(done[lap.part]);
        }
        for (_, lap) in dealt.left().filter(|(_, lap)| !lap.warm_up) {
            done[lap.part] = done[lap.part].min(lap.round - 1);
        }
        done
    }

    /// Returns the widest relative half-width among a part's figures after `rounds` rounds: each
    /// variant's typical lap, and each variant's ratio to the first. `None` while one is unknown.
    ///
    /// Intervals are those of an announced look, at [`LOOK_ALPHA`].
    pub fn half_width(&self, part: usize, driven: &[Driven], rounds: u32) -> Option<f64> {
        let mut cells: BTreeMap<usize, BTreeMap<u32, f64>> = BTreeMap::new();
        for lap in driven {
            let planned = self.order.get(lap.place)?;
            let counts = planned.part == part && !planned.warm_up && planned.round <= rounds;
            if let (true, Some(time)) = (counts, lap.time) {
                cells.entry(planned.variant).or_default().insert(planned.round, time.seconds());
            }
        }
        let dealt = Dealt::of(&self.order, driven);
        let failed =
            |variant: usize| dealt.gave_up(PlannedLap { part, variant, round: 1, warm_up: false });
        let mut widest: f64 = 0.0;
        let first = cells.get(&0);
        for variant in (0..self.parts.get(part)?.variants).filter(|&v| !failed(v)) {
            let cell = cells.get(&variant)?;
            widest = widest.max(cell_half_width(cell).ok()?);
            if let (Some(first), true) = (first, variant > 0) {
                let pairs = first.iter().filter_map(|(r, &a)| Some((a, *cell.get(r)?)));
                let (a, b): (Vec<f64>, Vec<f64>) = pairs.unzip();
                let half = paired(&a, &b).and_then(|ratio| ratio.half_width(1.0 - LOOK_ALPHA));
                widest = widest.max(half.ok()?.exp_m1());
            }
        }
        Some(widest)
    }

    /// Returns the part whose widest figure is the widest of all; one that is unknown comes first,
    /// and one that only fails not at all.
    fn widest(&self, driven: &[Driven]) -> Option<usize> {
        let dealt = Dealt::of(&self.order, driven);
        let alive = |part: &usize| {
            let variants = 0..self.parts[*part].variants;
            let lap = |variant| PlannedLap { part: *part, variant, round: 1, warm_up: false };
            variants.into_iter().any(|v| !dealt.gave_up(lap(v)))
                && self.last_round(*part) < MOST_ROUNDS
        };
        let width = |part: usize| self.half_width(part, driven, u32::MAX).unwrap_or(f64::INFINITY);
        (0..self.parts.len()).filter(alive).max_by(|&a, &b| width(a).total_cmp(&width(b)))
    }

    fn last_round(&self, part: usize) -> u32 {
        let counted = self.order.iter().filter(|lap| lap.part == part && !lap.warm_up);
        counted.map(|lap| lap.round).max().unwrap_or(0)
    }

    /// Adds what a part is driven next: a round, or two where two blocks go A B B A.
    fn add_round(&mut self, part: usize) {
        let plan = self.parts[part];
        let last = self.last_round(part);
        let rounds = if plan.blocks() == 2 { 2 } else { 1 };
        for number in last + 1..=last + rounds {
            self.order.extend(round(part, &plan, number, false, self.seed));
        }
    }
}

fn cell_half_width(cell: &BTreeMap<u32, f64>) -> Result<f64, StatError> {
    let values: Vec<f64> = cell.values().copied().collect();
    if values.len() < LEAST_ROUNDS as usize {
        return Err(StatError::TooFew { needed: LEAST_ROUNDS as usize, found: values.len() });
    }
    let interval = typical_interval(&values, 1.0 - LOOK_ALPHA)?;
    Ok((interval.high / interval.low).sqrt() - 1.0)
}

#[cfg(test)]
mod tests {
    use super::*;

    const SECOND: Nanos = Nanos::from_seconds(1);

    fn part(variants: usize, laps: u32) -> Part {
        Part { variants, block: 1, laps, warm_up: 1 }
    }

    /// Drives `planner` with laps of `time(part, variant, round)` seconds and returns what was driven.
    fn driven(planner: &mut Planner, time: impl Fn(PlannedLap) -> f64) -> Vec<PlannedLap> {
        let (mut all, mut spent, mut forecast) = (Vec::new(), 0.0, Forecast::default());
        loop {
            let now = Nanos((spent * 1e9) as u64);
            let Step::Drive(place) = planner.next(&all, now, &forecast, |_| Nanos(0)) else {
                break;
            };
            let lap = planner.order()[place];
            let seconds = time(lap);
            let wall = Nanos((seconds * 1e9) as u64);
            all.push(Driven { place, failed: false, time: Some(wall) });
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
            &[],
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
