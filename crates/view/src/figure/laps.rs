//! Laps in the order in which they were run, with what the machine did meanwhile.

use crate::chart::{LapLevel, LapPoint, LapState, LapsFigure, LapsPanel, Meanwhile};
use crate::words::count;
use honest_lap_core::finding::{Doubt, Finding};
use honest_lap_core::lab::{Lap, LapSeries};
use honest_lap_core::record::{Conditions, Measure, QuantitySummary, Settings};
use std::collections::{BTreeMap, BTreeSet};

/// What is read from the conditions of a lap.
type Seen = fn(&Conditions, &Lap<'_>) -> Option<f64>;

/// What is drawn below the laps, in this order, where anything is known of it, and by how much it changes at least
/// where it is drawn as a change.
const MEANWHILE: [(&str, f64, Seen); 4] = [
    ("clock, MHz", 100.0, |seen, _| mean(&seen.sampled.clock_mhz)),
    ("hottest part, °C", 5.0, |seen, _| {
        seen.sampled.temperature_c.as_ref().map(|course| course.most)
    }),
    ("power, W", 2.0, |seen, _| mean(&seen.sampled.power_w)),
    ("others' use, cores", 0.1, |seen, lap| {
        let wall = lap.wall?.seconds();
        seen.others_cpu.filter(|_| wall > 0.0).map(|used| used.seconds() / wall)
    }),
];

fn mean(course: &Option<QuantitySummary>) -> Option<f64> {
    course.as_ref().map(|course| course.mean)
}

/// Returns the figure of `measure` in the laps of `workload`, of the form of its task that is compared,
/// with the levels of sessions whose laps are of two kinds, as `findings` tell.
pub fn laps(
    workload: &str,
    measure: &Measure,
    series: &[&LapSeries],
    findings: &[Finding],
) -> LapsFigure {
    let series = || series.iter().filter(|series| series.workload == workload);
    let variants: BTreeSet<&Settings> = series().map(|series| &series.settings).collect();
    let variants: Vec<&Settings> = variants.into_iter().collect();
    let mut rigs: BTreeMap<&str, Vec<Lap<'_>>> = BTreeMap::new();
    for series in series() {
        rigs.entry(&series.session.rig).or_default().extend(series.laps());
    }
    let panel = |(rig, mut laps): (&str, Vec<Lap<'_>>)| {
        laps.sort_by_key(|lap| (lap.session().number, lap.number));
        LapsPanel {
            rig: rig.to_owned(),
            laps: points(&laps, measure, &variants),
            levels: levels(workload, measure, &laps, &variants, findings),
            meanwhile: MEANWHILE
                .iter()
                .map(|(name, least, seen)| strip((name, *least), *seen, &laps))
                .filter(|strip| strip.values.iter().any(Option::is_some))
                .collect(),
        }
    };
    let panels: Vec<LapsPanel> = rigs.into_iter().map(panel).collect();
    let of_rig = |panel: &LapsPanel| format!("{} of {}", count(panel.laps.len(), "lap"), panel.rig);
    let names = variants.iter().map(|settings| settings.to_string());
    LapsFigure {
        title: format!("{workload}: {} of every lap", measure.name),
        finding: panels.iter().map(of_rig).collect::<Vec<_>>().join(", "),
        how: match measure.better {
            honest_lap_core::record::Better::Less => "Lower is better.".to_owned(),
            honest_lap_core::record::Better::More => "Higher is better.".to_owned(),
        },
        unit: measure.unit.clone(),
        time: measure.is_time(),
        variants: if variants.len() > 1 { names.collect() } else { Vec::new() },
        panels,
    }
}

/// Returns the level of either kind, for every session whose laps are of two.
fn levels(
    workload: &str,
    measure: &Measure,
    laps: &[Lap<'_>],
    variants: &[&Settings],
    findings: &[Finding],
) -> Vec<LapLevel> {
    let mut all = Vec::new();
    for finding in findings.iter().filter(|finding| finding.workload == workload) {
        let Doubt::TwoGroups { series, measure: of, quick, slow, .. } = &finding.doubt else {
            continue;
        };
        let is_of =
            |lap: &Lap<'_>| *lap.session() == series.session && *lap.settings() == series.settings;
        let (first, last) = (laps.iter().position(is_of), laps.iter().rposition(is_of));
        let (Some(first), Some(last)) = (first, last) else { continue };
        if *of != measure.name {
            continue;
        }
        let variant = variants.iter().position(|v| **v == series.settings).unwrap_or(0);
        let level = |value: f64| LapLevel { over: (first, last), value, variant };
        all.extend([*quick, *slow].map(level));
    }
    all
}

fn points(laps: &[Lap<'_>], measure: &Measure, variants: &[&Settings]) -> Vec<LapPoint> {
    let opens = |place: usize| {
        let session = laps[place].session();
        let before = place.checked_sub(1).map(|before| laps[before].session());
        (before != Some(session)).then(|| session.to_string())
    };
    let point = |(place, lap): (usize, &Lap<'_>)| LapPoint {
        value: lap.yields().yielded(&measure.name),
        variant: variants.iter().position(|v| *v == lap.settings()).unwrap_or(0),
        came: match (lap.yields().yielded(&measure.name), &lap.set_aside) {
            (None, _) => LapState::Failed,
            (_, Some(_)) => LapState::SetAside,
            _ if lap.warm_up => LapState::WarmUp,
            _ => LapState::Counted,
        },
        opens: opens(place),
    };
    laps.iter().enumerate().map(point).collect()
}

fn strip((name, least): (&str, f64), seen: Seen, laps: &[Lap<'_>]) -> Meanwhile {
    let value = |lap: &Lap<'_>| seen(&lap.facts().conditions, lap);
    Meanwhile { name: name.to_owned(), values: laps.iter().map(value).collect(), least }
}
