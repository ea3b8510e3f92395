//! What moves on a page where script runs, and stands still in words where none does: a pass, a race of rigs.

use super::packed::packed;
use super::{Frames, Race};
use honest_lap_core::record::plain_line;
use maud::{Markup, PreEscaped, html as markup};

/// Returns a pass that can be looked into; without script only its words are there.
pub(super) fn of_frames(frames: &Frames, step: u64) -> Markup {
    let cut: Vec<String> = frames.cut.iter().map(|(from, to)| format!("{from},{to}")).collect();
    markup! {
        div.frames hidden data-step=(step) data-cut=(cut.join(" "))
            data-budget=[frames.budget.map(|ms| ms.to_string())]
        {
            p { b { (plain_line(&frames.name)) } " " (plain_line(&frames.says)) }
            canvas tabindex="0" role="img"
                aria-label=(format!("Frame times of {}: {}", plain_line(&frames.name), plain_line(&frames.says))) {}
            p.tools {
                button type="button" data-do="in" { "closer" }
                button type="button" data-do="out" { "farther" }
                button type="button" data-do="left" { "earlier" }
                button type="button" data-do="right" { "later" }
                button type="button" data-do="whole" { "whole pass" }
                output aria-live="polite" {}
            }
            script type="text/plain" { (PreEscaped(packed(&frames.frames, step))) }
        }
    }
}

/// Returns rigs side by side: as they stand when the quickest is done, and with script as they go.
pub(super) fn of_race(race: &Race) -> Markup {
    let first = race.rigs.first().map_or(1.0, |(_, seconds, _)| *seconds);
    markup! {
        div.race {
            p { "Side by side, " (plain_line(&race.of)) ": how far each is when the quickest is done." }
            @for (rig, seconds, words) in &race.rigs {
                label {
                    span { (plain_line(rig)) }
                    progress max="1" value=(format!("{:.4}", first / seconds)) data-seconds=(seconds) {
                        (format!("{:.0} %", 100.0 * first / seconds))
                    }
                    output { (plain_line(words)) }
                }
            }
        }
    }
}
