//! What a page must not give away: names of machines and people, serials, paths.
//!
//! Pure: texts in, texts out. Whatever is found is replaced by a word in brackets, the same one each time, so
//! that what was said of one machine is still said of one machine.

use crate::words::{count, listed};
use regex::{Captures, Regex};
use std::collections::BTreeMap;
use std::rc::Rc;

/// A path: from the root, from home, or from a run. A unit such as `1/min` is none.
const PATH: &str = r#"(?x)
    (^|[\s"'`=(\[,;:<>])
    ( ~?(?:/[^\s"'`,;:()\[\]<>/{}]+){2,}/?
    | /(?:home|root|tmp|mnt|media|opt|srv|usr|var|Users)\b[^\s"'`,;:()\[\]<>]*
    | ~/[^\s"'`,;:()\[\]<>]*
    | [A-Za-z]:\\[^\s"'`<>]+ )"#;

/// A person's own folder, whose name is theirs.
const HOME: &str = r"(?:/home/|/Users/|[A-Za-z]:\\Users\\)([^/\\\s,;:]+)";

/// What tells one machine from all others: identifiers and hardware addresses.
const SERIAL: &str = r"(?xi)
    \b[0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{12}\b
    | \b[0-9a-f]{2}(?::[0-9a-f]{2}){5}\b";

/// Names shorter than this would be found in every other word.
const LEAST_LETTERS: usize = 2;

/// Accounts that half the machines of the world have; they name nobody.
const NOBODY: [&str; 4] = ["root", "user", "nobody", "admin"];

/// What to leave out.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub enum Kind {
    Machine,
    Person,
    Serial,
    Path,
}

impl Kind {
    const ALL: [Self; 4] = [Self::Machine, Self::Person, Self::Serial, Self::Path];

    /// Returns what stands in its place, and what it is.
    fn words(self) -> (&'static str, &'static str) {
        match self {
            Self::Machine => ("machine", "machine name"),
            Self::Person => ("person", "personal name"),
            Self::Serial => ("serial", "serial"),
            Self::Path => ("path", "path"),
        }
    }
}

/// Leaves out what names machines and people.
///
/// Its patterns are shared and never copied: a copy has to build up all over again what it searches by.
pub struct Anonymous {
    known: Vec<(Kind, Rc<Regex>)>,
    path: Rc<Regex>,
    home: Regex,
    serial: Rc<Regex>,
    /// What was left out, and the word that stands for it.
    out: BTreeMap<(Kind, String), String>,
}

impl Anonymous {
    /// Returns one that knows these names; paths, people's folders and serials it finds by their form.
    pub fn knowing(names: &[(Kind, String)]) -> Self {
        let worth = |(_, name): &&(Kind, String)| {
            name.chars().count() >= LEAST_LETTERS && !NOBODY.contains(&name.as_str())
        };
        let mut names: Vec<&(Kind, String)> = names.iter().filter(worth).collect();
        // The longest first: `ada-laptop` is not `ada` with something behind it.
        names.sort_by_key(|(_, name)| std::cmp::Reverse(name.len()));
        let fixed = |pattern: &str| Regex::new(pattern).expect("a fixed pattern");
        Self {
            known: names.into_iter().map(|(kind, name)| (*kind, whole(name))).collect(),
            path: Rc::new(fixed(PATH)),
            home: fixed(HOME),
            serial: Rc::new(fixed(SERIAL)),
            out: BTreeMap::new(),
        }
    }

    /// Returns `text` without what it must not give away.
    ///
    /// Whose folder is met is known from then on: a page is gone over twice, so that a name ahead of it goes too.
    pub fn put(&mut self, text: &str) -> String {
        let people: Vec<String> =
            self.home.captures_iter(text).map(|found| found[1].to_owned()).collect();
        for person in people.iter().filter(|person| !NOBODY.contains(&person.as_str())) {
            if !self.out.contains_key(&(Kind::Person, person.clone())) {
                self.stand_in(Kind::Person, person);
                self.known.push((Kind::Person, whole(person)));
            }
        }
        let (path, serial) = (Rc::clone(&self.path), Rc::clone(&self.serial));
        let text = path.replace_all(text, |found: &Captures<'_>| {
            format!("{}{}", &found[1], self.stand_in(Kind::Path, &found[2]))
        });
        let mut text = serial
            .replace_all(&text, |found: &Captures<'_>| self.stand_in(Kind::Serial, &found[0]))
            .into_owned();
        for (kind, name) in self.known.clone() {
            let put = |found: &Captures<'_>| self.stand_in(kind, &found[0]);
            text = name.replace_all(&text, put).into_owned();
        }
        text
    }

    /// Returns what was left out, counted by kind; nothing of it is named.
    pub fn left_out(&self) -> String {
        let of = |kind: Kind| self.out.keys().filter(|(k, _)| *k == kind).count();
        let counts = Kind::ALL.map(|kind| (of(kind), kind.words().1));
        let some: Vec<String> = counts
            .iter()
            .filter(|(number, _)| *number > 0)
            .map(|(number, words)| count(*number, words))
            .collect();
        match some.is_empty() {
            true => {
                "nothing: no names of machines or people, serials or paths were found".to_owned()
            }
            false => listed(&some),
        }
    }

    fn stand_in(&mut self, kind: Kind, found: &str) -> String {
        let number = self.out.keys().filter(|(k, _)| *k == kind).count() + 1;
        let word = || format!("[{} {number}]", kind.words().0);
        self.out.entry((kind, found.to_owned())).or_insert_with(word).clone()
    }
}

/// Returns what finds `name` where it is not part of a longer word.
fn whole(name: &str) -> Rc<Regex> {
    let edge = |c: Option<char>| if c.is_some_and(char::is_alphanumeric) { r"\b" } else { "" };
    let (first, last) = (edge(name.chars().next()), edge(name.chars().last()));
    let pattern = format!("{first}{}{last}", regex::escape(name));
    Rc::new(Regex::new(&pattern).expect("an escaped name"))
}

#[cfg(test)]
mod tests {
    use super::*;

    fn anonymous() -> Anonymous {
        Anonymous::knowing(&[
            (Kind::Machine, "ada-laptop".into()),
            (Kind::Person, "Ada".into()),
            (Kind::Person, "root".into()),
            (Kind::Serial, "QX-1234".into()),
        ])
    }

    #[test]
    fn names_serials_and_paths_go_and_what_was_measured_stays() {
        let cases = [
            ("read by Ada on ada-laptop", "read by [person 1] on [machine 1]"),
            ("Adamant, Canada", "Adamant, Canada"),
            ("cannot write /home/ada/shows/dome.png: full", "cannot write [path 1]: full"),
            ("renderer = [\"/opt/dome/bin/still\"]", "renderer = [\"[path 1]\"]"),
            ("~/shows, C:\\Users\\ada\\x and /tmp", "[path 1], [path 2] and [path 3]"),
            ("serial QX-1234, at 0a:1b:2c:3d:4e:5f", "serial [serial 2], at [serial 1]"),
            (
                "10.2 hitches 1/min, 4.2 Mpixel/s, 19/20 laps",
                "10.2 hitches 1/min, 4.2 Mpixel/s, 19/20 laps",
            ),
            ("{lap_dir}/still.png by root", "{lap_dir}/still.png by root"),
        ];
        for (text, wanted) in cases {
            assert_eq!(anonymous().put(text), wanted);
        }
    }

    #[test]
    fn one_name_has_one_word_and_all_is_counted() {
        let mut one = anonymous();
        assert_eq!(one.put("/home/bo/a/x and /home/bo/a/y"), "[path 1] and [path 2]");
        assert_eq!(one.put("/home/bo/a/y by Ada"), "[path 2] by [person 2]");
        assert_eq!(one.put("bo's machine"), "[person 1]'s machine", "known from the folder");
        assert_eq!(one.left_out(), "2 personal names and 2 paths");
        assert!(anonymous().left_out().starts_with("nothing"));
    }
}
