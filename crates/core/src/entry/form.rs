//! How the cells of a column are written, as its heading says: `[s]`, `(m:ss)`, `, fps`.

use crate::unit::{Dimension, Unit};

/// How the cells of a column are written.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Form {
    /// As numbers of a unit.
    Unit(String),
    /// As minutes and seconds: `7:52`, which a spreadsheet may have made `7:52:00`.
    MinutesSeconds,
    /// As hours and minutes: `7:52`.
    HoursMinutes,
    /// As hours, minutes and seconds: `0:07:52`.
    HoursMinutesSeconds,
}

impl Form {
    /// Returns the form that `text` spells; `declared` are units of the study's own.
    pub fn parse(text: &str, declared: &[&str]) -> Option<Self> {
        let text = text.trim();
        let small = text.to_lowercase().replace(' ', "");
        let clock = match small.as_str() {
            "m:s" | "m:ss" | "mm:ss" | "min:s" | "min:sec" | "m:ss.s" | "mm:ss.s" => {
                Self::MinutesSeconds
            }
            "h:m" | "h:mm" | "hh:mm" | "h:min" => Self::HoursMinutes,
            "h:m:s" | "h:mm:ss" | "hh:mm:ss" => Self::HoursMinutesSeconds,
            _ => return unit(text, declared).map(Self::Unit),
        };
        Some(clock)
    }
}

/// Returns the unit that `text` spells: known, of the study, or known where capitals do not matter.
fn unit(text: &str, declared: &[&str]) -> Option<String> {
    let text = text.trim_end_matches('.');
    if let Some(own) = declared.iter().find(|own| !own.is_empty() && own.eq_ignore_ascii_case(text))
    {
        return Some((*own).to_owned());
    }
    let small = text.to_lowercase();
    let known = Unit::of(text).or_else(|| Unit::of_dimension(&small, Dimension::Time));
    // Seconds and frames have no capital of another meaning; bytes and watts do.
    let known =
        known.or_else(|| Unit::of(&small).filter(|unit| unit.dimension == Dimension::FrameRate));
    known.map(|unit| unit.symbol.to_owned())
}

/// Returns the ways in which a heading may be read, likeliest first: its words, and the form that they end in.
///
/// ```text
/// Scene 1 [s]   →  (Scene 1, s) (Scene 1 [s], –)
/// Scene 1, secs →  (Scene 1, secs) …     Scene 1 in min → (Scene 1, min) …
/// ```
pub(super) fn readings<'t>(text: &'t str, declared: &[&str]) -> Vec<(&'t str, Option<Form>)> {
    let text = text.trim();
    let mut ways = Vec::new();
    if let Some((name, within)) = text.rsplit_once(['[', '(']) {
        let form = within.strip_suffix([']', ')']).and_then(|inner| Form::parse(inner, declared));
        if form.is_some() {
            ways.push((name.trim(), form));
        }
    }
    ways.push((text, None));
    if let Some((name, last)) = text.rsplit_once([',', ' ', '/', ':']) {
        let name = name.trim().trim_end_matches([',', ':', '/']);
        let name = name.strip_suffix(" in").unwrap_or(name).trim();
        if let (Some(form), false) = (Form::parse(last, declared), name.is_empty()) {
            ways.push((name, Some(form)));
        }
    }
    ways
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_heading_says_how_its_cells_are_written() {
        let of = |text: &'static str| {
            readings(text, &["points"]).into_iter().find(|way| way.1.is_some())
        };
        let unit = |symbol: &str| Some(Form::Unit(symbol.to_owned()));
        for (text, name, form) in [
            ("Scene 1 [s]", "Scene 1", unit("s")),
            ("Scene 1 (Secs)", "Scene 1", unit("s")),
            ("Scene 1, secs", "Scene 1", unit("s")),
            ("Scene 1 in Min.", "Scene 1", unit("min")),
            ("still (m:ss)", "still", Some(Form::MinutesSeconds)),
            ("tunnel (low) [s]", "tunnel (low)", unit("s")),
            ("still [HH:MM]", "still", Some(Form::HoursMinutes)),
            ("score (Points)", "score", unit("points")),
            ("rings [FPS]", "rings", unit("fps")),
            ("time (m)", "time", unit("min")),
            ("copy [MB]", "copy", unit("MB")),
        ] {
            assert_eq!(of(text), Some((name, form)), "{text}");
        }
        assert_eq!(of("Scene 1 (night)"), None);
        assert_eq!(of("s"), None, "a unit alone is a name");
    }
}
