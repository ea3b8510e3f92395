//! The grammar: a sentence in, a [`Claim`] or the reason why it is none out.
//!
//! Where it is said (`on dome-still threads=2`, `on every task`, `overall`) may stand anywhere and is
//! taken out first; what is left is matched word by word.

use super::names::{ClaimError, Names, unclear};
use super::phrase;
use super::reader::settings_at;
use super::sentence::{Bound, Caution, Claim, Saying, Scope};
use super::words::Reader;

/// Returns what `text` claims about `names`; of what says several things, the first.
///
/// * Errors: [`ClaimError`] of what is no sentence of ours, with one that is near.
pub fn parse(text: &str, names: &Names) -> Result<Claim, ClaimError> {
    let mut all = parse_all(text, names)?;
    Ok(all.swap_remove(0).1)
}

/// Returns everything that `text` claims about `names`, each as a sentence of its own: `heron and wren are faster than
/// plover on dome-still and reel-export` is four.
///
/// * Errors: as of [`parse`].
pub fn parse_all(text: &str, names: &Names) -> Result<Vec<(String, Claim)>, ClaimError> {
    let sentences = phrase::sentences(text, names);
    let several = sentences.len() > 1;
    let one = |words: Vec<String>| {
        let says = if several { words.join(" ") } else { text.trim().to_owned() };
        Ok((says, of_words(words, names)?))
    };
    sentences.into_iter().map(one).collect()
}

fn of_words(mut words: Vec<String>, names: &Names) -> Result<Claim, ClaimError> {
    let mut cautions = Vec::new();
    let said_scope = take_scope(&mut words, names, &mut cautions)?;
    let in_measure = take_measure(&mut words, names);
    let mut reader = Reader { words: &words, at: 0, names, cautions };
    let (saying, own_measure) = reader.sentence()?;
    if reader.at < words.len() {
        return Err(unclear(&words[reader.at..].join(" ")));
    }
    if matches!(saying, Saying::Value { bound: Bound::UpTo, .. }) {
        return Err(ClaimError {
            problem: "`up to` is said of a value, which may mean its most or its least".to_owned(),
            remedy: "say which: at most, or at least".to_owned(),
        });
    }
    let up_to = matches!(saying, Saying::Ratio { bound: Bound::UpTo, .. });
    let scope = said_scope.unwrap_or_else(|| {
        if names.workloads.len() > 1 && !up_to {
            reader.cautions.push(Caution::NowhereSaid);
        }
        // Up to so much is said of the largest of all.
        if up_to { Scope::Every } else { Scope::Overall }
    });
    Ok(Claim { saying, scope, measure: own_measure.or(in_measure), cautions: reader.cautions })
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
                let with = words.get(at + 2).is_some_and(|word| word == "with");
                let begins = at + 2 + usize::from(with);
                let settings = settings_at(words, begins);
                let taken = begins - at + settings.iter().count();
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
