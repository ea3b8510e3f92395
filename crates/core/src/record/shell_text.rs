//! Where placeholders stand in a text for the shell, so that each value stays one word and is never run.
//!
//! ```text
//! plain             cp {file}        cp 'a b'
//! in double quotes  cp "x/{file}"    cp "x/"'a b'""
//! in single quotes  cp 'x/{file}'    cp 'x/''a b'''
//! ```
//!
//! Where a value could not be quoted so, the text is refused: in backquotes, comments, `${…}`, `$((…))`, behind `<<`,
//! behind a backslash or a dollar sign.
//!
//! Source: POSIX.1-2024, Shell Command Language, 2.2 Quoting and 2.3 Token Recognition.

use super::template::{Piece, Template};

/// Where a placeholder stands.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Standing {
    /// Among words.
    Plain,
    /// Within double quotes.
    Double,
    /// Within single quotes.
    Single,
}

impl Standing {
    /// Returns a value that is `quoted` as a word of its own such that it stands here as part of what stands around it.
    pub fn around(self, quoted: &str) -> String {
        match self {
            Self::Plain => quoted.to_owned(),
            Self::Double => format!("\"{quoted}\""),
            Self::Single => format!("'{quoted}'"),
        }
    }
}

/// A placeholder whose value could not be quoted.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
#[error("`{{{name}}}` stands {place}, where its value cannot be quoted")]
pub struct Unquotable {
    /// Its name.
    pub name: String,
    /// Where it stands, in words.
    pub place: &'static str,
}

/// What the shell is reading.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Reading {
    /// Words; within brackets, or within `$(…)`.
    Words(Bracket),
    Double,
    Single,
    Backquotes,
    /// `${…}`.
    Parameter,
    /// `$((…))`, with so many brackets open.
    Arithmetic(u32),
    Comment,
}

#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Bracket {
    None,
    Group,
    Substitution,
}

/// Returns where each placeholder of `line` stands, in order.
///
/// * Errors: [`Unquotable`] where a value could be run, or could not be quoted.
pub fn standings(line: &Template) -> Result<Vec<Standing>, Unquotable> {
    let mut shell = Shell {
        stack: vec![Reading::Words(Bracket::None)],
        before: '\n',
        document: Document::None,
        lost: None,
    };
    // `case` closes brackets that it does not open; what is within `$(…)` then is not known.
    let text: String =
        line.pieces().map(|piece| if let Piece::Text(text) = piece { text } else { " " }).collect();
    let muddled = text.contains("$(")
        && text.split(|c: char| !c.is_alphanumeric()).any(|word| word == "case");
    let mut all = Vec::new();
    for piece in line.pieces() {
        match piece {
            Piece::Text(text) => shell.read(text),
            Piece::Place(name) => {
                let place =
                    if muddled { Err("beside both `case` and `$(`") } else { shell.standing() };
                all.push(place.map_err(|place| Unquotable { name: name.clone(), place })?);
                shell.before = 'x';
            }
        }
    }
    Ok(all)
}

/// Whether a here-document has been begun.
#[derive(Clone, Copy, PartialEq, Eq)]
enum Document {
    None,
    /// On this line: it begins on the next one.
    Announced,
    Begun,
}

struct Shell {
    stack: Vec<Reading>,
    /// The character before.
    before: char,
    document: Document,
    /// Why it is no longer known what is being read, once it is not.
    lost: Option<&'static str>,
}

impl Shell {
    fn now(&self) -> Reading {
        self.stack.last().copied().unwrap_or(Reading::Words(Bracket::None))
    }

    fn standing(&self) -> Result<Standing, &'static str> {
        if let Some(place) = self.lost {
            return Err(place);
        }
        match (self.before, self.document, self.now()) {
            (_, Document::Begun, _) => Err("behind `<<`"),
            (_, _, Reading::Single) => Ok(Standing::Single),
            (_, _, Reading::Backquotes) => Err("in backquotes"),
            (_, _, Reading::Parameter) => Err("in `${…}`"),
            (_, _, Reading::Arithmetic(_)) => Err("in `$((…))`"),
            (_, _, Reading::Comment) => Err("in a comment"),
            ('\\', ..) => Err("behind a backslash"),
            ('$', ..) => Err("behind a dollar sign"),
            (_, _, Reading::Double) => Ok(Standing::Double),
            (_, _, Reading::Words(_)) => Ok(Standing::Plain),
        }
    }

    fn read(&mut self, text: &str) {
        let mut chars = text.chars().peekable();
        while let Some(c) = chars.next() {
            // Quotes within `${…}` go by rules of their own, which shells do not agree on.
            if self.now() == Reading::Parameter && matches!(c, '\'' | '"' | '\\') {
                self.lost = Some("behind quotes in `${…}`");
            }
            // What a backslash quotes means nothing; within single quotes a backslash means nothing itself.
            if self.before == '\\' && self.now() != Reading::Single {
                self.before = 'x';
                continue;
            }
            let dollar = self.before == '$' && self.now() != Reading::Single;
            match (self.now(), c) {
                (Reading::Single, '\'')
                | (Reading::Double, '"')
                | (Reading::Backquotes, '`')
                | (Reading::Parameter, '}') => self.close(),
                (Reading::Comment, '\n') => self.close(),
                (Reading::Single | Reading::Comment | Reading::Backquotes, _) => {}
                (Reading::Arithmetic(open), '(') => self.replace(Reading::Arithmetic(open + 1)),
                (Reading::Arithmetic(1), ')') => self.close(),
                (Reading::Arithmetic(open), ')') => self.replace(Reading::Arithmetic(open - 1)),
                (Reading::Arithmetic(_), _) => {}
                (_, '`') => self.stack.push(Reading::Backquotes),
                (_, '(') if dollar && chars.peek() == Some(&'(') => {
                    chars.next();
                    self.stack.push(Reading::Arithmetic(2));
                }
                (_, '(') if dollar => self.stack.push(Reading::Words(Bracket::Substitution)),
                (_, '{') if dollar => self.stack.push(Reading::Parameter),
                (Reading::Double | Reading::Parameter, _) => {}
                (Reading::Words(_), '"') => self.stack.push(Reading::Double),
                (Reading::Words(_), '\'') => self.stack.push(Reading::Single),
                (Reading::Words(_), '#') if self.begins_a_word() => {
                    self.stack.push(Reading::Comment)
                }
                (Reading::Words(_), '(') => self.stack.push(Reading::Words(Bracket::Group)),
                (Reading::Words(Bracket::Group | Bracket::Substitution), ')') => self.close(),
                (Reading::Words(_), '<') if self.before == '<' => {
                    self.document = Document::Announced
                }
                (Reading::Words(_), _) => {}
            }
            if c == '\n' && self.document == Document::Announced {
                self.document = Document::Begun;
            }
            self.before = c;
        }
    }

    fn begins_a_word(&self) -> bool {
        self.before.is_whitespace()
            || matches!(self.before, ';' | '&' | '|' | '(' | ')' | '<' | '>')
    }

    fn close(&mut self) {
        self.stack.pop();
    }

    fn replace(&mut self, reading: Reading) {
        self.close();
        self.stack.push(reading);
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn of(text: &str) -> Result<Vec<Standing>, &'static str> {
        standings(&Template::parse(text).unwrap()).map_err(|err| err.place)
    }

    #[test]
    fn a_place_is_told_by_what_stands_around_it() {
        use Standing::{Double, Plain, Single};
        for (text, wanted) in [
            ("cp {a} \"x/{b}\" 'y/{c}'", vec![Plain, Double, Single]),
            ("a \\\" {b} \"c \\\" {d}\"", vec![Plain, Double]),
            ("'a\\' {b}", vec![Plain]),
            ("\"$(cat \"{a}\" {b})/{c}\"", vec![Double, Plain, Double]),
            ("(cd {a}; ls) | wc '{b}'", vec![Plain, Single]),
            ("a#{b} # done", vec![Plain]),
            ("case {a} in x) true;; esac; echo \"{b}\"", vec![Plain, Double]),
            ("echo $((1 + 2)) ${{HOME}} {a}", vec![Plain]),
            ("cat <<END {a}\nx\nEND\n", vec![Plain]),
            ("\"it's {a}\"", vec![Double]),
            ("'\"' {a}", vec![Plain]),
        ] {
            assert_eq!(of(text), Ok(wanted), "{text}");
        }
    }

    #[test]
    fn a_place_where_a_value_could_run_is_refused() {
        for (text, wanted) in [
            ("echo `cat {a}`", "in backquotes"),
            ("x # {a}", "in a comment"),
            ("echo ${{x:-{a}}}", "in `${…}`"),
            ("echo $((1 + {a}))", "in `$((…))`"),
            ("cat <<END\n{a}\nEND", "behind `<<`"),
            ("x=${{y:-'}}'}} {a}", "behind quotes in `${…}`"),
            ("echo \\{a}", "behind a backslash"),
            ("echo ${a}", "behind a dollar sign"),
            ("echo \"${a}\"", "behind a dollar sign"),
            ("x=$(case y in y) echo {a};; esac)", "beside both `case` and `$(`"),
        ] {
            assert_eq!(of(text), Err(wanted), "{text}");
        }
    }
}
