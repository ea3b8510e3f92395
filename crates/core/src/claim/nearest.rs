//! The nearest sentence that holds, written so that it can be checked again.

use super::reply::{Part, Said};
use super::sentence::{Bound, Claim, Saying, Scope, Side, Sort};
use crate::record::{Better, Measure, SECONDS, TIME};
use crate::stat::Ranged;

/// Returns the nearest sentence to `claim` that holds by what `parts` say.
pub(super) fn nearest(claim: &Claim, parts: &[Part]) -> Option<String> {
    let scope = scope(&claim.scope);
    let sentence = match &claim.saying {
        Saying::Ratio { a, b, sort, .. } => ratio(claim, a, b, *sort, parts)?,
        Saying::Same { a, b, .. } => ratio(claim, a, b, Sort::Better, parts)?,
        Saying::Place { a, from_last, .. } => place(a, *from_last, parts)?,
        Saying::Value { a, bound, unit, .. } => {
            let measure = claim.measure.as_deref().unwrap_or(TIME);
            value(measure, &side(a), *bound, unit, parts)?
        }
    };
    // `in MEASURE` ends a sentence, so where it is said comes ahead of it.
    Some(match sentence.split_once(" in ") {
        Some((head, measure)) => format!("{head} {scope} in {measure}"),
        None => format!("{sentence} {scope}"),
    })
}

fn scope(scope: &Scope) -> String {
    match scope {
        Scope::Overall => "overall".to_owned(),
        Scope::Every => "on every task".to_owned(),
        Scope::One { workload, settings } => format!("on {}", with(workload, settings)),
    }
}

fn side(side: &Side) -> String {
    with(&side.rig, &side.settings)
}

fn with(name: &str, settings: &crate::record::Settings) -> String {
    let pairs = settings.iter().map(|(key, value)| format!(" {key}={value}"));
    format!("{name}{}", pairs.collect::<String>())
}

fn ratio(claim: &Claim, a: &Side, b: &Side, sort: Sort, parts: &[Part]) -> Option<String> {
    let (mut low, mut high) = (f64::INFINITY, f64::NEG_INFINITY);
    let mut of: Option<&Measure> = None;
    for part in parts {
        let Said::Ratio { difference, measure } = &part.said else { return None };
        let interval = difference.interval.filter(|_| !difference.is_refused())?;
        (low, high) = (low.min(interval.low), high.max(interval.high));
        of = Some(measure);
    }
    let (of, a, b) = (of?, side(a), side(b));
    let named = claim.measure.as_deref();
    if sort == Sort::Values {
        let measure = named.unwrap_or(TIME);
        let verb = if measure == TIME { "takes" } else { "uses" };
        let (low, high) = match of.better {
            Better::Less => (high.recip(), low.recip()),
            Better::More => (low, high),
        };
        if high < 1.0 {
            return Some(format!(
                "{a} {verb} at most {}% of the {measure} of {b}",
                up(high * 100.0)
            ));
        }
        if low > 1.0 {
            return Some(format!(
                "{a} {verb} at least {}% of the {measure} of {b}",
                down(low * 100.0)
            ));
        }
    }
    // A word of the measure is needed where the sentence is not about times.
    let behind = named.filter(|name| *name != TIME).map(|name| format!(" in {name}"));
    let behind = behind.unwrap_or_default();
    let word = if of.is_time() && named.is_none_or(|name| name == TIME) { "fast" } else { "good" };
    if low > 1.0 {
        return Some(format!("{a} is at least {}x as {word} as {b}{behind}", down(low)));
    }
    if high < 1.0 {
        return Some(format!("{a} is at most {}x as {word} as {b}{behind}", up(high)));
    }
    // Of an exact tie nothing is left between them: a tenth of a per cent is said.
    let apart = ((high.max(low.recip()) - 1.0) * 100.0).max(0.1);
    (apart < 99.0).then(|| format!("{a} and {b} are the same within {}%{behind}", up(apart)))
}

fn value(measure: &str, a: &str, bound: Bound, unit: &str, parts: &[Part]) -> Option<String> {
    let (mut low, mut high) = (f64::INFINITY, f64::NEG_INFINITY);
    for part in parts {
        let Said::Value { value: Ranged { interval, .. }, .. } = &part.said else { return None };
        (low, high) = (low.min(interval.low), high.max(interval.high));
    }
    let unit = if unit == SECONDS { " s".to_owned() } else { String::new() };
    match bound {
        Bound::AtMost | Bound::Below => {
            Some(format!("{measure} of {a} is at most {}{unit}", up(high)))
        }
        _ => Some(format!("{measure} of {a} is at least {}{unit}", down(low))),
    }
}

fn place(a: &Side, from_last: bool, parts: &[Part]) -> Option<String> {
    const ORDINALS: [&str; 12] = [
        "first", "second", "third", "fourth", "fifth", "sixth", "seventh", "eighth", "ninth",
        "tenth", "eleventh", "twelfth",
    ];
    let (mut best, mut worst, mut all) = (usize::MAX, 0, 0);
    for part in parts {
        let Said::Ranks { places: found, among: of } = &part.said else { return None };
        let worst_here = found.worst.min(*of);
        let (from, to) = match from_last {
            true => (of + 1 - worst_here, of + 1 - found.best),
            false => (found.best, worst_here),
        };
        (best, worst, all) = (best.min(from), worst.max(to), all.max(*of));
    }
    let end = if from_last { "slowest" } else { "fastest" };
    let rig = &a.rig;
    match (best, worst) {
        // That it has a place among all is true of everything.
        (1, worst) if worst == all => None,
        (1, 1) => Some(format!("{rig} is the {end}")),
        (best, worst) => {
            let (from, to) = (ORDINALS.get(best - 1)?, ORDINALS.get(worst - 1)?);
            Some(if best == worst {
                format!("{rig} is {from} {end}")
            } else {
                format!("{rig} is {from} to {to} {end}")
            })
        }
    }
}

/// Returns `value` with three decimals or four figures, never more than it is.
fn down(value: f64) -> String {
    rounded(value, f64::floor)
}

/// Returns `value` likewise, never less than it is.
fn up(value: f64) -> String {
    rounded(value, f64::ceil)
}

fn rounded(value: f64, way: fn(f64) -> f64) -> String {
    if value == 0.0 {
        return "0".to_owned();
    }
    let places = (3 - value.abs().log10().floor() as i32).clamp(0, 9);
    let scale = 10f64.powi(places);
    let text = format!("{:.*}", places as usize, way(value * scale) / scale);
    match text.contains('.') {
        true => text.trim_end_matches('0').trim_end_matches('.').to_owned(),
        false => text,
    }
}
