//! What differs on record, in words: between cells, and between sessions.

use crate::number::percent;
use crate::words::listed;
use honest_lap_core::lab::{Changed, Unlike, What};
use honest_lap_core::record::{Aspect, PicturesApart};
use honest_lap_core::unit::display_size;

/// Returns in what a cell is unlike the one that it is held against: ours against theirs.
pub fn unlike_words(unlike: &Unlike) -> String {
    match unlike {
        Unlike::Size { file, ours, theirs } => {
            format!("{file} is {} against {}", display_size(*ours), display_size(*theirs))
        }
        Unlike::Content { file } => format!("{file} is another file in every lap"),
        Unlike::Picture { file, apart } => format!("{file} {}", picture_words(apart)),
        Unlike::Power { on_mains: true } => "run on mains against on a battery".to_owned(),
        Unlike::Power { on_mains: false } => "run on a battery against on mains".to_owned(),
        Unlike::Screen { ours, theirs } => format!("the screen at {ours} % against {theirs} %"),
        Unlike::Profile { ours, theirs } => format!("the power profile {ours} against {theirs}"),
        Unlike::Setting { mode, ours, theirs } => {
            format!("{mode} set to {} against {}", listed(ours), listed(theirs))
        }
        Unlike::Input { file } => format!("the input {file} is another file"),
    }
}

/// Returns how a picture shows something else than another: `shows something else: 9.3 % apart in colour, most at the top right`.
pub fn picture_words(apart: &PicturesApart) -> String {
    let third = |share: f64, names: [&'static str; 3]| names[((share * 3.0) as usize).min(2)];
    let (across, down) = apart.at;
    let place = match (third(down, ["top", "", "bottom"]), third(across, ["left", "", "right"])) {
        ("", "") => "in the middle".to_owned(),
        (down, across) => format!("at the {}", format!("{down} {across}").trim()),
    };
    let share = percent(apart.share);
    match apart.aspect {
        Aspect::Size => "has another number of pixels".to_owned(),
        Aspect::Colour => format!("shows something else: {share} apart in colour, most {place}"),
        Aspect::Grain => format!("shows something else: {share} apart in grain, most {place}"),
    }
}

/// Returns what can change between sessions.
pub fn what_words(what: &What) -> String {
    match what {
        What::ClockGovernor => "clock governor".to_owned(),
        What::Kernel => "kernel".to_owned(),
        What::Machine => "machine".to_owned(),
        What::Memory => "memory".to_owned(),
        What::Processor => "processor".to_owned(),
        What::System => "system".to_owned(),
        What::Part { name } => name.clone(),
        What::Mode { name, workload } => format!("{name} of {workload}"),
        What::Program { label, workload } => format!("{label} of {workload}"),
    }
}

/// Returns what changed between sessions: `kernel from 6.0 to 6.1`.
pub fn changed_words(changed: &Changed) -> String {
    let of_memory = changed.what == What::Memory;
    let is_mode = matches!(changed.what, What::Mode { .. });
    let value = |value: &Option<String>| match value {
        None if is_mode => "not told".to_owned(),
        None => "a version that could not be read".to_owned(),
        Some(gib) if of_memory => format!("{gib} GiB"),
        Some(text) => text.clone(),
    };
    let all = |values: &[Option<String>]| values.iter().map(value).collect::<Vec<_>>();
    let (before, after) = (listed(&all(&changed.before)), listed(&all(&changed.after)));
    format!("{} from {before} to {after}", what_words(&changed.what))
}

/// Returns what a comparison before and after a change says of the change.
pub fn changes_words(changes: &[Changed]) -> String {
    match changes {
        [] => "Nothing that is on record changed between before and after.".to_owned(),
        [one] => format!("Between before and after changed: {}.", changed_words(one)),
        several => format!(
            "Doubt, two things changed: {}. The difference cannot be put down to one of them.",
            several.iter().map(changed_words).collect::<Vec<_>>().join("; ")
        ),
    }
}
