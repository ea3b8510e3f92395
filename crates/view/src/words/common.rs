//! Words and figures that several sheets share.

use crate::number::{TimeUnit, decimals, fixed, percent, significant};
use crate::table::Role;
use honest_lap_core::capacity;
use honest_lap_core::estimate::{ASSUMED_SD, BetweenSessions};
use honest_lap_core::finding::SeriesName;
use honest_lap_core::judge::{
    Apart, CellName, Counts, Difference, Ground, Missing, Needed, Verdict, WorkloadView,
};
use honest_lap_core::plan::Expected;
use honest_lap_core::record::{Measure, Outcome, Reading, SECONDS, Settings, TIME};
use honest_lap_core::stat::LapsNeeded;
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

/// Returns a ratio of speed to the digits its interval supports: `1.67×`.
pub fn speed(difference: &Difference) -> Option<String> {
    let speed = difference.speed?;
    Some(format!("{}×", fixed(speed, speed_decimals(difference))))
}

/// Returns an interval as tables have it: `[1.62, 1.72]`.
pub fn interval_words(low: &str, high: &str) -> String {
    format!("[{low}, {high}]")
}

/// Returns the interval of a ratio of speed: `[1.62, 1.72]`.
pub fn speed_interval(difference: &Difference) -> Option<String> {
    let interval = difference.interval?;
    let digits = speed_decimals(difference);
    Some(interval_words(&fixed(interval.low, digits), &fixed(interval.high, digits)))
}

/// Returns how far two lie apart that have no ratio: `none against 150`, `12 more`.
pub fn apart_words(apart: &Apart, measure: &Measure) -> String {
    let unit = &measure.unit;
    let amount = |value: f64| measured(value, unit);
    match (apart.here == 0.0, apart.base == 0.0) {
        (true, true) => "none on either side".to_owned(),
        (true, false) => format!("none against {}", amount(apart.base)),
        (false, true) => format!("{} against none", amount(apart.here)),
        (false, false) => {
            let by = apart.here - apart.base;
            format!("{} {}", amount(by.abs()), if by > 0.0 { "more" } else { "less" })
        }
    }
}

/// Returns the interval of that difference, this one less the baseline: `[−160, −140]`.
pub fn apart_interval(apart: &Apart, measure: &Measure) -> Option<String> {
    let interval = apart.interval?;
    let spread = (interval.high - interval.low) / 2.0;
    let digits = decimals(spread).unwrap_or(2);
    let end = |value: f64| {
        let sign = if value < 0.0 { "−" } else { "+" };
        format!("{sign}{}", fixed(value.abs(), digits))
    };
    let unit = if measure.unit.is_empty() { String::new() } else { format!(" {}", measure.unit) };
    Some(format!("{}{unit}", interval_words(&end(interval.low), &end(interval.high))))
}

fn speed_decimals(difference: &Difference) -> usize {
    let spread = difference.interval.map(|interval| (interval.high - interval.low) / 2.0);
    spread.and_then(decimals).unwrap_or(2).clamp(1, 4)
}

/// Returns the time saved: `40 % less`, `25 % more`.
pub fn time_saved(difference: &Difference) -> Option<String> {
    let saved = difference.time_saved()?;
    let way = if saved >= 0.0 { "less" } else { "more" };
    Some(format!("{} {way}", percent(saved.abs())))
}

/// Returns what a verdict stands on, in a word or two; empty where nothing need be said.
pub fn ground(difference: &Difference) -> &'static str {
    match difference.ground {
        Ground::ThisSessionOnly => "1 session",
        Ground::AssumedSpread => "assumed",
        Ground::Sessions(2) => "2 sessions",
        Ground::Sessions(_) | Ground::Pairs(_) => "",
    }
}

/// Returns the ground's name for programs.
pub fn ground_name(difference: &Difference) -> &'static str {
    match difference.ground {
        Ground::Pairs(_) => "pairs",
        Ground::Sessions(_) => "sessions",
        Ground::ThisSessionOnly => "this-session-only",
        Ground::AssumedSpread => "assumed-spread",
    }
}

/// Returns what would make a comparison say more.
pub fn needed_words(needed: Needed) -> String {
    match needed {
        Needed::LapsUpTo(n) => format!("{n} laps of each for a verdict"),
        Needed::SessionsUpTo(n) => format!("{n} sessions on each rig to say more"),
        Needed::Laps(_) | Needed::Sessions(_) if !needed.is_worth_running() => {
            "more laps will not resolve it".to_owned()
        }
        Needed::Laps(need) => {
            format!("about {} laps of each in one session to resolve it", range(need))
        }
        Needed::Sessions(need) => {
            format!("about {} sessions on each rig to resolve it", range(need))
        }
    }
}

fn range(need: LapsNeeded) -> String {
    if need.plain == need.assured {
        need.plain.to_string()
    } else {
        format!("{}–{}", need.plain, need.assured)
    }
}

/// Returns `items` as a sentence has them: `a, b and c`.
pub fn listed(items: &[String]) -> String {
    match items {
        [] => String::new(),
        [one] => one.clone(),
        [some @ .., last] => format!("{} and {last}", some.join(", ")),
    }
}

/// Names that a sentence has room for.
const NAMED: usize = 6;

/// Returns all of `names` as a sentence has them; of many the first, and how many others there are.
pub fn listed_in_short(names: &[String]) -> String {
    match names {
        [first, rest @ ..] if names.len() > NAMED => format!("{first} and {} others", rest.len()),
        _ => listed(names),
    }
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

/// Returns `n` of `thing`, which is not alone unless there is one.
pub fn count(n: usize, thing: &str) -> String {
    match (n, thing.ends_with('s')) {
        (1, _) => format!("1 {thing}"),
        (_, true) => format!("{n} {thing}es"),
        (_, false) => format!("{n} {thing}s"),
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

/// Items of a list that are read as they go by; `lap show` has them all.
const SOME: usize = 3;

/// Returns the first of `all`, and in their place the number of the others.
pub fn some_of(all: &[String]) -> impl Iterator<Item = String> {
    let more = all.len().saturating_sub(SOME);
    let rest = (more > 0).then(|| format!("and {more} more"));
    all.iter().take(SOME).cloned().chain(rest)
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
    use honest_lap_core::judge::Verdict;
    use honest_lap_core::stat::Interval;

    fn difference(speed: f64, half: f64) -> Difference {
        Difference {
            apart: None,
            speed: Some(speed),
            interval: Some(Interval { low: speed - half, high: speed + half }),
            verdict: Verdict::Faster,
            ground: Ground::Pairs(6),
            needed: None,
            reading: 0.0,
            by_rate: false,
        }
    }

    #[test]
    fn a_ratio_shows_what_its_interval_supports() {
        let said = |d: &Difference| (speed(d).unwrap(), speed_interval(d).unwrap());
        assert_eq!(said(&difference(5.0 / 3.0, 0.05)), ("1.67×".into(), "[1.62, 1.72]".into()));
        assert_eq!(said(&difference(5.0 / 3.0, 0.5)), ("1.7×".into(), "[1.2, 2.2]".into()));
        assert_eq!(time_saved(&difference(5.0 / 3.0, 0.5)).unwrap(), "40 % less");
        assert_eq!(time_saved(&difference(0.8, 0.1)).unwrap(), "25 % more");
    }

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

    #[test]
    fn lists_read_as_sentences() {
        let items = ["a", "b", "c"].map(str::to_owned);
        assert_eq!(listed(&items), "a, b and c");
        assert_eq!(listed(&items[..1]), "a");
        assert_eq!([count(1, "lap"), count(0, "lap")], ["1 lap", "0 laps"]);
        assert_eq!(
            needed_words(Needed::Laps(LapsNeeded { plain: 9, assured: 14 })),
            "about 9–14 laps of each in one session to resolve it"
        );
    }
}
