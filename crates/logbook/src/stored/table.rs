//! What a table and a column are, and how rows are written and read by them.

use rusqlite::types::{FromSql, FromSqlError, Value, ValueRef};
use rusqlite::{Connection, Row};
use serde::Serialize;
use serde::de::DeserializeOwned;

/// What a column is for.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Role {
    /// The row's number in this file.
    Own,
    /// The number, in this file, of the row of another table that this one belongs to or is of.
    Of(&'static str),
    /// In which order records came into this file.
    Place,
    /// A value that is sealed as it stands.
    Sealed,
    /// A value that is sealed by its SHA-256: it is long, or many records share it.
    Digested,
    /// Not sealed: the seal itself, or what something that is sealed vouches for.
    Unsealed,
}

/// A column, without what it holds.
#[derive(Clone, Copy, Debug)]
pub struct Column {
    /// What it is called.
    pub name: &'static str,
    /// Its SQL type and what is asked of its values.
    pub made: &'static str,
    /// What it is for.
    pub role: Role,
    /// The value besides NULL that says that nothing is there. It is not sealed, so that a column that came later
    /// leaves the seals of older records as they were.
    pub empty: Option<&'static str>,
    /// The format that it came with.
    pub since: u32,
}

pub(super) const fn column(name: &'static str, made: &'static str, role: Role) -> Column {
    Column { name, made, role, empty: None, since: FIRST }
}

impl Column {
    pub(super) const fn empty(self, empty: &'static str) -> Self {
        Self { empty: Some(empty), ..self }
    }
}

/// The format that these lists began with. A column that is added says the next one.
pub(crate) const FIRST: u32 = 7;

/// A table, without what its columns hold.
#[derive(Clone, Debug)]
pub struct Shape {
    /// What it is called.
    pub name: &'static str,
    /// The columns that tell a row from every other one anywhere, not just in this file.
    pub identity: &'static [&'static str],
    /// What stands behind the columns.
    pub ends: &'static str,
    /// Its columns, in order.
    pub columns: Vec<Column>,
}

/// A column, with how it is made of a record and read back.
pub(crate) struct Stored<W, R> {
    pub(super) column: Column,
    pub(super) write: W,
    pub(super) read: R,
}

pub(super) const fn stored<W, R>(column: Column, write: W, read: R) -> Stored<W, R> {
    Stored { column, write, read }
}

/// A table: what it is called and its columns.
pub(crate) struct Table<W: 'static, R: 'static> {
    pub name: &'static str,
    pub(super) identity: &'static [&'static str],
    pub(super) ends: &'static str,
    pub(super) columns: &'static [Stored<W, R>],
}

/// Why a value cannot be read.
#[derive(Debug)]
pub(crate) enum Unread {
    /// It is of another type, or out of range.
    Type(FromSqlError),
    /// It is not what it should be, in words.
    Meaning(String),
}

impl From<FromSqlError> for Unread {
    fn from(err: FromSqlError) -> Self {
        Self::Type(err)
    }
}

pub(crate) type Read = Result<(), Unread>;

impl<W, R> Table<W, R> {
    pub(crate) fn shape(&self) -> Shape {
        let columns = self.columns.iter().map(|stored| stored.column).collect();
        Shape { name: self.name, identity: self.identity, ends: self.ends, columns }
    }

    /// Returns the names of the columns, each behind `alias`.
    pub(crate) fn names(&self, alias: &str) -> String {
        let names: Vec<String> =
            self.columns.iter().map(|stored| format!("{alias}{}", stored.column.name)).collect();
        names.join(", ")
    }

    /// Writes a row, whose value in each column `value` gives; returns its number.
    pub(crate) fn insert(
        &self,
        db: &Connection,
        value: impl Fn(&W) -> Value,
    ) -> rusqlite::Result<i64> {
        let places: Vec<String> = (1..=self.columns.len()).map(|at| format!("?{at}")).collect();
        let (name, names, places) = (self.name, self.names(""), places.join(", "));
        let values = self.columns.iter().map(|stored| value(&stored.write));
        db.prepare_cached(&format!("INSERT INTO {name} ({names}) VALUES ({places})"))?
            .execute(rusqlite::params_from_iter(values))?;
        Ok(db.last_insert_rowid())
    }

    /// Returns a query for all columns of the rows that `which` says.
    pub(crate) fn query(&self, which: &str) -> String {
        format!("SELECT {} FROM {} {which}", self.names(""), self.name)
    }

    /// Reads a row of [`Self::query`].
    pub(crate) fn read<T: Default>(&self, row: &Row<'_>) -> rusqlite::Result<Result<T, Unread>>
    where
        R: Fn(&mut T, ValueRef<'_>) -> Read,
    {
        let mut read = T::default();
        for (at, stored) in self.columns.iter().enumerate() {
            match (stored.read)(&mut read, row.get_ref(at)?) {
                Ok(()) => {}
                Err(Unread::Type(err)) => {
                    let kind = row.get_ref(at)?.data_type();
                    return Err(rusqlite::Error::FromSqlConversionFailure(at, kind, err.into()));
                }
                Err(unread) => return Ok(Err(unread)),
            }
        }
        Ok(Ok(read))
    }

    /// Reads the rows that `which` says of a table whose values have no meaning beyond their types.
    pub(crate) fn plain<T: Default>(
        &self,
        db: &Connection,
        (which, values): (&str, &[&dyn rusqlite::ToSql]),
    ) -> rusqlite::Result<Vec<T>>
    where
        R: Fn(&mut T, ValueRef<'_>) -> Read,
    {
        let mut statement = db.prepare_cached(&self.query(which))?;
        let mut rows = statement.query(values)?;
        let mut all = Vec::new();
        while let Some(row) = rows.next()? {
            all.extend(self.read(row)?.ok());
        }
        Ok(all)
    }
}

impl Shape {
    /// Returns the table that its rows belong to, and by which column, if they do.
    pub fn refers(&self) -> impl Iterator<Item = (&'static str, &'static str)> {
        self.columns.iter().filter_map(|column| match column.role {
            Role::Of(table) => Some((column.name, table)),
            _ => None,
        })
    }

    pub(crate) fn has_own(&self) -> bool {
        self.columns.iter().any(|column| column.role == Role::Own)
    }
}

pub(super) fn text(value: &str) -> Value {
    Value::Text(value.to_owned())
}

pub(super) fn maybe_text(value: Option<&str>) -> Value {
    value.map_or(Value::Null, text)
}

pub(super) fn json<T: Serialize + ?Sized>(value: &T) -> Value {
    Value::Text(crate::json::json(value))
}

pub(super) fn number(value: impl Into<i64>) -> Value {
    Value::Integer(value.into())
}

pub(super) fn maybe(value: Option<u64>) -> Value {
    value.map_or(Value::Null, |value| Value::Integer(value.cast_signed()))
}

/// Reads a value of a plain type into `place`.
pub(super) fn get<T: FromSql>(place: &mut T, value: ValueRef<'_>) -> Read {
    *place = T::column_result(value)?;
    Ok(())
}

/// Reads a number that was written as signed, if there is one.
pub(super) fn unsigned(value: ValueRef<'_>) -> Result<Option<u64>, Unread> {
    Ok(Option::<i64>::column_result(value)?.map(i64::cast_unsigned))
}

/// Reads a text that is JSON into `place`; `what` it is, in words.
pub(super) fn parsed<T: DeserializeOwned>(place: &mut T, value: ValueRef<'_>, what: &str) -> Read {
    let text = value.as_str()?;
    *place = serde_json::from_str(text).map_err(|_| Unread::Meaning(what.to_owned()))?;
    Ok(())
}
