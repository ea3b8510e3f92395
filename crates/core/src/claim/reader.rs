//! A sentence read word by word, once it is known where it is said.

use super::names::{ClaimError, FORMS};
use super::number::Number;
use super::sentence::{Bound, Caution, Saying, Side, Sort};
use super::words::{Read, Reader};
use crate::record::{Measure, Settings};
use crate::unit::Unit;

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
        if self.word("beats") {
            return Ok((self.ahead(a, true)?, None));
        }
        if self.word("trails") {
            return Ok((self.ahead(a, false)?, None));
        }
        if ["takes", "uses", "needs", "has", "draws"].iter().any(|verb| self.word(verb)) {
            return self.amounts(a);
        }
        const REACHES: [&str; 9] =
            ["runs", "reaches", "gets", "hits", "stays", "holds", "scores", "delivers", "averages"];
        let scores = self.peek().is_some_and(|word| word.eq_ignore_ascii_case("scores"));
        if REACHES.iter().any(|verb| self.word(verb)) {
            return self.reached(a, scores);
        }
        if self.word("plays") && self.word("in") && self.word("real") && self.word("time") {
            let measure = self.measure_named("plays on time")?;
            let (bound, unit) = (Bound::AtLeast, measure.unit);
            return Ok((Saying::Value { a, bound, value: 100.0, unit }, Some(measure.name)));
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

    /// Reads `B`, `B by at least 20%` behind `beats` or `trails`.
    fn ahead(&mut self, a: Side, faster: bool) -> Read<Saying> {
        let b = self.side()?;
        let (said, number) = self.by();
        self.faster_than(a, b, faster, (said, number))
    }

    /// Reads `by at least 20%`, where it stands.
    fn by(&mut self) -> (Option<Bound>, Option<Number>) {
        if !self.word("by") {
            return (None, None);
        }
        (self.bound(), self.number())
    }

    /// Reads `60 fps`, `above 8000 points`: of the measure whose unit that is.
    fn reached(&mut self, a: Side, scores: bool) -> Read<(Saying, Option<String>)> {
        let bound = self.bound().unwrap_or(Bound::About);
        let rest = self.words[self.at..].join(" ");
        let unit = rest.trim_start_matches(|c: char| c.is_ascii_digit() || ".%".contains(c)).trim();
        let of_unit = |measure: &&Measure| !unit.is_empty() && in_unit(measure, unit);
        let score = |measure: &&Measure| scores && unit.is_empty() && measure.name == "score";
        let found = self.names.measures.iter().find(|measure| of_unit(measure) || score(measure));
        let measure = found.ok_or_else(|| self.no_measure(&rest))?.clone();
        let (value, unit) = self.quantity(&measure.unit)?;
        Ok((Saying::Value { a, bound, value, unit }, Some(measure.name)))
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
            // `third` alone is a place from the top.
            () if self.at > begun && self.at == self.words.len() => false,
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

    /// Reads `at least 20% faster than B`, `1.6x as fast as B`, `as fast as B`, `faster than B by 20%`.
    fn ratio(&mut self, a: Side) -> Read<Saying> {
        let said = self.bound();
        if let Some((low, high)) = self.range() {
            return self.ratio_between(a, (low, high));
        }
        let number = self.number();
        if number.as_ref().is_none_or(|number| !number.percent) && self.word("as") {
            if self.word("long") && self.word("as") {
                let b = self.side()?;
                let (bound, ratio) =
                    (said.unwrap_or(Bound::About), number.map_or(1.0, |n| n.value));
                let (sort, faster_by) = (Sort::Values, None);
                return Ok(Saying::Ratio { a, b, sort, bound, ratio, faster_by });
            }
            let known = self.word("fast") || self.word("good");
            if !(known && self.word("as")) {
                return Err(self.stuck());
            }
            let (b, bound) = (self.side()?, said.unwrap_or(Bound::About));
            let (sort, ratio, faster_by) = (Sort::Better, number.map_or(1.0, |n| n.value), None);
            return Ok(Saying::Ratio { a, b, sort, bound, ratio, faster_by });
        }
        let faster = self.faster()?;
        if !self.word("than") {
            return Err(self.stuck());
        }
        let b = self.side()?;
        let (said, number) = match number {
            Some(number) => (said, Some(number)),
            None => match self.by() {
                (_, None) => (said, None),
                (bound, number) => (bound.or(said), number),
            },
        };
        self.faster_than(a, b, faster, (said, number))
    }

    fn faster(&mut self) -> Read<bool> {
        match () {
            () if self.word("faster") || self.word("better") => Ok(true),
            () if self.word("slower") || self.word("worse") => Ok(false),
            () => Err(self.stuck()),
        }
    }

    /// Reads `faster than B`, `as fast as B` behind `between 20 and 30%`.
    fn ratio_between(&mut self, a: Side, (low, high): (Number, Number)) -> Read<Saying> {
        let as_fast = !low.percent && self.word("as");
        if as_fast && !((self.word("fast") || self.word("good")) && self.word("as")) {
            return Err(self.stuck());
        }
        let faster = as_fast || self.faster()?;
        if !as_fast && !self.word("than") {
            return Err(self.stuck());
        }
        let b = self.side()?;
        let (from, to) = match (low.percent, faster) {
            (true, true) => (1.0 + low.value, 1.0 + high.value),
            (true, false) => (1.0 - high.value, 1.0 - low.value),
            (false, true) => (low.value, high.value),
            (false, false) => (high.value.recip(), low.value.recip()),
        };
        self.between(a, b, Sort::Better, (from, to))
    }

    pub(super) fn between(
        &self,
        a: Side,
        b: Side,
        sort: Sort,
        (from, to): (f64, f64),
    ) -> Read<Saying> {
        if !(0.0 < from && from < to) {
            return Err(self.impossible());
        }
        let (bound, ratio, faster_by) = (Bound::Between(to), from, None);
        Ok(Saying::Ratio { a, b, sort, bound, ratio, faster_by })
    }

    /// Returns that `a` is ahead of `b`, or behind it, by so much where that is said.
    fn faster_than(
        &mut self,
        a: Side,
        b: Side,
        faster: bool,
        (said, number): (Option<Bound>, Option<Number>),
    ) -> Read<Saying> {
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

    /// Reads a measure's name and the word behind it.
    pub(super) fn measure_until(&mut self, word: &str) -> Read<String> {
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

    /// Returns the measure called `name`.
    pub(super) fn known_measure(&self, name: &str) -> Option<Measure> {
        self.names.measures.iter().find(|m| m.name.eq_ignore_ascii_case(name)).cloned()
    }

    fn measure_named(&self, name: &str) -> Read<Measure> {
        self.known_measure(name).ok_or_else(|| self.no_measure(name))
    }

    fn no_measure(&self, name: &str) -> ClaimError {
        let names: Vec<&str> = self.names.measures.iter().map(|m| m.name.as_str()).collect();
        ClaimError {
            problem: format!("`{name}` is not a measure that the laps have"),
            remedy: format!("they have: {}", names.join(", ")),
        }
    }

    pub(super) fn side(&mut self) -> Read<Side> {
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

    pub(super) fn impossible(&self) -> ClaimError {
        ClaimError {
            problem: "nothing is left of it: 100 % slower would be at rest".to_owned(),
            remedy: "say how many times as fast it is, such as 0.4x as fast".to_owned(),
        }
    }
}

/// Returns whether values of `measure` may be said in `unit`.
pub(super) fn in_unit(measure: &Measure, unit: &str) -> bool {
    let alike = Unit::of(unit).zip(Unit::of(&measure.unit));
    measure.unit == unit || alike.is_some_and(|(said, kept)| said.in_units_of(kept).is_some())
}

/// Returns the settings that stand at `at`: words such as `threads=2`.
pub(super) fn settings_at(words: &[String], at: usize) -> Settings {
    let pairs = words[at.min(words.len())..].iter().map_while(|word| word.split_once('='));
    Settings::new(pairs.map(|(key, value)| (key.to_owned(), value.to_owned())).collect())
}
