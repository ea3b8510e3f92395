//! From the words that people use to those of the grammar: names in any spelling, synonyms, and sentences that say
//! several things at once made one each.

use super::names::Names;
use crate::record::{is_rig_name, plain_name};
use std::collections::HashMap;

/// Words that carry no meaning of their own here.
const FILLERS: [&str; 16] = [
    "the",
    "a",
    "an",
    "both",
    "much",
    "significantly",
    "clearly",
    "considerably",
    "noticeably",
    "exactly",
    "precisely",
    "even",
    "still",
    "just",
    "card",
    "its",
];

/// What is said otherwise, longer phrases ahead of those that they contain.
const PHRASES: [(&[&str], &[&str]); 66] = [
    (&["compared", "to"], &["than"]),
    (&["compared", "with"], &["than"]),
    (&["relative", "to"], &["than"]),
    (&["versus"], &["than"]),
    (&["vs"], &["than"]),
    (&["per", "cent"], &["%"]),
    (&["pct"], &["%"]),
    (&["approximately"], &["about"]),
    (&["approx"], &["about"]),
    (&["circa"], &["about"]),
    (&["nearly"], &["about"]),
    (&["almost"], &["about"]),
    (&["some"], &["about"]),
    (&["no", "less", "than"], &["at", "least"]),
    (&["not", "less", "than"], &["at", "least"]),
    (&["no", "fewer", "than"], &["at", "least"]),
    (&["no", "more", "than"], &["at", "most"]),
    (&["not", "more", "than"], &["at", "most"]),
    (&["fewer", "than"], &["less", "than"]),
    (&["up", "to"], &["upto"]),
    (&["quicker"], &["faster"]),
    (&["speedier"], &["faster"]),
    (&["quickest"], &["fastest"]),
    (&["quick"], &["fast"]),
    (&["outperforms"], &["beats"]),
    (&["outperform"], &["beats"]),
    (&["outpaces"], &["beats"]),
    (&["outruns"], &["beats"]),
    (&["beat"], &["beats"]),
    (&["leads"], &["beats"]),
    (&["lags", "behind"], &["trails"]),
    (&["falls", "behind"], &["trails"]),
    (&["is", "ahead", "of"], &["beats"]),
    (&["is", "behind"], &["trails"]),
    (&["take"], &["takes"]),
    (&["use"], &["uses"]),
    (&["need"], &["needs"]),
    (&["requires"], &["needs"]),
    (&["have"], &["has"]),
    (&["draw"], &["draws"]),
    (&["consumes"], &["uses"]),
    (&["burns"], &["uses"]),
    (&["finishes", "in"], &["takes"]),
    (&["completes", "in"], &["takes"]),
    (&["is", "done", "in"], &["takes"]),
    (&["speed", "of"], &["as", "fast", "as"]),
    (&["lead", "over"], &["faster", "than"]),
    (&["number", "one"], &["first"]),
    (&["of", "all", "rigs"], &[]),
    (&["of", "all", "machines"], &[]),
    (&["of", "them", "all"], &[]),
    (&["in", "lab"], &[]),
    (&["ranks"], &["is"]),
    (&["comes", "in"], &["is"]),
    (&["places"], &["is"]),
    (&["finishes"], &["is"]),
    (&["runs", "at"], &["runs"]),
    (&["holds", "real", "time"], &["plays", "in", "real", "time"]),
    (&["keeps", "real", "time"], &["plays", "in", "real", "time"]),
    (&["1st"], &["first"]),
    (&["2nd"], &["second"]),
    (&["3rd"], &["third"]),
    (&["4th"], &["fourth"]),
    (&["5th"], &["fifth"]),
    (&["6th"], &["sixth"]),
    (&["7th"], &["seventh"]),
];
/// What a rig is called behind its place.
const NOUNS: [&str; 8] =
    ["rig", "rigs", "machine", "machines", "computer", "system", "one", "place"];
const PLACES: [&str; 4] = ["fastest", "slowest", "best", "worst"];

/// Returns the sentences that `text` says, in the words of the grammar; one, but where rigs or workloads are joined.
pub(super) fn sentences(text: &str, names: &Names) -> Vec<Vec<String>> {
    let words = reworded(with_names(split(text), names), names);
    let mut all = vec![words];
    // Each joined list makes one sentence of each of its items, until none is left.
    while let Some(at) = all.iter().position(|words| joined(words, names).is_some()) {
        let words = all.remove(at);
        let (from, to, items) = joined(&words, names).expect("it was just found");
        for (place, item) in items.into_iter().enumerate() {
            let mut one = [&words[..from], &item, &words[to..]].concat();
            if from == 0 && one.get(item.len()).is_some_and(|verb| verb == "are") {
                one[item.len()] = "is".to_owned();
            }
            all.insert(at + place, one);
        }
    }
    all.iter_mut().for_each(|words| words.retain(|word| word != ","));
    all
}

/// Splits a sentence into words; commas are words, and `20–30%` is several.
fn split(text: &str) -> Vec<String> {
    let text = text.trim().trim_end_matches(['.', '!']);
    let text = text.replace(',', " , ").replace('≥', " at least ").replace('≤', " at most ");
    let text = text.replace('~', " about ").replace('’', "'");
    let mut words = Vec::new();
    for word in text.split_whitespace() {
        let ends = word.split_once(['–', '-']).filter(|(from, to)| {
            let number = |text: &str| text.starts_with(|c: char| c.is_ascii_digit());
            number(from) && number(to)
        });
        match ends {
            Some((from, to)) => words.extend([from, "to", to].map(str::to_owned)),
            None => words.push(word.trim_end_matches([':', ';']).to_owned()),
        }
    }
    words
}

/// Returns `words` with every name as one of them, as the lab spells it; `heron's low 1%` becomes `low 1% of heron`.
fn with_names(words: Vec<String>, names: &Names) -> Vec<String> {
    let mut known: HashMap<String, &str> = HashMap::new();
    let titles = names.titles.iter().map(|(title, rig)| (title.as_str(), rig.as_str()));
    let own = names.rigs.iter().chain(&names.workloads).map(|name| (name.as_str(), name.as_str()));
    let measures = names.measures.iter().map(|m| (m.name.as_str(), m.name.as_str()));
    for (said, name) in own.chain(titles).chain(measures) {
        known.entry(plain_name(said)).or_insert(name);
    }
    let longest = known.keys().map(|name| name.split('-').count()).max().unwrap_or(1);
    let (mut whole, mut owner, mut at) = (Vec::new(), None, 0);
    while at < words.len() {
        let most = longest.min(words.len() - at);
        let named = (1..=most).rev().find_map(|count| {
            let span = &words[at..at + count];
            if span.iter().any(|word| !word.contains(char::is_alphanumeric)) {
                return None;
            }
            let said = span.join(" ");
            let possessive = said.strip_suffix("'s").or_else(|| said.strip_suffix('\''));
            let name = *known.get(&plain_name(possessive.unwrap_or(&said)))?;
            Some((name.to_owned(), count, possessive.is_some()))
        });
        match named {
            Some((name, count, true)) => {
                owner = Some(name);
                at += count;
            }
            Some((name, count, false)) => {
                let is_measure = names.measures.iter().any(|measure| measure.name == name);
                whole.push(name);
                at += count;
                if let Some(owner) = owner.take_if(|_| is_measure) {
                    whole.extend(["of".to_owned(), owner]);
                }
            }
            None => {
                whole.push(words[at].clone());
                at += 1;
            }
        }
    }
    // Whose something is that is no measure stays where it was said.
    whole.extend(owner);
    whole
}

/// Returns `words` in the words of the grammar.
fn reworded(mut words: Vec<String>, names: &Names) -> Vec<String> {
    let is_rig = |word: &String| names.rigs.contains(word) || names.workloads.contains(word);
    let is_name =
        |word: &String| is_rig(word) || names.measures.iter().any(|measure| measure.name == *word);
    let mut before = String::new();
    words.retain(|word| {
        // What is said `as much` is an amount.
        let amount = before == "as" && word.eq_ignore_ascii_case("much");
        before = word.to_lowercase();
        amount || is_name(word) || !FILLERS.contains(&before.as_str())
    });
    let mut at = 0;
    while at < words.len() {
        let found = PHRASES.iter().find(|(said, _)| {
            let here = words.get(at..at + said.len());
            here.is_some_and(|here| {
                here.iter()
                    .zip(*said)
                    .all(|(word, said)| !is_rig(word) && word.to_lowercase() == *said)
            })
        });
        match found {
            Some((said, meant)) => {
                words.splice(at..at + said.len(), meant.iter().map(|word| (*word).to_owned()));
                at += meant.len();
            }
            None => at += 1,
        }
    }
    let after_place = |at: usize, words: &[String]| {
        let behind_place = PLACES.contains(&words[at - 1].to_lowercase().as_str());
        behind_place || words[at].eq_ignore_ascii_case("place")
    };
    let mut at = 0;
    while at < words.len() {
        let noun = NOUNS.contains(&words[at].to_lowercase().as_str());
        if at > 0 && noun && after_place(at, &words) { drop(words.remove(at)) } else { at += 1 }
    }
    // `heron has 1.6 times as fast as` is what the speed of something becomes.
    let speed = words.windows(2).any(|pair| pair[0] == "as" && pair[1] == "fast")
        || words.windows(2).any(|pair| pair[0] == "faster" && pair[1] == "than");
    if let (true, Some(verb)) = (speed, words.iter_mut().find(|word| *word == "has")) {
        "is".clone_into(verb);
    }
    turned(does_in(words, names), names)
}

/// `heron renders dome-still in 90 s` says that it takes 90 s on it.
fn does_in(mut words: Vec<String>, names: &Names) -> Vec<String> {
    const DOES: [&str; 7] =
        ["does", "renders", "compiles", "exports", "runs", "completes", "builds"];
    let (Some(verb), Some(workload), Some(word)) = (words.get(1), words.get(2), words.get(3))
    else {
        return words;
    };
    if DOES.contains(&verb.as_str()) && names.workloads.contains(workload) && word == "in" {
        let workload = words[2].clone();
        words.splice(1..4, ["takes".to_owned()]);
        words.extend(["on".to_owned(), workload]);
    }
    words
}

/// `fastest on dome-still is heron` says that heron is fastest there.
fn turned(words: Vec<String>, names: &Names) -> Vec<String> {
    let first = words.first().is_some_and(|word| PLACES.contains(&word.to_lowercase().as_str()));
    match words.as_slice() {
        [place, where_said @ .., is, rig] if first && is == "is" && names.rigs.contains(rig) => {
            let head = [rig.clone(), "is".to_owned(), place.to_lowercase()];
            head.into_iter().chain(where_said.iter().cloned()).collect()
        }
        _ => words,
    }
}

/// Returns the place of the first list of rigs or of workloads that are joined, and its items with their settings.
///
/// What is said of two together (`heron and wren are the same within 2%`) is no list.
fn joined(words: &[String], names: &Names) -> Option<(usize, usize, Vec<Vec<String>>)> {
    for kind in [&names.rigs, &names.workloads] {
        let mut from = 0;
        while from < words.len() {
            if !kind.contains(&words[from]) {
                from += 1;
                continue;
            }
            let (mut at, mut items) = (from, Vec::new());
            loop {
                let begins = at;
                at += 1;
                at += usize::from(words.get(at).is_some_and(|word| word == "with"));
                while words.get(at).is_some_and(|word| is_setting(word)) {
                    at += 1;
                }
                items.push(words[begins..at].to_vec());
                let mut next = at;
                while words
                    .get(next)
                    .is_some_and(|word| word == "," || word.eq_ignore_ascii_case("and"))
                {
                    next += 1;
                }
                match words.get(next) {
                    Some(word) if next > at && kind.contains(word) => at = next,
                    _ => break,
                }
            }
            let together = words.get(at).is_some_and(|word| word == "are")
                && words.get(at + 1).is_some_and(|word| word == "same" || word == "equal");
            if items.len() > 1 && !(together && items.len() == 2) {
                return Some((from, at, items));
            }
            from = at;
        }
    }
    None
}

fn is_setting(word: &str) -> bool {
    word.split_once('=').is_some_and(|(name, _)| is_rig_name(name))
}

#[cfg(test)]
#[path = "phrase_tests.rs"]
mod tests;
