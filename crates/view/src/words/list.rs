//! Lists and counts in words.

use honest_lap_core::judge::Needed;
use honest_lap_core::stat::LapsNeeded;

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

/// Returns `n` of `thing`, which is not alone unless there is one.
pub fn count(n: usize, thing: &str) -> String {
    match (n, thing.ends_with('s')) {
        (1, _) => format!("1 {thing}"),
        (_, true) => format!("{n} {thing}es"),
        (_, false) => format!("{n} {thing}s"),
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

#[cfg(test)]
mod tests {
    use super::*;

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
