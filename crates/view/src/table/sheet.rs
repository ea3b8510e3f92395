//! The one data model behind every output.

use std::borrow::Cow;

/// What is to be shown.
#[derive(Clone, Debug, PartialEq)]
pub struct Sheet {
    /// Names the shape of its rows for programs, such as `honest-lap/compare`.
    pub schema: &'static str,
    /// The version of that shape.
    pub version: u32,
    /// A title, where there is one.
    pub title: Option<String>,
    /// The answer, ahead of everything else.
    pub lead: Vec<String>,
    /// The tables. All have the same machine columns.
    pub groups: Vec<Group>,
    /// Method and caveats, after everything else.
    pub notes: Vec<String>,
}

/// One table, or one record, with what belongs to it alone.
#[derive(Clone, Debug, PartialEq)]
pub struct Group {
    /// Its heading.
    pub heading: Option<String>,
    /// What it says, in a sentence or two.
    pub lead: Vec<String>,
    /// Its columns.
    pub columns: Vec<Column>,
    /// Its rows, each with a cell for every column.
    pub rows: Vec<Vec<Cell>>,
    /// How text shows it.
    pub layout: Layout,
    /// Lines that are drawn with characters, shown below the rows to people only, as they are.
    pub drawing: Vec<String>,
    /// Footnotes.
    pub notes: Vec<String>,
}

/// How text shows a group.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub enum Layout {
    /// Rows under headings.
    #[default]
    Table,
    /// One line a cell, each under its own title.
    Record,
}

/// A column.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Column {
    /// The field's name for programs, ending in its unit where it has one.
    pub key: Cow<'static, str>,
    /// The heading for people.
    pub title: String,
    /// The unit for people, said once in the heading.
    pub unit: Option<String>,
    /// Where its cells stand.
    pub align: Align,
    /// Who gets to see it.
    pub show: Show,
    /// Where its text may break: after this many characters, at a blank.
    pub wrap: Option<u16>,
    /// When text leaves it out for want of width: lower ranks go first, `None` never.
    pub spare: Option<u8>,
}

/// Where cells stand in their column.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Align {
    /// Text.
    Left,
    /// Figures.
    Right,
}

/// Who gets to see a column.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Show {
    /// People and programs.
    All,
    /// People only: it says what machine columns say apart.
    People,
    /// Programs only.
    Machines,
}

/// A cell: its value, the text people read where that differs, and its role.
#[derive(Clone, Debug, PartialEq)]
pub struct Cell {
    /// The value, with every digit.
    pub value: Value,
    /// What people read; the value itself if there is nothing else.
    pub text: Option<String>,
    /// What it means, for its colour.
    pub role: Role,
}

/// A value.
#[derive(Clone, Debug, PartialEq)]
pub enum Value {
    /// Unknown, or there is none; never a zero.
    Missing,
    /// Text, possibly from outside.
    Text(String),
    /// A whole number: nanoseconds, bytes, counts.
    Whole(u64),
    /// Any number.
    Number(f64),
    /// Yes or no.
    Flag(bool),
    /// Several texts.
    List(Vec<String>),
}

/// What a text means. Colour follows from it, and never carries the meaning alone.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub enum Role {
    /// Nothing special.
    #[default]
    Plain,
    /// A heading.
    Heading,
    /// Something to be read second.
    Quiet,
    /// Shown to be better.
    Better,
    /// Shown to be worse.
    Worse,
    /// Open: too close to call, or cannot be said.
    Open,
    /// Failed.
    Failed,
}

impl Column {
    /// Returns a column of text that everyone sees.
    pub fn text(key: impl Into<Cow<'static, str>>, title: impl Into<String>) -> Self {
        let (unit, align, show, wrap, spare) = (None, Align::Left, Show::All, None, None);
        Self { key: key.into(), title: title.into(), unit, align, show, wrap, spare }
    }

    /// Returns a column of figures that everyone sees.
    pub fn figure(key: impl Into<Cow<'static, str>>, title: impl Into<String>) -> Self {
        Self { align: Align::Right, ..Self::text(key, title) }
    }

    /// Returns a column for programs only.
    pub fn machine(key: impl Into<Cow<'static, str>>) -> Self {
        let key = key.into();
        Self { show: Show::Machines, ..Self::text(key.clone(), key) }
    }

    /// Returns the column with its unit said in the heading.
    pub fn unit(mut self, unit: impl Into<String>) -> Self {
        self.unit = Some(unit.into());
        self
    }

    /// Returns the column for people only.
    pub fn people(mut self) -> Self {
        self.show = Show::People;
        self
    }

    /// Returns the column as one that text may leave out for want of width, lower ranks first.
    pub fn spare(mut self, rank: u8) -> Self {
        self.spare = Some(rank);
        self
    }

    /// Returns the column with its text broken after `chars` characters, at a blank.
    pub fn wrap(mut self, chars: u16) -> Self {
        self.wrap = Some(chars);
        self
    }

    /// Returns the heading with its unit.
    pub(crate) fn heading(&self) -> String {
        match &self.unit {
            Some(unit) => format!("{} [{unit}]", self.title),
            None => self.title.clone(),
        }
    }
}

impl Cell {
    /// Returns a cell that says that there is nothing.
    pub fn missing() -> Self {
        Self { value: Value::Missing, text: None, role: Role::Plain }
    }

    /// Returns a cell of text.
    pub fn text(text: impl Into<String>) -> Self {
        Self { value: Value::Text(text.into()), text: None, role: Role::Plain }
    }

    /// Returns a cell of a whole number.
    pub fn whole(number: u64) -> Self {
        Self { value: Value::Whole(number), text: None, role: Role::Plain }
    }

    /// Returns a cell of a number that people read as `text`.
    pub fn number(number: f64, text: impl Into<String>) -> Self {
        Self { value: Value::Number(number), text: Some(text.into()), role: Role::Plain }
    }

    /// Returns a cell of yes or no.
    pub fn flag(flag: bool) -> Self {
        Self { value: Value::Flag(flag), text: None, role: Role::Plain }
    }

    /// Returns a cell of several texts.
    pub fn list(items: Vec<String>) -> Self {
        Self { value: Value::List(items), text: None, role: Role::Plain }
    }

    /// Returns the cell of `value`, or a missing one.
    pub fn or_missing<T>(value: Option<T>, cell: impl FnOnce(T) -> Self) -> Self {
        value.map_or_else(Self::missing, cell)
    }

    /// Returns the cell with what people read.
    pub fn shown(mut self, text: impl Into<String>) -> Self {
        self.text = Some(text.into());
        self
    }

    /// Returns the cell in `role`.
    pub fn role(mut self, role: Role) -> Self {
        self.role = role;
        self
    }

    /// Returns whether there is nothing to be read.
    fn is_empty(&self) -> bool {
        match (&self.text, &self.value) {
            (Some(text), _) => text.is_empty(),
            (None, Value::Missing) => true,
            (None, Value::Text(text)) => text.is_empty(),
            (None, Value::List(items)) => items.is_empty(),
            (None, Value::Whole(_) | Value::Number(_) | Value::Flag(_)) => false,
        }
    }

    /// Returns what people read, before it is made safe.
    pub(crate) fn read(&self) -> String {
        match (&self.text, &self.value) {
            (Some(text), _) => text.clone(),
            (None, Value::Missing) => "–".to_owned(),
            (None, Value::Text(text)) => text.clone(),
            (None, Value::Whole(number)) => number.to_string(),
            (None, Value::Number(number)) => number.to_string(),
            (None, Value::Flag(flag)) => if *flag { "yes" } else { "no" }.to_owned(),
            (None, Value::List(items)) if items.is_empty() => "–".to_owned(),
            (None, Value::List(items)) => items.join("; "),
        }
    }
}

impl Group {
    /// Returns a table of these columns and rows, and nothing around it.
    pub fn of(columns: Vec<Column>, rows: Vec<Vec<Cell>>) -> Self {
        let (heading, lead, drawing, notes) = Default::default();
        Self { heading, lead, columns, rows, layout: Layout::Table, drawing, notes }
    }

    /// Returns the columns that people see, with their places: none of a table that is empty in every row.
    pub(crate) fn for_people(&self) -> impl Iterator<Item = (usize, &Column)> {
        let is_empty = |at: usize| {
            let none = |row: &Vec<Cell>| row[at].is_empty();
            self.layout == Layout::Table && !self.rows.is_empty() && self.rows.iter().all(none)
        };
        let seen =
            move |(at, column): &(usize, &Column)| column.show != Show::Machines && !is_empty(*at);
        self.columns.iter().enumerate().filter(seen)
    }

    /// Returns the columns that programs see, with their places.
    pub(crate) fn for_machines(&self) -> impl Iterator<Item = (usize, &Column)> {
        self.columns.iter().enumerate().filter(|(_, column)| column.show != Show::People)
    }
}
