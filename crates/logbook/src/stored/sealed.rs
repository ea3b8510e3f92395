//! How a column's value enters the record that a seal covers.

use super::table::{Column, FIRST, Role, Table};
use crate::hash::sha256;
use honest_lap_core::record::Canonical;
use rusqlite::types::{Value, ValueRef};

impl Column {
    /// Returns whether a seal covers it.
    pub fn is_sealed(&self) -> bool {
        matches!(self.role, Role::Sealed | Role::Digested)
    }

    /// Adds the column's value to `record`; returns whether it holds something that came after the old forms of seals.
    pub(crate) fn seal(&self, value: ValueRef<'_>, record: &mut Canonical) -> bool {
        let name = self.name;
        match value {
            ValueRef::Null => return false,
            ValueRef::Text(text) if self.empty.is_some_and(|empty| empty.as_bytes() == text) => {
                return false;
            }
            ValueRef::Integer(number) => record.number(name, number),
            // Tables are strict and no column is of this type.
            ValueRef::Real(number) => record.text(name, number.to_string().as_bytes()),
            ValueRef::Text(text) if self.role == Role::Sealed => record.text(name, text),
            ValueRef::Text(bytes) | ValueRef::Blob(bytes) => record.digest(name, &sha256(bytes)),
        }
        self.since > FIRST
    }
}

impl<W, R> Table<W, R> {
    /// Returns a row as its seal covers it, whose value in each column `value` gives.
    pub(crate) fn sealed(&self, value: impl Fn(&W) -> Value) -> Canonical {
        let mut record = Canonical::new(self.name);
        for stored in self.columns.iter().filter(|stored| stored.column.is_sealed()) {
            stored.column.seal(ValueRef::from(&value(&stored.write)), &mut record);
        }
        record
    }
}
