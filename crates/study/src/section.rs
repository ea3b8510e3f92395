//! A table of the study, read key by key: typed, and telling every mistake.

use crate::keys::Table;
use crate::mistake::{Mistake, nearest};
use honest_lap_core::record::Template;
use honest_lap_core::unit::{UnitError, parse_share};
use std::cell::RefCell;
use std::ops::Range;
use toml::Spanned;
use toml::de::{DeTable, DeValue};

/// A value with its place in the text.
pub(crate) type Value<'i> = Spanned<DeValue<'i>>;

/// Where mistakes are gathered while the rest is read on.
#[derive(Default)]
pub(crate) struct Mistakes(RefCell<Vec<Mistake>>);

impl Mistakes {
    pub(crate) fn add(
        &self,
        span: Range<usize>,
        problem: impl Into<String>,
        remedy: impl Into<String>,
    ) {
        let mistake = Mistake { span, problem: problem.into(), remedy: remedy.into() };
        self.0.borrow_mut().push(mistake);
    }

    pub(crate) fn into_sorted(self) -> Vec<Mistake> {
        let mut all = self.0.into_inner();
        all.sort_by_key(|mistake| (mistake.span.start, mistake.span.end));
        all.dedup();
        all
    }
}

/// One table, with the keys it may hold.
pub(crate) struct Section<'a, 'i> {
    pub(crate) mistakes: &'a Mistakes,
    /// What the table is, as an error says it: `[study]`, `workload "dome-still"`.
    pub(crate) what: String,
    /// The table's own place.
    pub(crate) span: Range<usize>,
    table: &'a DeTable<'i>,
}

impl<'a, 'i> Section<'a, 'i> {
    /// Opens `value` as a table and tells every key that is not `known`.
    pub(crate) fn open(
        mistakes: &'a Mistakes,
        what: impl Into<String>,
        value: &'a Value<'i>,
        known: &'static Table,
    ) -> Option<Self> {
        let what = what.into();
        let span = value.span();
        let Some(table) = value.get_ref().as_table() else {
            let found = type_words(value.get_ref());
            mistakes.add(
                span,
                format!("{what} is {found}, and a table is wanted"),
                format!("write it with keys: {}", names(known)),
            );
            return None;
        };
        for key in table.keys() {
            let name: &str = key.get_ref();
            if known.names().any(|key| key == name) {
                continue;
            }
            let remedy = match nearest(name, known.names()) {
                Some(near) => format!("did you mean `{near}`?"),
                None => format!("known keys here: {}", names(known)),
            };
            mistakes.add(key.span(), format!("unknown key `{name}` in {what}"), remedy);
        }
        Some(Self { mistakes, what, span, table })
    }

    pub(crate) fn get(&self, key: &str) -> Option<&'a Value<'i>> {
        self.table.get(key)
    }

    /// Returns the text of `key`.
    pub(crate) fn text(&self, key: &str) -> Option<&'a str> {
        self.get(key).and_then(|value| self.text_of(key, value))
    }

    pub(crate) fn text_of(&self, key: &str, value: &'a Value<'i>) -> Option<&'a str> {
        let text = value.get_ref().as_str();
        if text.is_none() {
            self.wrong_type(key, value, "a text in quotes");
        }
        text
    }

    /// Returns the text of `key` with its placeholders found.
    pub(crate) fn template(&self, key: &str) -> Option<Spanned<Template>> {
        self.get(key).and_then(|value| self.template_of(key, value))
    }

    pub(crate) fn template_of(&self, key: &str, value: &'a Value<'i>) -> Option<Spanned<Template>> {
        let text = self.text_of(key, value)?;
        match Template::parse(text) {
            Ok(template) => Some(Spanned::new(value.span(), template)),
            Err(err) => {
                let remedy = "write a brace that is meant as such twice: `{{` or `}}`";
                self.mistakes.add(value.span(), format!("in `{key}`: {err}"), remedy);
                None
            }
        }
    }

    /// Returns what `parse` makes of the text of `key`.
    pub(crate) fn quantity<T>(
        &self,
        key: &str,
        parse: impl Fn(&str) -> Result<T, UnitError>,
    ) -> Option<T> {
        self.quantity_of(key, self.get(key)?, parse)
    }

    /// Returns what `parse` makes of the text of `value`, which `key` has.
    pub(crate) fn quantity_of<T>(
        &self,
        key: &str,
        value: &Value<'i>,
        parse: impl Fn(&str) -> Result<T, UnitError>,
    ) -> Option<T> {
        // A bare number is the commonest slip: the unit's own remedy says more than 'not a text'.
        let number = match value.get_ref() {
            DeValue::Integer(number) => Some(number.as_str().to_owned()),
            DeValue::Float(number) => Some(number.as_str().to_owned()),
            _ => None,
        };
        let text = match &number {
            Some(number) => number.as_str(),
            None => self.text_of(key, value)?,
        };
        parse(text)
            .map_err(|err| self.mistakes.add(value.span(), format!("`{key}`: {err}"), err.remedy))
            .ok()
    }

    /// Returns the share of `key`, above nothing and below all.
    pub(crate) fn share(&self, key: &str, such_as: &str) -> Option<f64> {
        let share = self.quantity(key, parse_share)?;
        if share <= 0.0 || share >= 1.0 {
            let span = self.get(key).map_or(0..0, Spanned::span);
            let remedy = format!("write a share above 0 % and below 100 %, such as \"{such_as}\"");
            self.mistakes.add(span, format!("`{key}` is outside its range"), remedy);
            return None;
        }
        Some(share)
    }

    /// Returns the whole number of `key`, which must lie in `range`.
    pub(crate) fn whole(&self, key: &str, range: std::ops::RangeInclusive<u32>) -> Option<u32> {
        let value = self.get(key)?;
        self.whole_of(key, value, range)
    }

    pub(crate) fn whole_of(
        &self,
        key: &str,
        value: &Value<'i>,
        range: std::ops::RangeInclusive<u32>,
    ) -> Option<u32> {
        let Some(integer) = value.get_ref().as_integer() else {
            self.wrong_type(key, value, "a whole number");
            return None;
        };
        let number = i64::from_str_radix(integer.as_str(), integer.radix())
            .ok()
            .and_then(|number| u32::try_from(number).ok())
            .filter(|number| range.contains(number));
        if number.is_none() {
            self.mistakes.add(
                value.span(),
                format!("`{key}` is {integer}, outside its range"),
                format!("write a whole number from {} to {}", range.start(), range.end()),
            );
        }
        number
    }

    /// Returns the yes or no of `key`.
    pub(crate) fn flag(&self, key: &str) -> Option<bool> {
        let value = self.get(key)?;
        let flag = value.get_ref().as_bool();
        if flag.is_none() {
            self.wrong_type(key, value, "true or false");
        }
        flag
    }

    /// Returns the items of the list under `key`.
    pub(crate) fn list(&self, key: &str) -> Option<&'a [Value<'i>]> {
        let value = self.get(key)?;
        let list = value.get_ref().as_array();
        if list.is_none() {
            self.wrong_type(key, value, "a list in brackets");
        }
        list.map(|list| &list[..])
    }

    /// Returns name and value of every entry of the table under `key`.
    pub(crate) fn entries(
        &self,
        key: &str,
    ) -> impl Iterator<Item = (&'a str, Range<usize>, &'a Value<'i>)> + use<'a, 'i> {
        let table = self.get(key).and_then(|value| {
            let table = value.get_ref().as_table();
            if table.is_none() {
                self.wrong_type(key, value, "a table such as { name = … }");
            }
            table
        });
        table.into_iter().flatten().map(|(name, value)| {
            let text: &str = name.get_ref();
            (text, name.span(), value)
        })
    }

    pub(crate) fn wrong_type(&self, key: &str, value: &Value<'_>, wanted: &str) {
        let found = type_words(value.get_ref());
        self.mistakes.add(
            value.span(),
            format!("`{key}` in {} is {found}", self.what),
            format!("{wanted} is wanted"),
        );
    }
}

/// Returns the keys of a table in one line.
fn names(known: &Table) -> String {
    known.names().collect::<Vec<_>>().join(", ")
}

fn type_words(value: &DeValue<'_>) -> &'static str {
    match value {
        DeValue::String(_) => "a text",
        DeValue::Integer(_) => "a whole number",
        DeValue::Float(_) => "a number with a point",
        DeValue::Boolean(_) => "true or false",
        DeValue::Datetime(_) => "a date",
        DeValue::Array(_) => "a list",
        DeValue::Table(_) => "a table",
    }
}

/// Returns a whole or decimal number.
pub(crate) fn number(value: &Value<'_>) -> Option<f64> {
    match value.get_ref() {
        DeValue::Integer(number) => number.as_str().parse().ok(),
        DeValue::Float(number) => number.as_str().parse().ok(),
        _ => None,
    }
}
