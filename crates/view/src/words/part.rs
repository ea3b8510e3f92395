//! What a part of a rig is, in words.

use honest_lap_core::record::RigPart;

/// Returns what a part is, and was: `64 GB since 2026-03-09, before that 32 GB`.
pub fn part_words(part: &RigPart) -> String {
    let one = |(from, is): &(Option<honest_lap_core::unit::Date>, String)| match from {
        Some(from) => format!("{is} since {from}"),
        None => is.clone(),
    };
    let all: Vec<String> = part.history.iter().rev().map(one).collect();
    all.join(", before that ")
}

#[cfg(test)]
mod tests {
    use super::*;
    use honest_lap_core::unit::Date;

    #[test]
    fn the_latest_is_said_first() {
        let day = |text: &str| Date::parse(text).ok();
        let history = vec![(None, "32 GB".into()), (day("2026-03-09"), "64 GB".into())];
        let memory = RigPart { name: "memory".into(), history };
        assert_eq!(part_words(&memory), "64 GB since 2026-03-09, before that 32 GB");
        assert_eq!(part_words(&RigPart::always("card", "L4")), "L4");
    }
}
