//! Measures that no program prints and nobody reads off: what the machine did while a lap ran, the energy that it took,
//! and the work that came of it.

use super::condition::{CONDITIONS, Condition, Seen};
use super::energy::{ENERGY, JOULES, PEAK_POWER, POWER, WATTS, energy_measures, energy_readings};
use super::facts::{LapFacts, threads_of};
use super::laps::Laps;
use super::records::Lab;
use super::series::{Lap, LapSeries};
use crate::record::{Better, Measure, Reading, SessionName, Work};
use crate::unit::Nanos;
use std::borrow::Cow;
use std::collections::{BTreeSet, HashMap};

/// Work for the energy that it took, ahead of it the meter's name where that is an outside one.
pub(crate) const WORK_PER_JOULE: &str = "work per joule";

/// What laps are looked up in, to derive measures of them.
struct Deriving<'l> {
    threads: HashMap<&'l SessionName, u32>,
    works: HashMap<u32, &'l Work>,
}

impl<'l> Deriving<'l> {
    fn of(lab: &'l Lab) -> Self {
        let works = lab.tasks.iter().filter_map(|form| Some((form.id, form.task.work.as_ref()?)));
        Self { threads: threads_of(&lab.sessions), works: works.collect() }
    }

    fn seen<'k>(&self, lap: Lap<'_>, facts: &'k LapFacts) -> Option<Seen<'k>> {
        let threads = self.threads.get(lap.session()).copied();
        Some(Seen { facts, wall: facts.lasted(lap.wall)?, threads })
    }

    /// Returns what is derived of a lap.
    fn of_lap(&self, lap: Lap<'_>, facts: &LapFacts) -> Vec<Reading> {
        let Some(seen) = self.seen(lap, facts) else { return Self::cores(facts) };
        let known = |one: &Condition| Some(reading(one.measure(), Some(one.of(&seen)?)));
        let mut all: Vec<Reading> = CONDITIONS.iter().filter_map(known).collect();
        all.extend(self.energy(lap, &seen));
        all.extend(Self::cores(facts));
        all
    }

    /// Returns the use of each core of a lap's machine.
    fn cores(facts: &LapFacts) -> Vec<Reading> {
        let cores = facts.conditions.sampled.core_use.iter().zip(0..);
        cores.map(|(share, core)| reading(core_use(core), Some(share * 100.0))).collect()
    }

    /// Returns the lap's energy and power, and the work that a joule came to.
    fn energy(&self, lap: Lap<'_>, seen: &Seen<'_>) -> Vec<Reading> {
        let mut all = energy_readings(seen.facts, seen.wall);
        let work = self.works.get(&lap.series.task);
        let Some(work) = work.and_then(|work| work.of(lap.settings())) else {
            return all;
        };
        let per_joule = |energy: &Reading| {
            let measure = per_joule(&energy.measure(), &work.unit)?;
            Some(reading(measure, Some(work.value / energy.value?)))
        };
        let of_work: Vec<Reading> = all.iter().filter_map(per_joule).collect();
        all.extend(of_work);
        all
    }
}

impl Lab {
    /// Returns the measures of this kind that any of its laps has.
    pub(crate) fn derived_measures(&self) -> BTreeSet<Measure> {
        let deriving = Deriving::of(self);
        let mut wanting: Vec<&Condition> = CONDITIONS.iter().collect();
        let mut found = BTreeSet::new();
        let runs = || self.series().iter().flat_map(LapSeries::runs);
        for run in runs() {
            run.each_known(|lap, facts| {
                let Some(seen) = deriving.seen(lap, facts) else { return };
                wanting.retain(|condition| {
                    let known = condition.of(&seen).is_some();
                    found.extend(known.then(|| condition.measure()));
                    !known
                });
            });
        }
        let telling = || runs().filter(|run| !run.alike.is_bare());
        let facts = || telling().map(|run| run.alike.facts());
        let cores = facts().map(|facts| facts.conditions.sampled.core_use.len()).max();
        found.extend((0..cores.unwrap_or_default()).map(core_use));
        let energy = energy_measures(facts());
        let units: BTreeSet<&str> = deriving.works.values().map(|work| work.unit()).collect();
        for measure in &energy {
            found.extend(units.iter().filter_map(|unit| per_joule(measure, unit)));
        }
        found.extend(energy);
        found
    }

    /// Returns the laps with those of `wanted` that are derived; a measure that a study reads itself stays as it was read.
    pub(crate) fn laps_with(&self, wanted: &[String]) -> Cow<'_, Laps> {
        let derived = || self.derived_measures().into_iter().map(|measure| measure.name);
        if wanted.is_empty() || !derived().any(|name| wanted.contains(&name)) {
            return Cow::Borrowed(self.laps());
        }
        let deriving = Deriving::of(self);
        let with = |known: Lap<'_>| {
            let mut lap = known.known();
            for reading in deriving.of_lap(known, &lap.facts) {
                let is_read = lap.readings.iter().any(|known| known.name == reading.name);
                if wanted.contains(&reading.name) && !is_read {
                    lap.readings.push(reading);
                }
            }
            lap
        };
        Cow::Owned(self.laps().iter().map(with).collect::<Laps>())
    }
}

/// Returns the conditions, energy and power of a lap of `wall` on a machine of `threads`, as far as they are known.
pub fn conditions_of(facts: &LapFacts, wall: Nanos, threads: Option<u32>) -> Vec<(Measure, f64)> {
    let seen = Seen { facts, wall, threads };
    let conditions = CONDITIONS.iter().filter_map(|one| Some((one.measure(), one.of(&seen)?)));
    let energy = energy_readings(facts, wall).into_iter();
    conditions.chain(energy.filter_map(|one| Some((one.measure(), one.value?)))).collect()
}

/// Returns the conditions that a machine's own sensors may show, whether or not any lap has them.
pub fn known_conditions() -> Vec<Measure> {
    let own = |name: &str, unit: &str| Measure {
        name: name.to_owned(),
        unit: unit.to_owned(),
        better: Better::Less,
    };
    let power = [own(ENERGY, JOULES), own(POWER, WATTS), own(PEAK_POWER, WATTS)];
    CONDITIONS.iter().map(Condition::measure).chain(power).collect()
}

/// Returns whether a measure is one of these, by its name: an outside meter's have its own ahead of them.
pub fn is_derived(name: &str) -> bool {
    let of_meters = [ENERGY, POWER, PEAK_POWER, WORK_PER_JOULE];
    let of_core = || name.starts_with("core ") && name.ends_with(" use");
    CONDITIONS.iter().any(|one| one.name == name)
        || of_core()
        || of_meters.iter().any(|of| name.ends_with(of))
}

/// Returns the measure of one core's use.
fn core_use(core: usize) -> Measure {
    Measure { name: format!("core {core} use"), unit: "%".to_owned(), better: Better::Less }
}

/// Returns the measure of work for an energy, in `unit` a joule; `None` of what is no energy.
fn per_joule(energy: &Measure, unit: &str) -> Option<Measure> {
    let of = energy.name.strip_suffix(ENERGY).filter(|_| energy.unit == JOULES)?;
    let (name, unit) = (format!("{of}{WORK_PER_JOULE}"), format!("{unit}/{JOULES}"));
    Some(Measure { name, unit, better: Better::More })
}

fn reading(Measure { name, unit, better }: Measure, value: Option<f64>) -> Reading {
    Reading { name, unit, better, value, step: None, seen: String::new(), reports_time: false }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::lab::{KnownLap, Records};
    use crate::record::{
        LapHead, LapName, Launch, QuantitySummary, Settings, Study, Task, TaskForm, Template,
    };
    use std::sync::Arc;

    /// Returns a lab of one lap of 20 s at 50 W and 1 GHz, which does 4 Mpixel.
    fn lab() -> Lab {
        let name = LapName::parse("heron-1.1").unwrap();
        let wall = Nanos::from_seconds(20);
        let lap = LapHead::done(name, "still", Settings::default(), wall);
        let mut facts = LapFacts::default();
        let summary =
            |mean| Some(QuantitySummary { mean, most: mean, ..QuantitySummary::default() });
        facts.conditions.sampled.power_w = summary(50.0);
        facts.conditions.sampled.clock_mhz = summary(1_000.0);
        facts.conditions.sampled.core_use = vec![0.75, 0.25];
        let command = Launch::Direct(vec![Template::parse("render").unwrap()]);
        let task = Task { work: Work::parse("4 Mpixel").ok(), ..Task::of(command) };
        let form = TaskForm { id: 1, workload: "still".into(), task, last_driven: None };
        let records = Records {
            tasks: vec![form],
            laps: [KnownLap { head: lap, facts: Arc::new(facts) }].into_iter().collect(),
            sessions: Vec::new(),
        };
        Lab::of(Study::default(), records)
    }

    #[test]
    fn what_is_asked_for_is_derived_and_nothing_else() {
        let lab = lab();
        let names: Vec<String> = lab.derived_measures().into_iter().map(|m| m.name).collect();
        let all = [
            "clock",
            "core 0 use",
            "core 1 use",
            "energy",
            "mean power",
            "peak power",
            "work per joule",
        ];
        assert_eq!(names, all);
        let wanted = ["clock", "work per joule", "core 1 use"].map(str::to_owned);
        let laps = lab.laps_with(&wanted);
        let lap = laps.iter().next().unwrap();
        let readings = lap.readings();
        let read: Vec<_> = readings.iter().map(|r| (r.name.as_str(), r.value)).collect();
        let per_joule = ("work per joule", Some(4.0 / 1_000.0));
        assert_eq!(read, [("clock", Some(1_000.0)), per_joule, ("core 1 use", Some(25.0))]);
        assert!(matches!(lab.laps_with(&["score".to_owned()]), Cow::Borrowed(_)));
    }
}
