//! A sentence read word by word, once it is known where it is said.

use super::names::{ClaimError, FORMS, Names, unclear};
use super::sentence::{Bound, Caution, Saying, Side, Sort};
use crate::record::{Measure, SECONDS, Settings};
use crate::unit::{Unit, parse_span};

pub(super) struct Reader<'a> {
    pub(super) words: &'a [String],
    pub(super) at: usize,
    pub(super) names: &'a Names,
    pub(super) cautions: Vec<Caution>,
}

type Read<T> = Result<T, ClaimError>;

impl Reader<'_> {
    pub(super) fn sentence(&mut self) -> Read<(Saying, Option<String>)> {
        if let Some(measure) = self.measure_of() {
            return self.value_of(measure);
        }
        let of = self.words.iter().position(|word| word.eq_ignore_ascii_case("of"));
        let first = self.peek().is_some_and(|word| self.names.rigs.iter().any(|rig| rig == word));
        if let Some(of) = of.filter(|_| !first) {
            return Err(self.no_measure(&self.words[..of].join(" ")));
        }
        let a = self.side()?;
        if self.word("and") {
            return Ok((self.same(a)?, None));
        }
        if ["takes", "uses", "needs", "has", "draws"].iter().any(|verb| self.word(verb)) {
            return self.amounts(a);
        }
        if !self.word("is") && !self.word("comes") {
            return Err(self.stuck());
        }
        if let Some(place) = self.place(&a) {
            return Ok((place, None));
        }
        if self.word("same") && self.word("as") {
            let b = self.side()?;
            return Ok((Saying::Same { a, b, within: self.within()? }, None));
        }
        Ok((self.ratio(a)?, None))
    }

    /// Reads `and B are the same within 2%`.
    fn same(&mut self, a: Side) -> Read<Saying> {
        let b = self.side()?;
        if !(self.word("are") && (self.word("same") || self.word("equal"))) {
            return Err(self.stuck());
        }
        Ok(Saying::Same { a, b, within: self.within()? })
    }

    fn within(&mut self) -> Read<f64> {
        let share = self.word("within").then(|| self.number()).flatten();
        share.filter(|n| n.percent && n.value > 0.0 && n.value < 1.0).map(|n| n.value).ok_or_else(
            || ClaimError {
                problem: "the same within what?".to_owned(),
                remedy: "two things are never exactly the same: say \"within 2%\"".to_owned(),
            },
        )
    }

    /// Reads `second fastest`, `second to fourth fastest`.
    fn place(&mut self, a: &Side) -> Option<Saying> {
        let begun = self.at;
        let (mut best, mut worst) = (1, 1);
        if let Some(place) = self.ordinal() {
            (best, worst) = (place, place);
            if self.word("to") || self.word("or") {
                worst = self.ordinal().unwrap_or(place);
            }
        }
        let from_last = match () {
            () if self.word("fastest") || self.word("best") => false,
            () if self.word("slowest") || self.word("worst") => true,
            () => {
                self.at = begun;
                return None;
            }
        };
        Some(Saying::Place { a: a.clone(), best, worst, from_last })
    }

    fn ordinal(&mut self) -> Option<usize> {
        const ORDINALS: [&str; 12] = [
            "first", "second", "third", "fourth", "fifth", "sixth", "seventh", "eighth", "ninth",
            "tenth", "eleventh", "twelfth",
        ];
        let word = self.peek()?.to_lowercase();
        let place = ORDINALS.iter().position(|ordinal| *ordinal == word)? + 1;
        self.at += 1;
        Some(place)
    }

    /// Reads `at least 20% faster than B`, `1.6x as fast as B`, `faster than B`.
    fn ratio(&mut self, a: Side) -> Read<Saying> {
        let said = self.bound();
        let number = self.number();
        if let Some(times) = number.as_ref().filter(|n| !n.percent)
            && self.word("as")
        {
            let known = self.word("fast") || self.word("good");
            if !(known && self.word("as")) {
                return Err(self.stuck());
            }
            let (b, bound) = (self.side()?, said.unwrap_or(Bound::About));
            let (sort, ratio, faster_by) = (Sort::Better, times.value, None);
            return Ok(Saying::Ratio { a, b, sort, bound, ratio, faster_by });
        }
        let faster = match () {
            () if self.word("faster") || self.word("better") => true,
            () if self.word("slower") || self.word("worse") => false,
            () => return Err(self.stuck()),
        };
        if !self.word("than") {
            return Err(self.stuck());
        }
        let b = self.side()?;
        let bound = said.unwrap_or(if number.is_some() { Bound::About } else { Bound::Above });
        let (ratio, bound) = match &number {
            None => (1.0, if faster { bound } else { bound.turned() }),
            Some(n) if n.percent && faster => (1.0 + n.value, bound),
            Some(n) if n.percent => {
                let (said, speed) = (n.said.clone(), 1.0 - n.value);
                self.cautions.push(Caution::PercentSlower { said, speed });
                (1.0 - n.value, bound.turned())
            }
            Some(n) => {
                self.cautions.push(Caution::TimesFaster { times: n.value });
                if faster { (n.value, bound) } else { (1.0 / n.value, bound.turned()) }
            }
        };
        if ratio <= 0.0 {
            return Err(self.impossible());
        }
        let faster_by = number.filter(|n| n.percent && faster).map(|n| n.value);
        Ok(Saying::Ratio { a, b, sort: Sort::Better, bound, ratio, faster_by })
    }

    /// Reads `at most half the energy of B`, `20% less time than B`, `at most 40 s`.
    fn amounts(&mut self, a: Side) -> Read<(Saying, Option<String>)> {
        let said = self.bound();
        let begun = self.at;
        if let Some(number) = self.number() {
            let less = match () {
                () if self.word("less") => Some(true),
                () if self.word("more") => Some(false),
                () => None,
            };
            if let Some(less) = less {
                if !number.percent {
                    return Err(self.stuck());
                }
                let measure = self.measure_until("than")?;
                let (b, said) = (self.side()?, said.unwrap_or(Bound::About));
                let (ratio, bound) = match less {
                    true => (1.0 - number.value, said.turned()),
                    false => (1.0 + number.value, said),
                };
                if ratio <= 0.0 {
                    return Err(self.impossible());
                }
                let (sort, faster_by) = (Sort::Values, None);
                let saying = Saying::Ratio { a, b, sort, bound, ratio, faster_by };
                return Ok((saying, Some(measure)));
            }
            self.word("of");
            if self.words[self.at..].iter().any(|word| word.eq_ignore_ascii_case("of")) {
                let measure = self.measure_until("of")?;
                let (b, bound) = (self.side()?, said.unwrap_or(Bound::About));
                let (sort, ratio, faster_by) = (Sort::Values, number.value, None);
                let saying = Saying::Ratio { a, b, sort, bound, ratio, faster_by };
                return Ok((saying, Some(measure)));
            }
        }
        self.at = begun;
        let (value, unit) = self.quantity(SECONDS)?;
        let bound = said.unwrap_or(Bound::About);
        Ok((Saying::Value { a, bound, value, unit }, Some(crate::record::TIME.to_owned())))
    }

    /// Reads `MEASURE of`, if the sentence begins so.
    fn measure_of(&mut self) -> Option<Measure> {
        let of = self.words.iter().position(|word| word.eq_ignore_ascii_case("of"))?;
        let name = self.words[..of].join(" ");
        let known = |measure: &&Measure| measure.name.eq_ignore_ascii_case(&name);
        let measure = self.names.measures.iter().find(known)?.clone();
        self.at = of + 1;
        Some(measure)
    }

    /// Reads `kestrel is above 60 fps`, of `measure`.
    fn value_of(&mut self, measure: Measure) -> Read<(Saying, Option<String>)> {
        let a = self.side()?;
        if !self.word("is") && !self.word("stays") {
            return Err(self.stuck());
        }
        let bound = self.bound().unwrap_or(Bound::About);
        let (value, unit) = self.quantity(&measure.unit)?;
        Ok((Saying::Value { a, bound, value, unit }, Some(measure.name)))
    }

    /// Returns a number in `unit`, which may be left out unless it is a time.
    fn quantity(&mut self, unit: &str) -> Read<(f64, String)> {
        let rest = self.words[self.at..].join(" ");
        if unit == SECONDS {
            let span = parse_span(&rest).map_err(|err| ClaimError {
                problem: err.problem,
                remedy: "write a time with its unit, such as 40 s or 5:41".to_owned(),
            })?;
            self.at = self.words.len();
            return Ok((span.seconds(), SECONDS.to_owned()));
        }
        let digits = rest.find(|c: char| !c.is_ascii_digit() && c != '.').unwrap_or(rest.len());
        let (number, said) = (rest[..digits].parse::<f64>(), rest[digits..].trim());
        let number = number.ok().filter(|n| n.is_finite()).ok_or_else(|| self.stuck())?;
        let times = match (Unit::of(said), Unit::of(unit)) {
            _ if said.is_empty() || said == unit => Some(1.0),
            (Some(said), Some(unit)) => said.in_units_of(unit),
            _ => None,
        };
        let times = times.ok_or_else(|| ClaimError {
            problem: format!("`{said}` is not the unit of this measure"),
            remedy: match unit.is_empty() {
                true => "it is a bare number".to_owned(),
                false => format!("it is kept in {unit}"),
            },
        })?;
        self.at = self.words.len();
        Ok((number * times, unit.to_owned()))
    }

    /// Reads a measure's name and the word behind it.
    fn measure_until(&mut self, word: &str) -> Read<String> {
        let rest = &self.words[self.at..];
        let end = rest.iter().position(|w| w.eq_ignore_ascii_case(word));
        let name = rest[..end.unwrap_or(rest.len())].join(" ");
        let known = |measure: &&Measure| measure.name.eq_ignore_ascii_case(&name);
        match (end, self.names.measures.iter().find(known)) {
            (Some(end), Some(measure)) => {
                self.at += end + 1;
                Ok(measure.name.clone())
            }
            _ => Err(self.no_measure(&name)),
        }
    }

    fn no_measure(&self, name: &str) -> ClaimError {
        let names: Vec<&str> = self.names.measures.iter().map(|m| m.name.as_str()).collect();
        ClaimError {
            problem: format!("`{name}` is not a measure that the laps have"),
            remedy: format!("they have: {}", names.join(", ")),
        }
    }

    fn side(&mut self) -> Read<Side> {
        let Some(rig) = self.peek().map(str::to_owned) else { return Err(self.stuck()) };
        if !self.names.rigs.contains(&rig) {
            return Err(ClaimError {
                problem: format!("`{rig}` is no rig that has laps"),
                remedy: format!("rigs with laps: {}. {FORMS}", self.names.rigs.join(", ")),
            });
        }
        self.at += 1;
        if self.peek() == Some("with") {
            self.at += 1;
        }
        let settings = settings_at(self.words, self.at);
        self.at += settings.iter().count();
        Ok(Side { rig, settings })
    }

    fn bound(&mut self) -> Option<Bound> {
        let begun = self.at;
        let first = self.peek()?.to_lowercase();
        self.at += 1;
        let found = match first.as_str() {
            "at" if self.word("least") => Some(Bound::AtLeast),
            "at" if self.word("most") => Some(Bound::AtMost),
            "more" | "less" if !self.word("than") => None,
            "more" | "above" | "over" => Some(Bound::AtLeast),
            "less" | "below" | "under" => Some(Bound::AtMost),
            "about" | "roughly" | "around" => Some(Bound::About),
            _ => None,
        };
        if found.is_none() {
            self.at = begun;
        }
        found
    }

    /// Reads `20%`, `1.6×`, `3 times`, `half`, `twice`.
    fn number(&mut self) -> Option<Number> {
        let said = self.peek()?.to_lowercase();
        let named = [
            ("half", 0.5),
            ("third", 1.0 / 3.0),
            ("quarter", 0.25),
            ("twice", 2.0),
            ("double", 2.0),
            ("thrice", 3.0),
        ];
        let plain = |value| Number { value, percent: false, said: said.clone() };
        if let Some((_, value)) = named.iter().find(|(name, _)| *name == said) {
            self.at += 1;
            return Some(plain(*value));
        }
        let begun = self.at;
        self.at += 1;
        let share = said.strip_suffix('%').map(str::to_owned).or_else(|| {
            let sign = ["%", "percent"].iter().any(|sign| self.word(sign));
            sign.then(|| said.clone())
        });
        let times = said.strip_suffix(['x', '×']).map(str::to_owned).or_else(|| {
            let sign = ["x", "×", "times"].iter().any(|sign| self.word(sign));
            sign.then(|| said.clone())
        });
        let value = |text: &str| text.parse::<f64>().ok().filter(|n| n.is_finite() && *n >= 0.0);
        let found = match (share, times) {
            (Some(text), _) => {
                let said = format!("{text} %");
                value(&text).map(|n| Number { value: n / 100.0, percent: true, said })
            }
            (None, Some(text)) => value(&text).filter(|n| *n > 0.0).map(plain),
            (None, None) => None,
        };
        if found.is_none() {
            self.at = begun;
        }
        found
    }

    fn word(&mut self, word: &str) -> bool {
        let here = self.peek().is_some_and(|found| found.eq_ignore_ascii_case(word));
        self.at += usize::from(here);
        here
    }

    fn peek(&self) -> Option<&str> {
        self.words.get(self.at).map(String::as_str)
    }

    fn stuck(&self) -> ClaimError {
        match self.words.get(self.at..).filter(|rest| !rest.is_empty()) {
            Some(rest) => unclear(&rest.join(" ")),
            None => ClaimError {
                problem: "the sentence ends too soon".to_owned(),
                remedy: FORMS.to_owned(),
            },
        }
    }

    fn impossible(&self) -> ClaimError {
        ClaimError {
            problem: "nothing is left of it: 100 % slower would be at rest".to_owned(),
            remedy: "say how many times as fast it is, such as 0.4x as fast".to_owned(),
        }
    }
}

#[derive(Clone)]
struct Number {
    value: f64,
    percent: bool,
    said: String,
}

/// Returns the settings that stand at `at`: words such as `threads=2`.
pub(super) fn settings_at(words: &[String], at: usize) -> Settings {
    let pairs = words[at.min(words.len())..].iter().map_while(|word| word.split_once('='));
    Settings::new(pairs.map(|(key, value)| (key.to_owned(), value.to_owned())).collect())
}
