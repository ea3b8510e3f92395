//! A number as it stands in a text, with its unit. A number is read whole or not at all: what touches it and is
//! neither its unit nor the end of a word makes it no number.

use super::{Unit, UnitError};

/// A number as it stands at the beginning of a text.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Written<'t> {
    /// The number itself: `1,234.5`, `-3.2e+06`, `00:01:23.45`.
    pub number: &'t str,
    /// Its unit, if one stands behind it.
    pub unit: Option<&'t str>,
    /// What comes behind both.
    pub rest: &'t str,
}

const REMEDY: &str = "a number stands by itself, or with a unit that is known or declared";
/// Signs that may stand between the digits of a number.
const BETWEEN: &str = ".,'\u{2019}\u{a0}\u{202f}_:";
/// What may stand at the end of a number or of its unit, besides blanks.
const ENDS: &str = ".,;:!?)]}\"'|<>\u{2026}\u{201d}\u{bb}";

/// Splits the number at the beginning of `text` from its unit; `declared` is a unit that is known here besides those
/// that all know. `None` if there is no number at all.
///
/// * Errors: something touches it, as in `12abc`, `0x1F`, `5k`, `1.2e`, `812/1000`.
pub fn written<'t>(text: &'t str, declared: &str) -> Option<Result<Written<'t>, UnitError>> {
    let end = number_end(text)?;
    let (number, behind) = text.split_at(end);
    let touching = unit_word(behind);
    if !touching.is_empty() {
        let rest = &behind[touching.len()..];
        let known = is_unit(touching, declared) && ends(rest);
        let (unit, whole) = (Some(touching), word(text));
        return Some(
            known.then_some(Written { number, unit, rest }).ok_or_else(|| no_number(whole)),
        );
    }
    // Behind a power no more digits belong to it: `1e1.5` and `1e1:0` are none.
    let mut next = behind.chars();
    let goes_on = next.next().is_some_and(|c| BETWEEN.contains(c))
        && next.next().is_some_and(|c| c.is_ascii_digit());
    if goes_on || !ends(behind) {
        return Some(Err(no_number(word(text))));
    }
    let unit = unit_behind(behind, declared);
    let rest = unit.map_or(behind, |unit| {
        let at = behind.find(unit).unwrap_or(0) + unit.len();
        &behind[at..]
    });
    Some(Ok(Written { number, unit, rest }))
}

/// Returns the unit that stands where a number has ended, touching it or as the next word.
pub fn unit_behind<'t>(rest: &'t str, declared: &str) -> Option<&'t str> {
    let touching = unit_word(rest);
    if !touching.is_empty() {
        return is_unit(touching, declared).then_some(touching);
    }
    let next = rest.trim_start_matches([' ', '\t', '\u{a0}', '\u{202f}']);
    let unit = unit_word(next);
    (is_unit(unit, declared) && ends(&next[unit.len()..])).then_some(unit)
}

/// Takes a unit off the front of `text`, alone or in brackets, with the signs behind it: `MB/s: 420`, `(ms) 12.3`.
/// Returns it and what is behind, if a unit stands there.
pub fn unit_before<'t>(text: &'t str, declared: &str) -> Option<(&'t str, &'t str)> {
    let (inner, closed) = match text.strip_prefix(['(', '[']) {
        Some(inner) => (inner, true),
        None => (text, false),
    };
    let unit = unit_word(inner);
    let behind = &inner[unit.len()..];
    let behind = if closed { behind.strip_prefix([')', ']'])? } else { behind };
    let rest = behind.trim_start_matches([' ', '\t', ':', '=']);
    (is_unit(unit, declared) && rest.len() < behind.len()).then_some((unit, rest))
}

/// Returns whether a number that ends before `rest` and begins behind `before` is cut out of a longer one: `12` of
/// `12.5`, of `-12`, of `12e3`.
pub fn is_cut_out(before: &str, number: &str, rest: &str) -> bool {
    let digit = |c: Option<char>| c.is_some_and(char::is_numeric);
    let mut back = before.chars().rev();
    let (last, earlier) = (back.next(), back.next());
    let signed =
        matches!(last, Some('-' | '\u{2212}')) && !earlier.is_some_and(char::is_alphanumeric);
    let begins = digit(last)
        || (signed && !number.starts_with(['-', '\u{2212}', '+']))
        || (last.is_some_and(|c| ".,".contains(c)) && digit(earlier));
    let mut on = rest.chars();
    let (first, second) = (on.next(), on.next());
    let between = first.is_some_and(|c| BETWEEN.contains(c)) && digit(second);
    let power = first.is_some_and(|c| "eE".contains(c))
        && (digit(second) || (second.is_some_and(|c| "+-".contains(c)) && digit(on.next())));
    begins || digit(first) || between || power
}

/// Returns whether two words are one unit: `msec` and `ms`, `MB/sec` and `MB/s`.
pub fn same_unit(one: &str, other: &str) -> bool {
    let same = |one: &str, other: &str| {
        one == other || Unit::of(one).is_some_and(|unit| Unit::of(other) == Some(unit))
    };
    match (one.split_once('/'), other.split_once('/')) {
        (Some((a, b)), Some((c, d))) => same(a, c) && same(b, d),
        _ => same(one, other),
    }
}

/// Returns where the number at the beginning of `text` ends.
fn number_end(text: &str) -> Option<usize> {
    let digit = |at: usize| text.as_bytes().get(at).is_some_and(u8::is_ascii_digit);
    let mut end =
        text.chars().next().filter(|c| "+-\u{2212}".contains(*c)).map_or(0, char::len_utf8);
    if !digit(end) {
        return None;
    }
    for (at, sign) in text[end..].char_indices().map(|(at, c)| (end + at, c)).collect::<Vec<_>>() {
        let behind = at + sign.len_utf8();
        if !(sign.is_ascii_digit() || (BETWEEN.contains(sign) && digit(behind))) {
            break;
        }
        end = behind;
    }
    let power = text[end..].strip_prefix(['e', 'E']).map(|power| {
        let signed = power.strip_prefix(['+', '-']).unwrap_or(power);
        let digits = signed.len() - signed.trim_start_matches(|c: char| c.is_ascii_digit()).len();
        (digits > 0).then(|| end + 1 + (power.len() - signed.len()) + digits)
    });
    Some(power.flatten().unwrap_or(end))
}

/// Returns the letters and signs of a unit at the beginning of `text`; digits only as powers.
fn unit_word(text: &str) -> &str {
    let part =
        |c: char| c.is_alphabetic() || "%\u{b0}\u{b7}/\u{b2}\u{b3}$\u{20ac}\u{a3}".contains(c);
    &text[..text.find(|c| !part(c)).unwrap_or(text.len())]
}

/// Returns whether `word` is a unit: known, declared, or a rate of which one part is known.
fn is_unit(word: &str, declared: &str) -> bool {
    let known = |word: &str| Unit::of(word).is_some() || matches!(word, "\u{b0}C" | "\u{b0}F");
    if word.is_empty() {
        return false;
    }
    if word == declared || known(word) {
        return true;
    }
    word.split_once('/').is_some_and(|(of, per)| {
        let letters = |text: &str| !text.is_empty() && text.chars().all(char::is_alphabetic);
        letters(of) && letters(per) && (known(of) || known(per))
    })
}

/// Returns whether a word is over where `text` begins.
fn ends(text: &str) -> bool {
    text.chars().next().is_none_or(|c| c.is_whitespace() || ENDS.contains(c))
}

/// Returns what stands at the beginning of `text`, up to the next blank.
fn word(text: &str) -> &str {
    text.split_whitespace().next().unwrap_or(text)
}

fn no_number(word: &str) -> UnitError {
    UnitError::new(format!("`{word:.40}` is no number"), REMEDY)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::unit::{Decimals, parse_number};

    fn read<'t>(text: &'t str, declared: &str) -> Option<(&'t str, Option<&'t str>)> {
        written(text, declared)?.ok().map(|read| (read.number, read.unit))
    }

    #[test]
    fn a_number_is_read_whole() {
        for (text, declared, number, unit) in [
            ("1.2e+06", "", "1.2e+06", None),
            ("1.5E-05 s", "", "1.5E-05", Some("s")),
            ("-0", "", "-0", None),
            ("1,234.5 points", "points", "1,234.5", Some("points")),
            ("812.", "", "812", None),
            ("812, then", "", "812", None),
            ("(x", "", "", None),
            ("00:01:23.45", "", "00:01:23.45", None),
            ("420 MB/s", "", "420", Some("MB/s")),
            ("3.5GiB/s)", "", "3.5", Some("GiB/s")),
            ("16.6 ms/frame", "", "16.6", Some("ms/frame")),
            ("12 s/job", "", "12", Some("s/job")),
            ("1.9 GFLOP/s", "", "1.9", Some("GFLOP/s")),
            ("55\u{b0}C", "", "55", Some("\u{b0}C")),
            ("85%", "", "85", Some("%")),
            ("812 frames", "", "812", None),
            ("12pts", "pts", "12", Some("pts")),
        ] {
            let wanted = (!number.is_empty()).then_some((number, unit));
            assert_eq!(read(text, declared), wanted, "{text}");
        }
    }

    #[test]
    fn what_touches_a_number_makes_it_none() {
        for text in [
            "0x1F",
            "5k",
            "12abc",
            "1.2e",
            "812/1000",
            "12-14",
            "3d4",
            "1\u{ff12}",
            "12_a",
            "7#",
            "9=",
            "1e5x",
            "1e1:0",
            "1e1.5",
            "1e3,000",
            "2ms3",
            "4MB/s/",
            "1.5e+",
            "12\u{301}",
            "6GBx",
        ] {
            assert!(matches!(written(text, ""), Some(Err(_))), "{text}");
            assert!(matches!(written(text, "points"), Some(Err(_))), "{text}");
        }
        for text in ["NaN", "inf", "\u{ff11}\u{ff12}", "", "-", ".5", "x12"] {
            assert_eq!(written(text, ""), None, "{text}");
        }
    }

    #[test]
    fn a_unit_may_stand_before_the_number() {
        assert_eq!(unit_before("MB/s: 420", ""), Some(("MB/s", "420")));
        assert_eq!(unit_before("(ms) = 12.3", ""), Some(("ms", "12.3")));
        assert_eq!(unit_before("watts: 81.5", "watts"), Some(("watts", "81.5")));
        assert_eq!(unit_before("good: 12", ""), None);
        assert_eq!(unit_before("ms12", ""), None);
        assert!(same_unit("msec", "ms") && same_unit("MB/sec", "MB/s") && !same_unit("MB", "MB/s"));
    }

    #[test]
    fn a_number_cut_out_of_a_longer_one_is_known() {
        for (before, number, rest) in [
            ("", "12", ".5"),
            ("-", "12", ""),
            ("1", "2", ""),
            ("", "12", "e3"),
            ("1.", "2", " ms"),
            ("", "1", "E-4"),
            (" -", "3", ""),
        ] {
            assert!(is_cut_out(before, number, rest), "{before}|{number}|{rest}");
        }
        for (before, number, rest) in [
            ("score ", "12", ""),
            ("v1-", "12", ""),
            ("=", "-12", "."),
            ("x", "12", " e3"),
            ("(", "3", "em"),
        ] {
            assert!(!is_cut_out(before, number, rest), "{before}|{number}|{rest}");
        }
    }

    /// Whatever is printed, a number that is read is the one that was written.
    #[test]
    fn a_million_numbers_none_misread() {
        // A linear congruence (Knuth's constants): the layers of core know no better one down here.
        let mut state: u64 = 99;
        let mut below = |most: u64| {
            state = state.wrapping_mul(6_364_136_223_846_793_005).wrapping_add(1);
            (state >> 33) % most
        };
        let junk = [
            "", "", "", " ", "x", "e", "E+", ".", ",", "k", " ms", "ms", "-", "/s", "%",
            "\u{ff13}", "0", ")", "\"", "e5", ".5", ",250",
        ];
        let rounds = if cfg!(debug_assertions) { 100_000 } else { 1_000_000 };
        let mut found = 0;
        for _ in 0..rounds {
            let unit = below(1 << 30) as f64 / (1 << 30) as f64;
            let value = (unit - 0.3) * 10_f64.powi(below(14) as i32 - 6);
            let text = match below(5) {
                0 => format!("{value}"),
                1 => format!("{value:e}"),
                2 => format!("{value:.3}"),
                3 => format!("{:.0}", value.abs()),
                _ => format!("{value:E}"),
            };
            let behind = junk[below(junk.len() as u64) as usize];
            let printed = format!("{text}{behind}");
            let Some(Ok(read)) = written(&printed, "") else { continue };
            let Ok(number) = parse_number(read.number, Decimals::Point) else { continue };
            found += 1;
            let was: f64 = text.parse().unwrap();
            // What was printed behind may be more of the number, and then the whole of it is what was printed.
            let whole: f64 =
                printed.trim_end_matches(|c: char| !c.is_ascii_digit()).parse().unwrap_or(was);
            let near = |a: f64, b: f64| (a - b).abs() <= 1e-12 * b.abs();
            let more = printed.split_at(text.len()).1.replace(',', "");
            let grouped: f64 =
                format!("{text}{}", more.trim_end_matches(|c: char| !c.is_ascii_digit()))
                    .parse()
                    .unwrap_or(was);
            assert!(
                near(number.value, was) || near(number.value, whole) || near(number.value, grouped),
                "{printed}: {} and not {was}",
                number.value
            );
        }
        assert!(found > rounds / 3, "{found}");
    }
}
