//! Doubts: named reasons why a figure may mislead, each with its evidence and what would settle it.
//!
//! A new doubt is one file with a `find`, and one line in [`doubts`]. Doubts by a test say how often
//! it raises them on laps that have nothing wrong with them; doubts by a fact say none.

mod average_hides;
mod capped;
mod first_lap;
mod held_back;
mod left_over;
mod limit;
mod machine_busy;
mod missing;
mod never_settled;
mod not_steady;
mod nothing_to_choose;
mod odd_lap;
mod odd_one_out;
mod one_of_a_kind;
mod other_version;
mod other_work;
mod out_of_order;
mod own_time;
mod read_coarsely;
mod series;
mod slept;
mod slipped_digit;
mod stale;
mod still_falling;
mod swapped;
mod sway;
mod throttled;
mod too_few;
mod two_things_changed;
mod upside_down;

pub use limit::{Limit, limit};
pub use sway::{Sway, by_sway};

use crate::capacity::Searched;
use crate::judge::{Assumptions, Held, Row, WorkloadView};
use crate::lab::{LapFacts, Sitting};
use crate::record::{LapHead, LapName, SessionName, Settings, Study, VersionLine};
use std::collections::{BTreeMap, BTreeSet, HashMap};

/// A reason why a workload's figures may mislead.
#[derive(Clone, Debug, PartialEq)]
pub struct Doubt {
    /// Its name.
    pub name: &'static str,
    /// The workload it concerns.
    pub workload: String,
    /// The laps it concerns; empty where it concerns figures as a whole.
    pub laps: Vec<LapName>,
    /// What was seen, in a sentence.
    pub evidence: String,
    /// What would settle it, with the command that does.
    pub settle: String,
    /// How often it is raised on a series of laps that has nothing wrong with it; `None` where it
    /// states a fact.
    pub false_alarms: Option<f64>,
}

/// What doubts are found in.
#[derive(Clone, Copy, Debug)]
pub struct Evidence<'a> {
    /// The laps whose figures are shown, counted or not.
    pub laps: &'a [LapHead],
    /// What else is known of them.
    pub facts: &'a HashMap<LapName, Box<LapFacts>>,
    /// What the programs said of their version, by session.
    pub versions: &'a [(SessionName, VersionLine)],
    /// What a comparison of them comes to.
    pub views: &'a [WorkloadView],
    /// Workloads that are not about their time.
    pub untimed: &'a BTreeSet<String>,
    /// The sessions.
    pub sittings: &'a [Sitting],
    /// The study: what people know of the rigs, and expect.
    pub study: &'a Study,
    /// What verdicts take for granted.
    pub assume: &'a Assumptions,
    /// The searches for a load.
    pub searches: &'a [Searched<'a>],
}

/// Returns every doubt about what `evidence` shows, by workload.
pub fn doubts(evidence: &Evidence<'_>) -> Vec<Doubt> {
    let of_series = [too_few::find, first_lap::find, odd_lap::find, not_steady::find];
    let of_facts = [
        other_work::find,
        machine_busy::find,
        throttled::find,
        never_settled::find,
        still_falling::find,
        swapped::find,
        slept::find,
        left_over::find,
        own_time::find,
        capped::find,
        average_hides::in_passes,
    ];
    let of_evidence = [
        stale::find,
        other_version::find,
        read_coarsely::find,
        slipped_digit::find,
        average_hides::across_rigs,
        held_back::find,
        nothing_to_choose::find,
        upside_down::find,
        odd_one_out::find,
        missing::find,
        two_things_changed::find,
        one_of_a_kind::find,
        out_of_order::find,
    ];
    let (series, known) = (series::series(evidence), known(evidence));
    let mut found: Vec<Doubt> = of_series.iter().flat_map(|find| find(&series)).collect();
    found.extend(of_facts.iter().flat_map(|find| find(&known)));
    found.extend(of_evidence.iter().flat_map(|find| find(evidence)));
    found.sort_by(|a, b| a.workload.cmp(&b.workload));
    found
}

/// A counted lap with what else is known of it.
type Known<'a> = (&'a LapHead, &'a LapFacts);

/// Returns every lap that enters a sum, with what is known of it: looked up once for all doubts.
fn known<'a>(evidence: &Evidence<'a>) -> Vec<Known<'a>> {
    let counted = evidence.laps.iter().filter(|lap| lap.counts());
    counted.filter_map(|lap| Some((lap, &**evidence.facts.get(&lap.name)?))).collect()
}

/// Returns the command that drives `workload` again, on `rig`.
fn again(rig: &str, workload: &str) -> String {
    format!("on {rig}: lap run {workload}")
}

/// Returns the counted laps of one workload and rig for which `says` has something to say, as one
/// doubt for each: most telling first, told for the first of them.
fn by_fact(
    known: &[Known<'_>],
    name: &'static str,
    says: impl Fn(&LapHead, &LapFacts) -> Option<String>,
    settle: impl Fn(&str, &str) -> String,
) -> Vec<Doubt> {
    let mut found: BTreeMap<(&str, &str), Vec<(&LapName, String)>> = BTreeMap::new();
    for (lap, facts) in known {
        if let Some(said) = says(lap, facts) {
            let key = (lap.workload.as_str(), lap.name.session.rig.as_str());
            found.entry(key).or_default().push((&lap.name, said));
        }
    }
    let doubt = |((workload, rig), laps): ((&str, &str), Vec<(&LapName, String)>)| {
        let (first, more) = (&laps[0], laps.len() - 1);
        let others = match more {
            0 => String::new(),
            1 => "; likewise one other lap".to_owned(),
            more => format!("; likewise {more} other laps"),
        };
        Doubt {
            name,
            workload: workload.to_owned(),
            laps: laps.iter().map(|(name, _)| (*name).clone()).collect(),
            evidence: format!("lap {} {}{others}", first.0, first.1),
            settle: settle(rig, workload),
            false_alarms: None,
        }
    };
    found.into_iter().map(doubt).collect()
}

/// Returns workload, variant and measure as a reader names them: `dome-still threads=2`.
fn cell_name(view: &WorkloadView, settings: &Settings) -> String {
    let mut name = view.workload.clone();
    if !settings.is_empty() {
        name.push_str(&format!(" {settings}"));
    }
    if !view.measure.is_time() {
        name.push_str(&format!(", {}", view.measure.name));
    }
    name
}

/// Returns the groups of `view` in which rigs stand against each other, with their variants.
fn rigs_beside(view: &WorkloadView) -> impl Iterator<Item = (&Settings, &[Row])> {
    view.groups.iter().filter_map(|group| match &group.held {
        Held::Variant(settings) => Some((settings, group.rows.as_slice())),
        Held::Rigs => None,
    })
}

/// Returns `names` as a sentence has them: `a, b and c`.
fn listed<S: AsRef<str>>(names: &[S]) -> String {
    let names: Vec<&str> = names.iter().map(AsRef::as_ref).collect();
    match names.as_slice() {
        [] => String::new(),
        [one] => (*one).to_owned(),
        [some @ .., last] => format!("{} and {last}", some.join(", ")),
    }
}

/// Returns a share in per cent, to the figures that a reader needs.
fn per_cent(share: f64) -> String {
    let percent = share.abs() * 100.0;
    if percent < 10.0 { format!("{percent:.1} %") } else { format!("{percent:.0} %") }
}

/// What a doubt's own tests are written with.
#[cfg(test)]
mod testing {
    use super::*;
    use crate::endurance::Endured;
    use crate::endurance::course;
    use crate::judge::{Ask, compare};
    use crate::record::EnduranceRule;
    use crate::record::RigFound;
    use crate::unit::Nanos;

    /// Returns an endurance lap of five minutes with a rate a second, which wobbles a little.
    pub(super) fn endured(rate: impl Fn(usize) -> f64) -> Box<Endured> {
        let moments: Vec<f64> = (0..300).map(f64::from).collect();
        let wobble = |place: usize| 1.0 + 0.002 * ((place * 37 % 11) as f64 - 5.0);
        let rates: Vec<f64> = (0..300).map(|place| rate(place) * wobble(place)).collect();
        let (lasts, look_every) = (Nanos::from_seconds(300), Nanos::from_seconds(1));
        Box::new(Endured {
            rule: EnduranceRule { lasts, look_every, on_battery: false, idle: false },
            unit: "still/s".into(),
            course: course(&moments, &rates),
            moments,
            rates,
            lasted: 300.0,
            throttle: None,
            drain: None,
            battery_w: None,
        })
    }

    /// A made-up study's laps and facts.
    #[derive(Default)]
    pub(super) struct Lab {
        pub(super) laps: Vec<LapHead>,
        pub(super) facts: HashMap<LapName, Box<LapFacts>>,
        pub(super) views: Vec<WorkloadView>,
        pub(super) untimed: BTreeSet<String>,
        pub(super) versions: Vec<(SessionName, VersionLine)>,
        pub(super) sittings: Vec<Sitting>,
        pub(super) study: Study,
        pub(super) assume: Assumptions,
    }

    impl Lab {
        /// Adds a session of laps of workload `still`, in milliseconds.
        pub(super) fn session(self, session: &str, ms: &[f64]) -> Self {
            self.driven(session, "still", ms)
        }

        /// Adds laps of `workload` to a session, in milliseconds.
        pub(super) fn driven(mut self, session: &str, workload: &str, ms: &[f64]) -> Self {
            let session = SessionName::parse(session).unwrap();
            let before = self.laps.iter().filter(|lap| lap.name.session == session).count() as u32;
            for (&ms, number) in ms.iter().zip(1..) {
                let name = LapName { session: session.clone(), number: before + number };
                let wall = Nanos((ms * 1e6) as u64);
                self.facts.insert(name.clone(), Box::default());
                let lap = LapHead::done(name, workload, Settings::default(), wall);
                self.laps.push(LapHead { round: number, ..lap });
            }
            self
        }

        /// Adds a day, so many days ago, on which `rig` drove workloads around these milliseconds.
        pub(super) fn day(self, session: &str, days_ago: u64, typical: &[(&str, f64)]) -> Self {
            const AROUND: [f64; 5] = [0.996, 1.004, 1.0, 0.998, 1.003];
            let mut lab = typical.iter().fold(self, |lab, (workload, ms)| {
                lab.driven(session, workload, &AROUND.map(|off| ms * off))
            });
            let name = SessionName::parse(session).unwrap();
            let age = Some(Nanos::from_seconds(days_ago * 86_400));
            lab.sittings.push(Sitting { name, found: RigFound::default(), age });
            lab
        }

        /// Returns the lab with its laps compared.
        pub(super) fn judged(mut self) -> Self {
            let ask = Ask { margin: 0.02, ..Ask::default() };
            self.views = compare(&self.laps, &ask);
            self
        }

        /// Returns the facts of the lap called `name`.
        pub(super) fn facts(&mut self, name: &str) -> &mut LapFacts {
            self.facts.get_mut(&LapName::parse(name).unwrap()).unwrap()
        }

        pub(super) fn found(&self, find: fn(&Evidence<'_>) -> Vec<Doubt>) -> Vec<Doubt> {
            find(&self.evidence())
        }

        pub(super) fn found_in_series(
            &self,
            find: fn(&[series::Series<'_>]) -> Vec<Doubt>,
        ) -> Vec<Doubt> {
            find(&series::series(&self.evidence()))
        }

        pub(super) fn found_in_facts(&self, find: fn(&[Known<'_>]) -> Vec<Doubt>) -> Vec<Doubt> {
            find(&known(&self.evidence()))
        }

        fn evidence(&self) -> Evidence<'_> {
            Evidence {
                laps: &self.laps,
                facts: &self.facts,
                versions: &self.versions,
                views: &self.views,
                untimed: &self.untimed,
                sittings: &self.sittings,
                study: &self.study,
                assume: &self.assume,
                searches: &[],
            }
        }
    }
}
