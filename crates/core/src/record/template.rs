//! Text with placeholders: `--threads {threads}`, filled in for each variant and lap.

use serde::{Deserialize, Serialize};

/// A text whose `{name}` places are filled in later; `{{` and `}}` stand for braces.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(into = "String", try_from = "String")]
pub struct Template {
    source: String,
    pieces: Vec<Piece>,
}

#[derive(Clone, Debug, PartialEq, Eq)]
pub(super) enum Piece {
    Text(String),
    Place(String),
}

/// Why a text is not a template.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
pub enum TemplateError {
    /// A `{` is never closed.
    #[error("`{{` at character {at} is never closed")]
    Open {
        /// Character position, from 1.
        at: usize,
    },
    /// A `}` was never opened.
    #[error("`}}` at character {at} was never opened")]
    Close {
        /// Character position, from 1.
        at: usize,
    },
    /// A place has no usable name.
    #[error("`{{{name}}}` is not a placeholder: a name has letters, digits, `-` and `_`")]
    Name {
        /// What stands between the braces.
        name: String,
    },
}

/// A placeholder that has no value.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
#[error("placeholder `{{{name}}}` has no value")]
pub struct Unfilled {
    /// The placeholder's name.
    pub name: String,
}

impl Template {
    /// Returns the template that `source` writes.
    ///
    /// * Errors: [`TemplateError`] where a brace is left open or holds no name.
    pub fn parse(source: &str) -> Result<Self, TemplateError> {
        let mut pieces = Vec::new();
        let mut text = String::new();
        let mut chars = source.chars().enumerate().peekable();
        while let Some((at, c)) = chars.next() {
            match c {
                '{' | '}' if chars.next_if(|&(_, next)| next == c).is_some() => text.push(c),
                '}' => return Err(TemplateError::Close { at: at + 1 }),
                '{' => {
                    let mut name = String::new();
                    loop {
                        match chars.next() {
                            Some((_, '}')) => break,
                            Some((_, c)) => name.push(c),
                            None => return Err(TemplateError::Open { at: at + 1 }),
                        }
                    }
                    if !is_name(&name) {
                        return Err(TemplateError::Name { name });
                    }
                    if !text.is_empty() {
                        pieces.push(Piece::Text(std::mem::take(&mut text)));
                    }
                    pieces.push(Piece::Place(name));
                }
                c => text.push(c),
            }
        }
        if !text.is_empty() {
            pieces.push(Piece::Text(text));
        }
        Ok(Self { source: source.to_owned(), pieces })
    }

    /// Returns the names of all places, in order, repeats included.
    pub fn places(&self) -> impl Iterator<Item = &str> {
        self.pieces.iter().filter_map(|piece| match piece {
            Piece::Place(name) => Some(name.as_str()),
            Piece::Text(_) => None,
        })
    }

    pub(super) fn pieces(&self) -> impl Iterator<Item = &Piece> {
        self.pieces.iter()
    }

    /// Returns the text with each place, told by which one it is, filled by `value`.
    ///
    /// * Errors: [`Unfilled`] with the first place that has no value.
    pub fn fill_each(
        &self,
        mut value: impl FnMut(usize, &str) -> Option<String>,
    ) -> Result<String, Unfilled> {
        let mut out = String::new();
        let mut place = 0..;
        for piece in &self.pieces {
            match piece {
                Piece::Text(text) => out.push_str(text),
                Piece::Place(name) => {
                    let filled = place.next().and_then(|at| value(at, name));
                    out.push_str(&filled.ok_or_else(|| Unfilled { name: name.clone() })?);
                }
            }
        }
        Ok(out)
    }

    /// Returns the text with every place filled by `value`.
    ///
    /// * Errors: as of [`Self::fill_each`].
    pub fn fill<'a>(&self, value: impl Fn(&str) -> Option<&'a str>) -> Result<String, Unfilled> {
        self.fill_each(|_, name| value(name).map(str::to_owned))
    }

    /// Returns the text as it was written.
    pub fn source(&self) -> &str {
        &self.source
    }
}

/// Returns whether `name` can name a placeholder or a varied setting.
pub fn is_name(name: &str) -> bool {
    name.starts_with(|c: char| c.is_ascii_alphabetic())
        && name.chars().all(|c| c.is_ascii_alphanumeric() || c == '-' || c == '_')
}

impl From<Template> for String {
    fn from(template: Template) -> Self {
        template.source
    }
}

impl TryFrom<String> for Template {
    type Error = TemplateError;
    fn try_from(source: String) -> Result<Self, TemplateError> {
        Self::parse(&source)
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    #[test]
    fn fills_places_and_keeps_doubled_braces() {
        let template = Template::parse("--threads={threads} '{{}}' {lap_dir}/a").unwrap();
        assert_eq!(template.places().collect::<Vec<_>>(), ["threads", "lap_dir"]);
        let filled = template.fill(|name| Some(if name == "threads" { "8" } else { "/tmp/x" }));
        assert_eq!(filled.unwrap(), "--threads=8 '{}' /tmp/x/a");
        assert_eq!(template.fill(|_| None).unwrap_err().name, "threads");
    }

    #[test]
    fn says_where_braces_go_wrong() {
        assert_eq!(Template::parse("ab{c"), Err(TemplateError::Open { at: 3 }));
        assert_eq!(Template::parse("ab}c"), Err(TemplateError::Close { at: 3 }));
        assert_eq!(Template::parse("{a b}"), Err(TemplateError::Name { name: "a b".into() }));
        assert!(Template::parse("{}").is_err());
    }

    proptest! {
        #[test]
        fn text_without_braces_is_left_alone(text in "[^{}]{0,40}") {
            let template = Template::parse(&text).unwrap();
            prop_assert_eq!(template.fill(|_| None).unwrap(), text);
        }

        #[test]
        fn never_panics(text in "[{}a-z_ ]{0,20}") {
            let _ = Template::parse(&text);
        }
    }
}
