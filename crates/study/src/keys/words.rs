//! Forms in words, as pages tell them.

use super::form::{Form, Quantity};

impl Quantity {
    /// Returns what it is, with an example.
    pub(super) fn words(self) -> &'static str {
        match self {
            Self::Time => "a time, such as `\"5s\"`",
            Self::Size => "a size, such as `\"100 kB\"`",
            Self::Share => "a share, such as `\"2%\"`",
            Self::Temperature => "a temperature, such as `\"55 °C\"`",
            Self::Amount => "an amount with its unit, such as `\"1450 EUR\"`",
            Self::Power => "a power, such as `\"85 W\"`",
            Self::Rate => "a rate, such as `\"51 GB/s\"`",
            Self::Frequency => "a rate of pictures, such as `\"60 Hz\"`",
            Self::Day => "a day, such as `\"2026-03-09\"`",
        }
    }
}

impl Form {
    /// Returns what may be written, in words.
    pub(super) fn words(&self) -> String {
        let or = |all: Vec<String>| match all.split_last() {
            Some((last, [])) => last.clone(),
            Some((last, others)) => format!("{} or {last}", others.join(", ")),
            None => String::new(),
        };
        match self {
            Self::Text => "a text".to_owned(),
            Self::Word(words) => or(words.iter().map(|word| format!("`\"{word}\"`")).collect()),
            Self::Quantity(quantity) => quantity.words().to_owned(),
            Self::Flag => "`true` or `false`".to_owned(),
            Self::Whole(from, u32::MAX) => format!("a whole number from {from} on"),
            Self::Whole(from, to) => format!("a whole number from {from} to {to}"),
            Self::Number => "a number".to_owned(),
            Self::List(Self::Text) => "a list of texts".to_owned(),
            Self::List(Self::Table(_)) => "a list of tables".to_owned(),
            Self::List(item) => format!("a list, each {}", item.words()),
            Self::Named(value) => format!("names of your own, each with {}", value.words()),
            Self::Table(_) => "a table".to_owned(),
            Self::Either(forms) => {
                let all: Vec<String> = forms.iter().map(Self::words).collect();
                let has_parts = all.iter().any(|words| words.contains(','));
                all.join(if has_parts { "; or " } else { " or " })
            }
        }
    }
}
