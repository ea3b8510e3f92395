//! How much work one lap does: an amount, or a formula of its variant's settings.

use crate::record::Settings;
use crate::unit::{Amount, UnitError, parse_amount};
use serde::{Deserialize, Serialize};

/// The work of one lap.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
#[serde(untagged)]
pub enum Work {
    /// The same for every variant.
    Stated(Amount),
    /// A formula of the variant's settings: `2 * {n}^3 FLOP`.
    Formula {
        /// The formula, without its unit.
        formula: Formula,
        /// The unit.
        unit: String,
    },
}

impl From<Amount> for Work {
    fn from(amount: Amount) -> Self {
        Self::Stated(amount)
    }
}

impl Work {
    /// Returns the work that `text` states: an amount, or a formula of settings and numbers.
    ///
    /// * Errors: [`UnitError`] of what is neither, with how it is written.
    pub fn parse(text: &str) -> Result<Self, UnitError> {
        // An amount stays one, so that a workload does not become another by how it is read.
        let amount = parse_amount(text).map(Self::Stated);
        if amount.is_ok() || !text.contains(|c| "{*/^(+".contains(c)) {
            return amount;
        }
        let at = text.rfind(|c: char| c.is_ascii_digit() || matches!(c, ')' | '}' | '.'));
        let (formula, unit) = text.split_at(at.map_or(0, |at| at + 1));
        let unit = unit.trim();
        let wrong = |why: String| {
            let remedy = "write a formula of settings and its unit, such as \"2 * {n}^3 FLOP\": numbers, \
                          {settings}, + - * / ^ and brackets";
            UnitError::new(format!("`{text}` is no amount of work: {why}"), remedy)
        };
        if !unit.starts_with(char::is_alphabetic) || unit.chars().count() > 24 {
            return Err(wrong("it has no unit".to_owned()));
        }
        let formula = Formula::try_from(formula.trim().to_owned()).map_err(wrong)?;
        let work = Self::Formula { formula, unit: unit.to_owned() };
        if work.places().next().is_none() && work.of(&Settings::default()).is_none() {
            return Err(wrong("it comes to nothing above 0".to_owned()));
        }
        Ok(work)
    }

    /// Returns the unit that it is in.
    pub fn unit(&self) -> &str {
        match self {
            Self::Stated(amount) => &amount.unit,
            Self::Formula { unit, .. } => unit,
        }
    }

    /// Returns the settings that it depends on.
    pub fn places(&self) -> impl Iterator<Item = &str> {
        let steps = match self {
            Self::Stated(_) => &[],
            Self::Formula { formula, .. } => formula.steps.as_slice(),
        };
        steps.iter().filter_map(|step| match step {
            Step::Setting(name) => Some(name.as_str()),
            _ => None,
        })
    }

    /// Returns the work of a lap with these settings; `None` where they give no number above 0.
    pub fn of(&self, settings: &Settings) -> Option<Amount> {
        match self {
            Self::Stated(amount) => Some(amount.clone()),
            Self::Formula { formula, unit } => {
                let value = formula.value(settings).filter(|value| *value > 0.0)?;
                Some(Amount { value, unit: unit.clone() })
            }
        }
    }
}

/// A formula of settings: numbers, `{settings}`, `+ - * / ^` and brackets.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
#[serde(into = "String", try_from = "String")]
pub struct Formula {
    source: String,
    /// In the order in which a stack takes them.
    steps: Vec<Step>,
}

#[derive(Clone, Debug, PartialEq)]
enum Step {
    Number(f64),
    Setting(String),
    Apply(char),
    /// A sign ahead of what is not a number.
    Negate,
}

impl From<Formula> for String {
    fn from(formula: Formula) -> Self {
        formula.source
    }
}

impl TryFrom<String> for Formula {
    type Error = String;

    fn try_from(source: String) -> Result<Self, String> {
        let mut reader = Reader { rest: &source, steps: Vec::new(), depth: 0 };
        reader.sum()?;
        match reader.rest.trim_start().chars().next() {
            None => Ok(Self { steps: reader.steps, source }),
            Some(c) => Err(format!("`{c}` is not expected there")),
        }
    }
}

impl Formula {
    fn value(&self, settings: &Settings) -> Option<f64> {
        let mut stack: Vec<f64> = Vec::new();
        for step in &self.steps {
            let value = match step {
                Step::Number(number) => *number,
                Step::Setting(name) => settings.get(name)?.trim().parse().ok()?,
                Step::Negate => -stack.pop()?,
                Step::Apply(operator) => {
                    let (right, left) = (stack.pop()?, stack.pop()?);
                    match operator {
                        '+' => left + right,
                        '-' => left - right,
                        '*' => left * right,
                        '/' => left / right,
                        _ => left.powf(right),
                    }
                }
            };
            stack.push(value);
        }
        stack.pop().filter(|value| value.is_finite())
    }
}

/// Brackets within brackets beyond this are a slip, or worse.
const DEEPEST: u32 = 50;

struct Reader<'a> {
    rest: &'a str,
    steps: Vec<Step>,
    depth: u32,
}

impl Reader<'_> {
    fn sum(&mut self) -> Result<(), String> {
        self.product()?;
        while let Some(operator) = self.take(&['+', '-']) {
            self.product()?;
            self.steps.push(Step::Apply(operator));
        }
        Ok(())
    }

    fn product(&mut self) -> Result<(), String> {
        self.signed()?;
        while let Some(operator) = self.take(&['*', '/']) {
            self.signed()?;
            self.steps.push(Step::Apply(operator));
        }
        Ok(())
    }

    fn signed(&mut self) -> Result<(), String> {
        let negative = self.take(&['-']).is_some();
        self.power()?;
        if negative {
            self.steps.push(Step::Negate);
        }
        Ok(())
    }

    fn power(&mut self) -> Result<(), String> {
        self.value()?;
        if self.take(&['^']).is_some() {
            // To the right first, as on paper: 2^3^2 is 2^9.
            self.deeper(Self::signed)?;
            self.steps.push(Step::Apply('^'));
        }
        Ok(())
    }

    fn value(&mut self) -> Result<(), String> {
        if self.take(&['(']).is_some() {
            self.deeper(Self::sum)?;
            return self
                .take(&[')'])
                .map(|_| ())
                .ok_or_else(|| "a bracket is not closed".to_owned());
        }
        if self.take(&['{']).is_some() {
            let (name, rest) = self.rest.split_once('}').ok_or("a brace is not closed")?;
            self.steps.push(Step::Setting(name.trim().to_owned()));
            self.rest = rest;
            return Ok(());
        }
        let number = |c: char| c.is_ascii_digit() || c == '.';
        let end = self.rest.find(|c| !number(c)).unwrap_or(self.rest.len());
        let (digits, rest) = self.rest.split_at(end);
        let value = digits.parse().map_err(|_| match self.rest.chars().next() {
            None => "it ends where a number or a {setting} is expected".to_owned(),
            Some(c) => format!("`{c}` stands where a number or a {{setting}} is expected"),
        })?;
        self.steps.push(Step::Number(value));
        self.rest = rest;
        Ok(())
    }

    fn deeper(&mut self, read: fn(&mut Self) -> Result<(), String>) -> Result<(), String> {
        self.depth += 1;
        if self.depth > DEEPEST {
            return Err("it has too many brackets in each other".to_owned());
        }
        read(self)?;
        self.depth -= 1;
        Ok(())
    }

    fn take(&mut self, wanted: &[char]) -> Option<char> {
        self.rest = self.rest.trim_start();
        let next = self.rest.chars().next().filter(|c| wanted.contains(c))?;
        self.rest = self.rest[next.len_utf8()..].trim_start();
        Some(next)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn value(text: &str) -> Option<f64> {
        let pairs = [("n", "100"), ("m", "4"), ("mode", "fast")];
        let settings = Settings::new(pairs.map(|(k, v)| (k.to_owned(), v.to_owned())).to_vec());
        Work::parse(text).unwrap().of(&settings).map(|amount| amount.value)
    }

    #[test]
    fn a_formula_is_read_as_on_paper() {
        assert_eq!(value("2 * {n}^3 FLOP"), Some(2e6));
        assert_eq!(value("({n} + 20)/{m} - 5 kstep"), Some(25.0));
        assert_eq!(value("2^3^2 * {m} byte"), Some(2048.0));
        assert_eq!(value("-{m} + {n} byte"), Some(96.0));
        assert_eq!(value("{n}*-2 + 300.5 byte"), Some(100.5));
        assert_eq!(value("4.2 Mpixel"), Some(4.2));
        assert_eq!(value("2 * 512^3 FLOP"), Some(268_435_456.0));
        let rate = Work::parse("12 frames/pass").unwrap();
        assert_eq!(rate, Work::Stated(Amount { value: 12.0, unit: "frames/pass".into() }));
    }

    #[test]
    fn what_is_no_work_is_none() {
        assert_eq!(value("{m} - {n} FLOP"), None, "below nothing");
        assert_eq!(value("{n} / ({m} - 4) FLOP"), None, "infinite");
        assert_eq!((value("{mode} FLOP"), value("{other} FLOP")), (None, None));
        for bad in ["2 * {n}", "2 ** {n} FLOP", "({n} FLOP", "{n FLOP", "2 * FLOP{n}", "{n} 2 FLOP"]
            .into_iter()
            .chain(["2 - 5 FLOP", "0 * 7 FLOP", "2 * 512^3"])
        {
            assert!(Work::parse(bad).is_err(), "{bad}");
        }
        assert!(Work::parse(&format!("{}{{n}}{} FLOP", "(".repeat(99), ")".repeat(99))).is_err());
    }

    #[test]
    fn it_is_kept_as_it_was_and_older_amounts_are_read() {
        let work = Work::parse("2 * {n}^3 FLOP").unwrap();
        let text = serde_json::to_string(&work).unwrap();
        assert_eq!(text, r#"{"formula":"2 * {n}^3","unit":"FLOP"}"#);
        assert_eq!(serde_json::from_str::<Work>(&text).unwrap(), work);
        let old: Work = serde_json::from_str(r#"{"value":4.2,"unit":"Mpixel"}"#).unwrap();
        assert_eq!((old.unit(), old.places().count()), ("Mpixel", 0));
        assert_eq!(work.places().collect::<Vec<_>>(), ["n"]);
    }
}
