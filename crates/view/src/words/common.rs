//! Words and figures that several sheets share.

use super::list::{count, listed};
use crate::number::{TimeUnit, fixed, percent, significant};
use crate::table::Role;
use honest_lap_core::capacity;
use honest_lap_core::estimate::{ASSUMED_SD, BetweenSessions};
use honest_lap_core::finding::SeriesName;
use honest_lap_core::judge::{CellName, Counts, Missing, Verdict, WorkloadView};
use honest_lap_core::plan::Expected;
use honest_lap_core::record::{Outcome, Reading, SECONDS, Settings, TIME};
use honest_lap_core::unit::{Nanos, display_span};

/// Returns workload and variant in one: `dome-still threads=2`.
pub fn lap_of(workload: &str, settings: &Settings) -> String {
    if settings.is_untold() { workload.to_owned() } else { format!("{workload} {settings}") }
}

/// Returns what enters an index, as an item of a list: `dome-still · threads=2 · low 1%`.
pub fn entry_words(of: &CellName) -> String {
    let measure = if of.measure == TIME { "" } else { &of.measure };
    let parts = [of.workload.clone(), of.settings.to_string(), measure.to_owned()];
    parts.into_iter().filter(|part| !part.is_empty()).collect::<Vec<_>>().join(" · ")
}

/// Returns what is left out of an index since it shows a cap on some rigs.
pub fn capped_words(capped: &[Missing]) -> Option<String> {
    let on = |capped: &Missing| format!("{} on {}", entry_words(&capped.of), listed(&capped.rigs));
    let all: Vec<String> = capped.iter().map(on).collect();
    (!all.is_empty()).then(|| {
        format!(
            "Left out, since it shows a display or a limiter and not the rig: {}.",
            listed(&all)
        )
    })
}

/// Returns by how much days are taken to differ, and how that is known, measure by measure.
pub fn between_sessions(views: &[WorkloadView]) -> String {
    let mut known: Vec<(BetweenSessions, Vec<&str>)> = Vec::new();
    for view in views {
        let mut rows = view.groups.iter().flat_map(|group| &group.rows);
        let Some(cell) = rows.find_map(|row| row.cell.as_ref()) else { continue };
        let (name, between) = (view.measure.name.as_str(), cell.between());
        match known.iter_mut().find(|(other, _)| *other == between) {
            Some((_, names)) if names.contains(&name) => {}
            Some((_, names)) => names.push(name),
            None => known.push((between, vec![name])),
        }
    }
    const MOST: usize = 2;
    if known.len() > MOST {
        let sds = known.iter().map(|(between, _)| between.sd());
        let (least, most) = (sds.clone().fold(f64::INFINITY, f64::min), sds.fold(0.0, f64::max));
        return format!("{} to {}, by measure", percent(least), percent(most));
    }
    let several = known.len() > 1;
    let said = known.iter().map(|(between, names)| {
        let of = if several { format!(" of {}", names.join(", ")) } else { String::new() };
        let taken = match between.stated() {
            Some(stated) => format!("stated {}", percent(stated)),
            None => format!("assumed {}", percent(ASSUMED_SD)),
        };
        let how = match between.measured_degrees() as usize {
            0 if between.is_assumed() => "assumed".to_owned(),
            0 => "stated".to_owned(),
            further => {
                format!("{taken} and measured on {} here", count(further, "further session"))
            }
        };
        format!("{}{of} ({how})", percent(between.sd()))
    });
    listed(&said.collect::<Vec<_>>())
}

/// Returns one lap's time to four figures, with its unit.
pub fn lap_time(wall: Nanos) -> String {
    let unit = TimeUnit::of(wall.seconds());
    format!("{} {}", significant(unit.value(wall.seconds()), 4), unit.symbol)
}

/// Returns a time that was read in steps of `step`, to the digits that it was read in.
pub fn time_read(time: Nanos, step: Option<Nanos>) -> String {
    let Some(step) = step.filter(|step| step.0 > 0) else { return lap_time(time) };
    let unit = TimeUnit::of(time.seconds());
    let place = -unit.value(step.seconds()).log10().floor();
    format!("{} {}", fixed(unit.value(time.seconds()), place.clamp(0.0, 9.0) as usize), unit.symbol)
}

/// Returns a reading with its name and unit: `sky 812 points`.
pub fn reading_words(reading: &Reading) -> String {
    let Some(value) = reading.value else {
        // What is refused says why; what could not be read says so elsewhere.
        return match reading.seen.strip_prefix("refused: ") {
            Some(why) => format!("{} refused ({why})", reading.name),
            None => format!("{} not read", reading.name),
        };
    };
    match capacity::came_of(reading) {
        // What came of a load is a word, and no number for people.
        Some(came) => came.word().to_owned(),
        None => format!("{} {}", reading.name, measured(value, &reading.unit)),
    }
}

/// Returns a number that was read, to six figures: a count shows all of its own.
pub fn display_read(value: f64) -> String {
    if value.fract() == 0.0 {
        return format!("{value}");
    }
    let text = significant(value, 6);
    match text.contains('.') {
        true => text.trim_end_matches('0').trim_end_matches('.').to_owned(),
        false => text,
    }
}

/// Returns a measure's value with its unit.
pub fn measured(value: f64, unit: &str) -> String {
    if unit == SECONDS {
        return lap_time(Nanos((value.max(0.0) * 1e9).round() as u64));
    }
    let text = display_read(value);
    if unit.is_empty() { text } else { format!("{text} {unit}") }
}

/// Returns a number as a person would write it: no more digits than it has.
pub fn display_number(value: f64) -> String {
    format!("{}", (value * 10.0).round() / 10.0)
}

/// Returns a share in per cent, to the figures that a reader needs.
pub fn percent_of(share: f64) -> String {
    let percent = share * 100.0;
    if percent < 10.0 { format!("{percent:.1} %") } else { format!("{percent:.0} %") }
}

/// Returns what a series is of: `heron-3 threads=2`.
pub fn series_of(series: &SeriesName) -> String {
    lap_of(&series.session.to_string(), &series.settings)
}

/// Returns why laps other than warm-ups do not count, most telling first.
pub fn why_not(counts: &Counts) -> Vec<String> {
    let not_done = counts.not_done.iter();
    let mut reasons: Vec<String> =
        not_done.map(|(outcome, n)| format!("{n} {}", outcome_words(*outcome, counts))).collect();
    let without = match &counts.missing {
        Some(seen) => format!("without this reading: {}", shortened(seen, SEEN)),
        None => "without this reading".to_owned(),
    };
    for (n, why) in [
        (counts.set_aside, "set aside"),
        (counts.without, &*without),
        (counts.other_task, "under another definition"),
    ] {
        if n > 0 {
            reasons.push(format!("{n} {why}"));
        }
    }
    reasons
}

/// Letters of what was seen of a missing reading that a note has room for.
const SEEN: usize = 160;
/// Letters of a person's reason that a row has room for.
const REASON: usize = 32;

fn shortened(text: &str, letters: usize) -> String {
    match text.char_indices().nth(letters) {
        Some((end, _)) => format!("{}…", text[..end].trim_end()),
        None => text.to_owned(),
    }
}

fn outcome_words(outcome: Outcome, counts: &Counts) -> String {
    match (outcome, &counts.failed_with) {
        (Outcome::Failed, Some(reason)) => format!("failed: {}", shortened(reason, REASON)),
        _ => outcome.phrase().to_owned(),
    }
}

/// Returns why every try of a cell failed: the reason that a person gave, or what came of all of them.
pub fn failed_words(counts: &Counts) -> String {
    let failed = || counts.not_done.keys().filter(|outcome| outcome.is_failure());
    match (failed().next(), failed().nth(1)) {
        (Some(Outcome::Failed), None) => outcome_words(Outcome::Failed, counts),
        (Some(only), None) => format!("failed: {}", only.phrase()),
        _ => "failed".to_owned(),
    }
}

/// Returns why a cell has no figure.
pub fn counts_words(counts: &Counts) -> String {
    let reasons = why_not(counts);
    match (reasons.is_empty(), counts.warm_up) {
        (true, 0) => "never run".to_owned(),
        (true, _) => "warm-ups only".to_owned(),
        (false, _) => reasons.join(", "),
    }
}

/// Returns the role in which a verdict is shown.
pub fn verdict_role(verdict: Verdict) -> Role {
    match verdict {
        Verdict::Faster | Verdict::FasterWithin(_) => Role::Better,
        Verdict::Slower | Verdict::SlowerWithin(_) => Role::Worse,
        Verdict::SameWithin(_) => Role::Plain,
        Verdict::TooClose | Verdict::Refused(_) => Role::Open,
    }
}

/// Returns a time yet to come in words, saying so where part of it is not known.
pub fn left_words(left: Expected) -> String {
    let time = display_span(rounded(left.time));
    match left.unknown {
        0 => format!("about {time}"),
        unknown if left.time.0 == 0 => format!("{} of unknown length", count(unknown, "lap")),
        unknown => format!("about {time} and {} of unknown length", count(unknown, "lap")),
    }
}

/// An estimate says no tenths of seconds.
fn rounded(span: Nanos) -> Nanos {
    if span.0 < 10 * Nanos::PER_SECOND {
        return span;
    }
    Nanos((span.0 + Nanos::PER_SECOND / 2) / Nanos::PER_SECOND * Nanos::PER_SECOND)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_time_read_in_steps_shows_no_more_than_was_read() {
        let read = |ms: u64, step_ms: u64| {
            time_read(Nanos(ms * 1_000_000), Some(Nanos(step_ms * 1_000_000)))
        };
        assert_eq!(
            [read(2_204, 200), read(52_000, 1_000), read(52_400, 100)],
            ["2.2 s", "52 s", "52.4 s"]
        );
        assert_eq!(read(1_820_000, 1_000), "30.33 min");
        assert_eq!(time_read(Nanos(2_204_000_000), None), "2.204 s");
    }

    #[test]
    fn a_number_that_was_read_is_shown_as_it_was() {
        let said = [1204.5, 812.3 + 1e-13, 8120.0, 0.25, 123_456.789, 100_000.4].map(display_read);
        assert_eq!(said, ["1204.5", "812.3", "8120", "0.25", "123457", "100000"]);
    }
}
