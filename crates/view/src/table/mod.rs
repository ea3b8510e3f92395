//! The one data model behind every table, and its forms: text, JSON, CSV and Markdown.
//!
//! A [`Sheet`] says what is to be shown and nothing of how. Machine formats keep every digit and
//! raw units; only text and Markdown round, to what the spread of a figure supports. Every writer
//! takes any [`std::io::Write`], so all of it is tested without a terminal.

mod csv;
mod json;
pub(crate) mod markdown;
#[cfg(test)]
mod shape;
mod sheet;
mod strip;
mod text;
mod theme;

pub use sheet::{Align, Cell, Column, Group, Layout, Role, Sheet, Show, Value};
pub use strip::strip;
pub use theme::style;

use std::io;

/// The form in which a sheet is written.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Format {
    /// For a person at a terminal of this width; `None` is as wide as it takes.
    Text {
        /// Columns of the terminal.
        width: Option<usize>,
    },
    /// For programs: one object, schema and version named.
    Json,
    /// For spreadsheets: one table, a row a row.
    Csv,
    /// For a forum or a pull request.
    Markdown,
}

/// Writes `sheet` to `out`; chooses nothing but the form.
pub fn write(sheet: &Sheet, format: Format, out: &mut dyn io::Write) -> io::Result<()> {
    match format {
        Format::Text { width } => text::write(sheet, width, out),
        Format::Json => json::write(sheet, out),
        Format::Csv => csv::write(sheet, out),
        Format::Markdown => markdown::write(sheet, out),
    }
}

#[cfg(test)]
mod tests;
