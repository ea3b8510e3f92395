//! `modes`: where the program of a workload tells how it is set.

use crate::keys::MODE;
use crate::places::Places;
use crate::reading::{find, source};
use crate::section::Section;
use honest_lap_core::record::{ModeRule, is_rig_name};

/// Returns the rules under `modes`.
pub(crate) fn modes(section: &Section, places: &mut Places) -> Vec<ModeRule> {
    let mut all = Vec::new();
    if let (Some(value), Some(_)) = (section.get("modes"), section.get("by_hand")) {
        let remedy = "make it a setting, whose value whoever does the work states: vary = { render = [\"cpu\", \"card\"] }";
        let problem =
            "modes are read around laps that the tool starts, and people do this workload";
        section.mistakes.add(value.span(), problem, remedy);
    }
    for (name, span, value) in section.entries("modes") {
        let what = format!("`modes` of {}", section.what);
        let Some(inner) = Section::open(section.mistakes, what, value, &MODE) else { continue };
        if !is_rig_name(name) {
            let remedy = "use 1 to 40 letters, digits, `-` and `_`, with a letter or digit first";
            section.mistakes.add(span, format!("\"{name}\" cannot name a mode"), remedy);
            continue;
        }
        let found = (find(&inner, value, false), source(&inner, places));
        let (Some(find), Some(source)) = found else { continue };
        all.push(ModeRule { name: name.to_owned(), source, find });
    }
    all
}
