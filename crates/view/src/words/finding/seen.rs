//! What was seen, finding by finding.
//!
//! Long, since its one match has an arm for every finding.

use super::name::{cell, per_cent};
use super::record::{changed_words, picture_words, unlike_words, what_words};
use crate::number::significant;
use crate::words::{count, counts_words, listed, series_of};
use crate::words::{limit_words, shows_words};
use honest_lap_core::finding::{Copies, Doubt, FewLaps, Finding, Lacking, Meant, VersionOn};
use honest_lap_core::judge::{CellName, Counts};
use honest_lap_core::lab::What;
use honest_lap_core::record::{LapName, SECONDS, Settings, TIME};
use honest_lap_core::unit::{Nanos, display_size, display_span};

/// Returns what was seen of the first lap that a finding is about, where it is about single laps; otherwise all of it.
pub fn seen_first(finding: &Finding) -> String {
    match of_lap(&finding.doubt) {
        said if said.is_empty() => seen(finding),
        said => format!("lap {} {said}", first(&finding.laps)),
    }
}

/// Returns what was seen, in a sentence without its full stop.
pub fn seen(finding: &Finding) -> String {
    let laps = finding.laps.as_slice();
    match &finding.doubt {
        Doubt::TooFewLaps { rig, cells, needed } => {
            let cells: Vec<String> = cells.iter().map(few).collect();
            format!("{rig} has {}, and {needed} are needed", cells.join(", "))
        }
        Doubt::FirstLap { series, excess } => format!(
            "the first lap of {} took {} longer than the others, and none warmed up",
            series_of(series),
            per_cent(*excess)
        ),
        Doubt::OddLap { series, off } => {
            let way = if *off > 0.0 { "above" } else { "below" };
            let of = series_of(series);
            let more = match laps.len() {
                0 | 1 => String::new(),
                n => format!("; so do {} other laps of {of}", n - 1),
            };
            format!("lap {} lies {} {way} the median of {of}{more}", first(laps), per_cent(*off))
        }
        Doubt::TwoGroups { series, quick, slow, of, .. } => format!(
            "the {of} laps of {} are of two kinds: {} lie {:.2} times as high as the others, with nothing between; one mean tells \
             neither",
            series_of(series),
            count(laps.len(), "lap"),
            slow / quick
        ),
        Doubt::NotSteady { series, change, p } => {
            let way = if *change > 0.0 { "rose" } else { "fell" };
            let p = if *p < 0.001 { "p < 0.001".to_owned() } else { format!("p = {p:.3}") };
            format!(
                "{} {way} by {} over its {} laps ({p})",
                series_of(series),
                per_cent(*change),
                laps.len()
            )
        }
        Doubt::SessionsDisagree { measure, session, ratio, changed, .. } => {
            let way = if *ratio > 1.0 { "above" } else { "below" };
            let what = if measure == TIME { String::new() } else { format!(", {measure}") };
            let changed: Vec<String> = changed.iter().map(changed_words).collect();
            let changed = match changed.is_empty() {
                true => "nothing on record changed between them".to_owned(),
                false => format!("changed: {}", changed.join("; ")),
            };
            format!(
                "session {session}{what} lies {} {way} the other sessions, more than days differ; {changed}",
                per_cent(ratio - 1.0)
            )
        }
        Doubt::OtherSize { file, settings, least, most } => format!(
            "{file}{} is {} in lap {} and {} in lap {}",
            of_variant(settings),
            display_size(*least),
            first(laps),
            display_size(*most),
            laps.get(1).map(ToString::to_string).unwrap_or_default()
        ),
        Doubt::OtherContent { file, settings, copies, more } => {
            let copies: Vec<String> = copies.iter().map(content).collect();
            let more = if *more { "; …" } else { "" };
            format!(
                "{file}{} is not the same everywhere: SHA-256 {}{more}",
                of_variant(settings),
                copies.join("; ")
            )
        }
        Doubt::OlderProgram { rig, line, newest, on } => {
            format!("{rig} ran {line}; the newest results beside it, on {on}, have {newest}")
        }
        Doubt::RigChanged { rig, what, then, now, by } => {
            let unit = if *what == What::Memory { " GiB" } else { "" };
            format!(
                "{rig} has changed since: {} from {then} to {now}{unit} by session {by}",
                what_words(what)
            )
        }
        Doubt::TooOld { rig, age, limit } => {
            let days = |span: &Nanos| (span.seconds() / 86_400.0).floor();
            format!(
                "on {rig} it was last run {} days ago, and the study wants it within {}",
                days(age),
                days(limit)
            )
        }
        Doubt::OtherVersion { program, versions } => {
            let versions: Vec<String> =
                versions.iter().map(|on| said_on(on, "a version that could not be read")).collect();
            format!("the {program} differs: {}", versions.join("; "))
        }
        Doubt::OtherSetting { what, settings } => {
            let settings: Vec<String> = settings.iter().map(|on| said_on(on, "not told")).collect();
            format!("the {} differs: {}", what_words(what), settings.join("; "))
        }
        Doubt::ReadCoarsely { rig, differs, open } => format!(
            "{rig} differs by {}, and the step in which it was read leaves ±{} open",
            per_cent(*differs),
            per_cent(*open)
        ),
        Doubt::SlippedDigit { rig, measure, value, meant } => {
            let unit = if measure == TIME { format!(" {SECONDS}") } else { String::new() };
            format!(
                "on {rig} lap {} has {measure} {value}{unit}, and its neighbours read like {meant}{unit}",
                first(laps)
            )
        }
        Doubt::DoesNotFit { rig, of, value, fits, meant } => {
            let said = does_not_fit(of, *value, *fits, meant.as_ref());
            format!("on {rig} lap {} has {said}", first(laps))
        }
        Doubt::SessionsExchanged { session, with } => format!(
            "{session} lies where {} does otherwise, and {with} where {} does: were they exchanged?",
            with.rig, session.rig
        ),
        Doubt::Repeated { session, of, values } => format!(
            "{session} is {of} to the last digit, in {}",
            if *values == 1 { "its one value".to_owned() } else { format!("all {values} values") }
        ),
        Doubt::MostlyWaiting { rig, by } => format!(
            "on {rig} most laps were {}, so its time says little of the machine: in lap {} {}",
            limit_words(by.by),
            first(laps),
            shows_words(by)
        ),
        Doubt::NothingToChoose { of, rigs, apart, by } => {
            let by = match by {
                None => "what limited them, the conditions do not show".to_owned(),
                Some((limited, on)) => {
                    let were = if on.len() == 1 { "was" } else { "were" };
                    let (by, shows) = (limit_words(limited.by), shows_words(limited));
                    format!("{} {were} {by}: {shows}", listed(on))
                }
            };
            let (rigs, apart) = (listed(rigs), per_cent(*apart));
            format!("{}: {rigs} lie within {apart} of each other; {by}", cell(of))
        }
        Doubt::UpsideDown { of, behind, ahead, ratio, others } => {
            let why = match others {
                None => "the study expects the opposite".to_owned(),
                Some(wins) => format!("in all {wins} other comparisons it is surely ahead"),
            };
            let of_it = significant(ratio.recip(), 3);
            format!(
                "{}: {behind} is behind {ahead}, at {of_it}× of it, beyond noise, and {why}",
                cell(of)
            )
        }
        Doubt::OddOneOut { rig, baseline, index, without } => {
            let side = |ratio: f64| if ratio > 1.0 { "ahead of" } else { "behind" };
            let at = |ratio: f64| significant(ratio, 3);
            format!(
                "it alone puts {rig} {} {baseline} overall, at {}× of it: without it, {rig} is {} it, at {}×",
                side(*index),
                at(*index),
                side(*without),
                at(*without)
            )
        }
        Doubt::Missing { of, rigs } => {
            let never = rigs.iter().all(|lacking| lacking.counts == Counts::default());
            let name = match never {
                true => crate::words::lap_of(&of.workload, &of.settings),
                false => cell(of),
            };
            let lack =
                |Lacking { rig, counts }: &Lacking| format!("{rig} ({})", counts_words(counts));
            format!(
                "{name} has no figure of {}",
                listed(&rigs.iter().map(lack).collect::<Vec<_>>())
            )
        }
        Doubt::TwoThingsChanged { rigs, parts } => {
            let part = |(name, ours, theirs): &(String, String, String)| {
                format!("{name} ({ours} and {theirs})")
            };
            format!(
                "{} and {} differ in {}, so their difference cannot be put down to one of them",
                rigs.0,
                rigs.1,
                listed(&parts.iter().map(part).collect::<Vec<_>>())
            )
        }
        Doubt::OneOfAKind { rig, model } => {
            format!("{rig} alone stands for every {model}, and machines of one model differ")
        }
        Doubt::OutOfOrder { rig, failed, in_laps, held } => {
            let laps: Vec<String> = in_laps.iter().map(ToString::to_string).collect();
            format!(
                "{rig} failed at {failed} (lap {}) and held at {held}, which luck does not explain",
                laps.join(", ")
            )
        }
        Doubt::AveragesHide { rigs: (one, other), settings, apart, lows, hitches } => {
            let lows = lows
                .map(|(a, b)| format!("low 1% at {a:.1} fps on {one} and {b:.1} fps on {other}"));
            let hitches = hitches
                .map(|(a, b)| format!("{a:.1} hitches a minute on {one} and {b:.1} on {other}"));
            let said: Vec<String> = lows.into_iter().chain(hitches).collect();
            let variant =
                if settings.is_untold() { String::new() } else { format!(" ({settings})") };
            format!(
                "{one} and {other} differ by {} on average, but: {}{variant}",
                per_cent(*apart),
                said.join("; ")
            )
        }
        Doubt::OtherPicture { file, settings, apart, within } => format!(
            "{file}{} of lap {} {}, and {} is allowed (against lap {})",
            of_variant(settings),
            laps.get(1).map(ToString::to_string).unwrap_or_default(),
            picture_words(apart),
            per_cent(*within),
            first(laps)
        ),
        Doubt::LessWork { rigs, settings, against, differs } => {
            let differs: Vec<String> = differs.iter().map(unlike_words).collect();
            format!(
                "{settings} is held against {against} by time, and came to something else on {}: {}",
                listed(rigs),
                differs.join("; ")
            )
        }
        Doubt::MachineBusy { .. }
        | Doubt::Throttled { .. }
        | Doubt::NeverSettled { .. }
        | Doubt::StillFalling { .. }
        | Doubt::Swapped { .. }
        | Doubt::Slept { .. }
        | Doubt::MeterSilent { .. }
        | Doubt::LeftOvers { .. }
        | Doubt::OwnTime { .. }
        | Doubt::Capped { .. }
        | Doubt::AverageHides { .. } => {
            let others = match laps.len() {
                0 | 1 => String::new(),
                2 => "; likewise one other lap".to_owned(),
                n => format!("; likewise {} other laps", n - 1),
            };
            format!("lap {} {}{others}", first(laps), of_lap(&finding.doubt))
        }
    }
}

/// Returns what was seen of one lap, as it reads behind its name; nothing of what is no lap's.
fn of_lap(doubt: &Doubt) -> String {
    let span = |seconds: f64| display_span(Nanos((seconds.max(0.0) * 1e9) as u64));
    match doubt {
        Doubt::MachineBusy { used, share, by } => format!(
            "ran beside other programs{} that used {} of processor time, {} of one hardware thread",
            if by.is_empty() { String::new() } else { format!(" ({})", listed(by)) },
            display_span(*used),
            per_cent(*share)
        ),
        Doubt::Throttled { clock_mhz: (first, last), heat_c: (cool, hot), settled } => {
            let by = per_cent(1.0 - last / first);
            match settled {
                true => format!(
                    "settled at a clock {by} lower than at first, {last:.0} and not {first:.0} MHz, after it \
                     had warmed from {cool:.0} to {hot:.0} °C"
                ),
                false => format!(
                    "saw its clock fall by {by}, from {first:.0} to {last:.0} MHz, while it warmed from \
                     {cool:.0} to {hot:.0} °C"
                ),
            }
        }
        Doubt::NeverSettled { since, lasted } => format!(
            "changed its rate for the last time after {} of {}, so what it settles at is not known",
            span(*since),
            span(*lasted)
        ),
        Doubt::StillFalling { by } => {
            format!("was still falling, by another {} over its last two fifths", per_cent(*by))
        }
        Doubt::Swapped { bytes } => format!("ran while {} were swapped", display_size(*bytes)),
        Doubt::Slept { time } => {
            format!("was under way when the machine slept for {}", display_span(*time))
        }
        Doubt::MeterSilent { meters } => {
            let what = if meters.len() == 1 { "meter" } else { "meters" };
            format!("has no value of {what} {}, which other laps of its rig have", listed(meters))
        }
        Doubt::LeftOvers { programs } => {
            format!("ended and left {} running, which was ended", programs.join(", "))
        }
        Doubt::OwnTime { reported, measured } => {
            let off = reported - measured.seconds();
            let way = if off < 0.0 { "less" } else { "more" };
            format!(
                "reports {}, {} {way} than the {} measured",
                span(*reported),
                per_cent(off / measured.seconds()),
                display_span(*measured)
            )
        }
        Doubt::Capped { hz, limiter: true, share, by_work, .. } => {
            let by_work = by_work
                .map(|rate| format!("; by its busy times it could have shown {rate:.0} a second"));
            format!(
                "shows a limiter, not the rig: {:.0} % of its frames keep a schedule of {hz} a second, the late ones \
                 made up for by short ones{}",
                share * 100.0,
                by_work.unwrap_or_default()
            )
        }
        Doubt::Capped { hz, stated, share, refreshes, by_work, limiter: false } => {
            let common = if *stated { "" } else { ", which is common" };
            let each = match refreshes {
                1 => "most one".to_owned(),
                n => format!("most of them {n}"),
            };
            let by_work = by_work
                .map(|rate| format!("; by its busy times it could have shown {rate:.0} a second"));
            format!(
                "shows the display, not the rig: {:.0} % of its frames take a whole number of refreshes of \
                 a display of {hz} Hz{common}, {each}{}",
                share * 100.0,
                by_work.unwrap_or_default()
            )
        }
        Doubt::AverageHides { stall, lopsided } => {
            let stall =
                stall.map(|worst| format!("stood still for {:.0} ms in one frame", worst * 1e3));
            let lopsided = lopsided.map(|(average, median)| {
                format!(
                    "runs at {average:.1} fps on average and at {median:.1} fps by its median frame"
                )
            });
            stall.into_iter().chain(lopsided).collect::<Vec<_>>().join(", and ")
        }
        _ => String::new(),
    }
}

/// Returns a number that does not fit, with what would and what it may have been meant to be.
fn does_not_fit(of: &CellName, value: f64, fits: f64, meant: Option<&Meant>) -> String {
    let unit = if of.measure == TIME { format!(" {SECONDS}") } else { String::new() };
    let figure = |value: f64| format!("{}{unit}", significant(value, 4));
    let about = format!(
        "{} in {}, and by what else it and others came to it would be about {}",
        figure(value),
        cell(of),
        figure(fits)
    );
    match meant {
        None => about,
        Some(Meant::Digits { value }) => {
            format!("{about}: {}, with a digit out of place?", figure(*value))
        }
        Some(Meant::Sixtieth { value }) => {
            format!("{about}: {}, in another unit of time?", figure(*value))
        }
        Some(Meant::OfRig { rig, value }) => {
            format!("{about}: was it exchanged with the {} of {rig}?", figure(*value))
        }
    }
}

fn first(laps: &[LapName]) -> String {
    laps.first().map(ToString::to_string).unwrap_or_default()
}

/// Returns a variant as it reads behind a name; nothing where there is but one.
fn of_variant(settings: &Settings) -> String {
    if settings.is_untold() { String::new() } else { format!(" of {settings}") }
}

fn few(FewLaps { settings, laps }: &FewLaps) -> String {
    let laps = if *laps == 1 { "1 counted lap".to_owned() } else { format!("{laps} counted laps") };
    format!("{laps}{}", of_variant(settings))
}

fn content(Copies { sha256, rigs, laps }: &Copies) -> String {
    let short = sha256.get(..8).unwrap_or(sha256);
    format!("{short}… on {} ({laps} laps)", rigs.join(", "))
}

/// Returns what was said on which rigs; `unread` where it could not be read.
fn said_on(VersionOn { line, rigs }: &VersionOn, unread: &str) -> String {
    let line = line.as_deref().unwrap_or(unread);
    format!("{line} on {}", rigs.join(", "))
}
