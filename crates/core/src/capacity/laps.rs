//! The laps of searches, as they are recorded, and what they come to.

use super::{Edge, SearchLap, Share, edge, next_load};
use crate::record::{
    Better, LapHead, LoadOutcome, LoadRule, Loads, Measure, Outcome, Reading, SessionName, Settings,
};
use std::borrow::Borrow;
use std::collections::BTreeMap;

/// The measure that a search yields.
pub const CAPACITY: &str = "capacity";
/// What a lap of a search says of itself: its load, and what came of it.
const LOAD: &str = "load";
const CAME: &str = "came";

/// Returns the measure that workloads of this rule are compared by.
pub fn measure(rule: &LoadRule) -> Measure {
    Measure { name: CAPACITY.to_owned(), unit: rule.unit.clone(), better: Better::More }
}

/// Returns what is recorded of a lap at the load of `place`.
pub fn readings(rule: &LoadRule, place: usize, came: Option<LoadOutcome>) -> Vec<Reading> {
    let reading = |name: &str, unit: &str, value, seen: String| Reading {
        name: name.to_owned(),
        unit: unit.to_owned(),
        better: Better::More,
        value,
        step: None,
        seen,
        reports_time: false,
    };
    let share = |came| match came {
        LoadOutcome::Held => 1.0,
        LoadOutcome::Strained => 0.5,
        LoadOutcome::Broke => 0.0,
    };
    let load = reading(LOAD, &rule.unit, Some(rule.load(place as f64)), rule.text(place));
    let came = came.map(|came| reading(CAME, "", Some(share(came)), came.word().to_owned()));
    [load].into_iter().chain(came).collect()
}

/// Returns what came of a lap, where the reading says that.
pub fn came_of(reading: &Reading) -> Option<LoadOutcome> {
    (reading.name == CAME).then(|| LoadOutcome::from_word(&reading.seen)).flatten()
}

/// Returns the load of a lap and what came of it, where it is one of a search.
pub fn tried(lap: &LapHead, rule: &LoadRule) -> Option<SearchLap> {
    let seen = |name: &str| lap.readings.iter().find(|reading| reading.name == name);
    let at = rule.place(&seen(LOAD)?.seen)?;
    Some(SearchLap { at, came: came_of(seen(CAME)?)? })
}

/// Returns whether a lap failed, and not because of its load.
pub fn is_failure(lap: &LapHead) -> bool {
    let by_load = lap.readings.iter().any(|reading| reading.name == CAME);
    lap.outcome.is_failure() && !by_load
}

/// A search: the laps of one variant, in one session and round.
#[derive(Clone, Debug)]
pub struct Searched<'a> {
    /// What its task says of loads.
    pub rule: &'a LoadRule,
    /// Its laps that say something of a load, in the order run.
    pub laps: Vec<(&'a LapHead, SearchLap)>,
    /// Where half of its laps would hold.
    pub edge: Option<Edge>,
    /// Whether everything was run that it needs.
    pub whole: bool,
}

type Place<'a> = (&'a SessionName, &'a str, &'a Settings, u32, u32);

/// The session whose day each session shares that people wrote down.
pub type ByHand = BTreeMap<SessionName, SessionName>;

/// Returns the searches of `laps`, whose tasks have these rules by number.
///
/// What people wrote down of a rig on one day is one search, in however many sessions they did.
pub fn searches<'a, L: Borrow<LapHead>>(
    laps: &'a [L],
    rules: &'a BTreeMap<u32, LoadRule>,
    by_hand: &'a ByHand,
) -> Vec<Searched<'a>> {
    let mut by_place: BTreeMap<Place<'a>, Vec<(&'a LapHead, SearchLap)>> = BTreeMap::new();
    let laps = laps.iter().map(Borrow::borrow);
    for lap in laps.filter(|lap| !lap.warm_up && lap.set_aside.is_none()) {
        let tried = rules.get(&lap.task).and_then(|rule| tried(lap, rule));
        if let Some(tried) = tried {
            let own = (&lap.name.session, lap.round);
            let (session, round) = by_hand.get(own.0).map_or(own, |day| (day, 0));
            let place = (session, lap.workload.as_str(), &lap.settings, lap.task, round);
            by_place.entry(place).or_default().push((lap, tried));
        }
    }
    let one = |((.., task, _), laps): (Place<'a>, Vec<(&'a LapHead, SearchLap)>)| {
        let rule = &rules[&task];
        let all: Vec<SearchLap> = laps.iter().map(|(_, tried)| *tried).collect();
        // Where it began does not matter to whether it is over: a start is one of its laps.
        let whole = next_load(&rule.search(None), &all).is_none();
        Searched { rule, edge: edge(&all, rule.steps()), laps, whole }
    };
    by_place.into_iter().map(one).collect()
}

/// Returns `laps` with every search as one lap that yields a capacity; other laps as they are.
///
/// A search stands at its last lap. One that was cut short yields nothing, and says so.
pub fn as_values(
    laps: Vec<LapHead>,
    rules: &BTreeMap<u32, LoadRule>,
    by_hand: &ByHand,
) -> Vec<LapHead> {
    if rules.is_empty() {
        return laps;
    }
    let mut values: BTreeMap<_, LapHead> = BTreeMap::new();
    for search in searches(&laps, rules, by_hand) {
        let Some((last, _)) = search.laps.last() else { continue };
        let rule = search.rule;
        let (value, seen) = value(&search);
        let reading = Reading {
            name: CAPACITY.to_owned(),
            unit: rule.unit.clone(),
            better: Better::More,
            value,
            step: None,
            seen,
            reports_time: false,
        };
        let head = LapHead {
            outcome: Outcome::Done,
            wall: None,
            parts: None,
            readings: vec![reading],
            ..(*last).clone()
        };
        values.insert(last.name.clone(), head);
    }
    let of_search = |lap: &LapHead| rules.contains_key(&lap.task);
    let kept = |lap: LapHead| match of_search(&lap) {
        true => values.get(&lap.name).cloned(),
        false => Some(lap),
    };
    laps.into_iter().filter_map(kept).collect()
}

/// Returns the load that a search found, and what is to be said of it; none where it is cut short, or where the
/// edge lies beyond the loads that there are.
fn value(search: &Searched<'_>) -> (Option<f64>, String) {
    let rule = search.rule;
    let Some(edge) = search.edge.filter(|_| search.whole) else {
        return (None, "its search was not run to its end".to_owned());
    };
    let last = rule.steps() - 1;
    let all = |at: usize, held: bool| {
        let mut there = search.laps.iter().filter(|(_, tried)| tried.at == at).peekable();
        there.peek().is_some() && there.all(|(_, tried)| tried.held() == held)
    };
    match &rule.loads {
        _ if all(0, false) => {
            let smallest = rule.text(0);
            (None, format!("the smallest load, {smallest}, does not hold: let it begin lower"))
        }
        Loads::Range { .. } if all(last, true) => {
            (None, format!("the largest load, {}, holds: let it go higher", rule.text(last)))
        }
        Loads::Range { .. } => (Some(rule.load(edge.at)), words(search, &edge)),
        Loads::Named(_) => {
            let best = (edge.at.floor().max(0.0) as usize).min(last);
            let best_step = format!("{} is the best step that holds", rule.text(best));
            (Some(rule.load(best as f64)), format!("{best_step}; {}", words(search, &edge)))
        }
    }
}

/// How many loads beside the edge are told.
const TOLD: usize = 6;

/// Returns a search in words: where it holds to, how surely, and what was run on either side.
fn words(search: &Searched<'_>, edge: &Edge) -> String {
    let rule = search.rule;
    let all: Vec<SearchLap> = search.laps.iter().map(|(_, tried)| *tried).collect();
    let shares = super::shares(&all);
    let beside = beside(&shares, edge);
    // What lies far off the edge was tried once, on the way to it.
    let is_beside = |share: &Share| beside.iter().any(|one| one.at == share.at);
    let mut near: Vec<Share> =
        shares.iter().filter(|share| beside.len() < 2 || !is_beside(share)).copied().collect();
    let far = |share: &Share| (share.at as f64 - edge.at).abs();
    near.sort_by(|a, b| far(a).total_cmp(&far(b)));
    near.truncate(TOLD);
    near.sort_by_key(|share| share.at);
    let (at, low, high) = (edge.at, edge.interval.low, edge.interval.high);
    let unit = format!("{:.1} {}", rule.load(at), rule.unit);
    let mut parts: Vec<String> = Vec::new();
    if beside.len() == 2 {
        parts.push(beside.iter().map(|share| told(rule, share)).collect::<Vec<_>>().join(", "));
    }
    parts.push(format!(
        "half of the laps hold at {} ({:.1} to {:.1}), from {} laps",
        unit.trim_end(),
        rule.load(low),
        rule.load(high),
        search.laps.len(),
    ));
    let near: Vec<String> = near.iter().map(|share| told(rule, share)).collect();
    parts.extend((!near.is_empty()).then(|| near.join(", ")));
    parts.join("; ")
}

/// Returns the loads on both sides of the edge, where both were tried.
fn beside(shares: &[Share], edge: &Edge) -> Vec<Share> {
    let below = shares.iter().rev().find(|share| share.at as f64 <= edge.at);
    let above = shares.iter().find(|share| share.at as f64 > edge.at);
    below.into_iter().chain(above).copied().collect()
}

/// Returns what came of a load: `41 held 4 of 4`.
fn told(rule: &LoadRule, share: &Share) -> String {
    let strained = match share.strained {
        0 => String::new(),
        strained => format!(" ({strained} strained)"),
    };
    format!("{} held {} of {}{strained}", rule.text(share.at), share.held, share.laps())
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::record::{Broke, LapName};
    use crate::unit::Nanos;

    fn rules() -> BTreeMap<u32, LoadRule> {
        let broke = Broke { exit_codes: vec![3], limit: true, signals: true };
        let loads = Loads::Range { from: 1, to: 64, step: 1 };
        BTreeMap::from([(
            7,
            LoadRule { loads, unit: "layers".into(), strained: None, broke, most: 36 },
        )])
    }

    fn lap(number: u32, load: usize, held: bool) -> LapHead {
        let name = LapName::parse(&format!("heron-1.{number}")).unwrap();
        let (came, outcome) = match held {
            true => (LoadOutcome::Held, Outcome::Done),
            false => (LoadOutcome::Broke, Outcome::ExitCode),
        };
        LapHead {
            task: 7,
            outcome,
            readings: readings(&rules()[&7], load - 1, Some(came)),
            ..LapHead::done(name, "sky-layers", Settings::default(), Nanos(5))
        }
    }

    #[test]
    fn what_people_wrote_down_of_one_day_is_one_search() {
        let (mut laps, rules) = (Vec::new(), rules());
        for (load, number) in [40, 40, 40, 40, 41, 41, 41, 41].into_iter().zip(1..) {
            let mut one = lap(1, load, load < 41);
            one.name = LapName::parse(&format!("heron-{number}.1")).unwrap();
            laps.push(LapHead { round: 1, ..one });
        }
        let name = |number: u32| LapName::parse(&format!("heron-{number}.1")).unwrap().session;
        let by_hand: ByHand = (1..=8).map(|number| (name(number), name(1))).collect();
        let value = |by_hand: &ByHand| as_values(laps.clone(), &rules, by_hand)[0].value(CAPACITY);
        let capacity = value(&by_hand).unwrap();
        assert!(capacity > 40.0 && capacity < 41.0, "{capacity}");
        assert_eq!(value(&ByHand::new()), None, "each by itself is no search");
    }

    #[test]
    fn a_search_is_one_value_and_a_broken_load_no_failure() {
        let mut laps: Vec<LapHead> = Vec::new();
        while let Some(at) = next_load(
            &rules()[&7].search(None),
            &laps.iter().map(|lap| tried(lap, &rules()[&7]).unwrap()).collect::<Vec<_>>(),
        ) {
            let load = at + 1;
            laps.push(lap(laps.len() as u32 + 1, load, load <= 41));
        }
        assert!(laps.iter().all(|lap| !is_failure(lap)));
        let cut = laps[..5].to_vec();
        let other = LapHead { task: 1, ..lap(99, 3, true) };
        laps.push(other.clone());
        let values = as_values(laps, &rules(), &ByHand::new());
        assert_eq!((values.len(), &values[1]), (2, &other));
        let capacity = values[0].value(CAPACITY).unwrap();
        assert!(capacity > 41.0 && capacity < 42.0, "{capacity}");
        let seen = &values[0].readings[0].seen;
        assert!(
            seen.starts_with("41 held 4 of 4, 42 held 0 of 4; half of the laps hold"),
            "{seen}"
        );
        let up = [32, 48, 56, 60, 62, 63, 64, 64, 64, 64].into_iter().zip(1..);
        let held: Vec<LapHead> = up.map(|(load, number)| lap(number, load, true)).collect();
        let top = as_values(held, &rules(), &ByHand::new());
        assert_eq!(top[0].value(CAPACITY), None);
        assert!(top[0].readings[0].seen.contains("let it go higher"), "{top:?}");
        let cut = as_values(cut, &rules(), &ByHand::new());
        assert_eq!((cut.len(), cut[0].value(CAPACITY)), (1, None));
        assert!(cut[0].readings[0].seen.contains("not run to its end"));
    }
}
