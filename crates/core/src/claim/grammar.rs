//! The grammar: a sentence in, a [`Claim`] or the reason why it is none out.
//!
//! Where it is said (`on dome-still threads=2`, `on every task`, `overall`) may stand anywhere and is
//! taken out first; what is left is matched word by word.

use super::names::{ClaimError, Names, unclear};
use super::reader::{Reader, settings_at};
use super::sentence::{Caution, Claim, Scope};

/// Words that carry no meaning of their own here.
const FILLERS: [&str; 3] = ["the", "a", "an"];

/// Returns what `text` claims about `names`.
pub fn parse(text: &str, names: &Names) -> Result<Claim, ClaimError> {
    let words = text.trim().trim_end_matches(['.', '!']).split_whitespace();
    let words = words.map(|word| word.trim_end_matches(',').to_owned()).collect();
    let mut words = with_measures_whole(words, names);
    words.retain(|word| !FILLERS.contains(&word.to_lowercase().as_str()));
    let mut cautions = Vec::new();
    let said_scope = take_scope(&mut words, names, &mut cautions)?;
    let in_measure = take_measure(&mut words, names);
    let mut reader = Reader { words: &words, at: 0, names, cautions };
    let (saying, own_measure) = reader.sentence()?;
    if reader.at < words.len() {
        return Err(unclear(&words[reader.at..].join(" ")));
    }
    let scope = said_scope.unwrap_or_else(|| {
        if names.workloads.len() > 1 {
            reader.cautions.push(Caution::NowhereSaid);
        }
        Scope::Overall
    });
    Ok(Claim { saying, scope, measure: own_measure.or(in_measure), cautions: reader.cautions })
}

/// Returns `words` with the name of a measure as one of them: `hours on battery` says nothing of where, and the `a` of
/// `hitches a minute` means something.
fn with_measures_whole(words: Vec<String>, names: &Names) -> Vec<String> {
    let longest = names.measures.iter().map(|m| m.name.split(' ').count()).max().unwrap_or(1);
    let mut whole = Vec::new();
    let mut at = 0;
    while at < words.len() {
        let most = longest.min(words.len() - at);
        let named = (2..=most).rev().find_map(|count| {
            let name = words[at..at + count].join(" ");
            let known = names.measures.iter().find(|m| m.name.eq_ignore_ascii_case(&name))?;
            Some((known.name.clone(), count))
        });
        let (word, count) = named.unwrap_or_else(|| (words[at].clone(), 1));
        whole.push(word);
        at += count;
    }
    whole
}

/// Takes the words that say where out of `words`.
fn take_scope(
    words: &mut Vec<String>,
    names: &Names,
    cautions: &mut Vec<Caution>,
) -> Result<Option<Scope>, ClaimError> {
    let mut found: Option<Scope> = None;
    let mut at = 0;
    while at < words.len() {
        let lower = words[at].to_lowercase();
        let named = words.get(at + 1).cloned().unwrap_or_default();
        let next = named.to_lowercase();
        let taken = match (lower.as_str(), next.as_str()) {
            ("overall", _) => Some((Scope::Overall, 1)),
            ("everywhere", _) => Some((Scope::Every, 1)),
            ("on" | "in", "average") => {
                cautions.push(Caution::AverageOfPercentages);
                Some((Scope::Overall, 2))
            }
            ("on" | "in", "all" | "every" | "each") => {
                let noun = words.get(at + 2).map(|word| word.to_lowercase()).unwrap_or_default();
                let is_noun = ["task", "tasks", "workload", "workloads"].contains(&noun.as_str());
                Some((Scope::Every, 2 + usize::from(is_noun)))
            }
            ("on" | "in", _) if names.workloads.contains(&named) => {
                let settings = settings_at(words, at + 2);
                let taken = 2 + settings.iter().count();
                Some((Scope::One { workload: named, settings }, taken))
            }
            ("on", _) if !next.is_empty() => {
                return Err(ClaimError {
                    problem: format!("no workload is called `{named}`"),
                    remedy: format!("the laps are of: {}", names.workloads.join(", ")),
                });
            }
            _ => None,
        };
        match taken {
            Some((scope, count)) => {
                if found.replace(scope).is_some() {
                    return Err(ClaimError {
                        problem: "it says twice where it holds".to_owned(),
                        remedy: "make two claims of it".to_owned(),
                    });
                }
                words.drain(at..at + count);
            }
            None => at += 1,
        }
    }
    Ok(found)
}

/// Takes a trailing `in MEASURE` out of `words`.
fn take_measure(words: &mut Vec<String>, names: &Names) -> Option<String> {
    let at = words.iter().rposition(|word| word.eq_ignore_ascii_case("in"))?;
    let name = words[at + 1..].join(" ");
    let measure = names.measures.iter().find(|measure| measure.name.eq_ignore_ascii_case(&name))?;
    words.truncate(at);
    Some(measure.name.clone())
}

#[cfg(test)]
#[path = "grammar_tests.rs"]
mod tests;
