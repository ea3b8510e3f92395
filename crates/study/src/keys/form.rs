//! What may be written behind a key.

/// A quantity that is written as a text, with its unit.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Quantity {
    /// `250ms`, `1h45m`, `5:41`.
    Time,
    /// `100 kB`, `64 MiB`.
    Size,
    /// `2%`.
    Share,
    /// `55 °C`.
    Temperature,
    /// A number and a unit of one's own.
    Amount,
    /// `85 W`.
    Power,
    /// Work a second.
    Rate,
    /// `60 Hz`.
    Frequency,
    /// `2026-03-09`.
    Day,
}

/// What may be written behind a key.
#[derive(Clone, Copy, Debug)]
pub enum Form {
    /// Any text.
    Text,
    /// One of these words.
    Word(&'static [&'static str]),
    /// A text that is a quantity.
    Quantity(Quantity),
    /// `true` or `false`.
    Flag,
    /// A whole number, from the first to the second.
    Whole(u32, u32),
    /// Any number.
    Number,
    /// A list of such.
    List(&'static Form),
    /// Names of one's own, each with such.
    Named(&'static Form),
    /// A table of known keys.
    Table(&'static Table),
    /// Any of these.
    Either(&'static [Form]),
}

/// A key.
#[derive(Clone, Copy, Debug)]
pub struct Key {
    /// Its name.
    pub name: &'static str,
    /// What may stand behind it.
    pub form: Form,
    /// What holds without it, as it would be written or in words: `needed` where nothing does, empty where nothing follows.
    pub default: &'static str,
    /// What it is for; Markdown, its links seen from docs/reference/study.
    pub about: &'static str,
    /// Lines that use it, in the table with a heading that it lies in; empty where another key's example shows it.
    pub example: &'static str,
}

/// A table with the keys that it may hold.
#[derive(Debug)]
pub struct Table {
    /// What it is called.
    pub name: &'static str,
    /// Its keys, in the order in which they are told.
    pub keys: &'static [Key],
}

impl Table {
    /// Returns the names of its keys.
    pub fn names(&self) -> impl Iterator<Item = &'static str> + Clone {
        self.keys.iter().map(|key| key.name)
    }
}

pub(super) const fn key(
    name: &'static str,
    form: Form,
    default: &'static str,
    about: &'static str,
    example: &'static str,
) -> Key {
    Key { name, form, default, about, example }
}

pub(super) const TIME: Form = Form::Quantity(Quantity::Time);
pub(super) const SHARE: Form = Form::Quantity(Quantity::Share);
pub(super) const AMOUNT: Form = Form::Quantity(Quantity::Amount);
pub(super) const TEXTS: Form = Form::List(&Form::Text);
/// A command: started as it is, or a text for the shell.
pub(super) const COMMAND: Form = Form::Either(&[Form::Text, TEXTS]);
/// A value of a setting.
pub(super) const VALUE: Form = Form::Either(&[Form::Text, Form::Number, Form::Flag]);
