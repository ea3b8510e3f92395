//! What a rig is made of and could do at most, in words.

use honest_lap_core::record::{Peak, RigPart};
use honest_lap_core::unit::Date;

/// Returns what a part is, and was: `64 GB since 2026-03-09, before that 32 GB`.
pub fn part_words(part: &RigPart) -> String {
    let one = |(from, is): &(Option<Date>, String)| match from {
        Some(from) => format!("{is} since {from}"),
        None => is.clone(),
    };
    let all: Vec<String> = part.history.iter().rev().map(one).collect();
    all.join(", before that ")
}

/// Returns a paper peak: `100 GFLOP/s at precision=fp32 (a leaflet)`.
pub fn peak_words(peak: &Peak) -> String {
    let of = peak.of.as_ref().map(|(name, value)| format!(" at {name}={value}"));
    format!("{}/s{} ({})", peak.a_second, of.unwrap_or_default(), peak.from)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_latest_is_said_first() {
        let day = |text: &str| Date::parse(text).ok();
        let history = vec![(None, "32 GB".into()), (day("2026-03-09"), "64 GB".into())];
        let memory = RigPart { name: "memory".into(), history };
        assert_eq!(part_words(&memory), "64 GB since 2026-03-09, before that 32 GB");
        assert_eq!(part_words(&RigPart::always("card", "L4")), "L4");
    }
}
