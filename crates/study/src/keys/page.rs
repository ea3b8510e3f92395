//! Pages of keys: docs/reference/study.

use super::TOP;
use super::form::{Form, Key, Table};
use std::fmt::Write;

/// Returns the tables with a heading of their own.
pub(super) fn tables() -> impl Iterator<Item = &'static Table> {
    TOP.keys.iter().filter_map(|key| within(&key.form).into_iter().next())
}

/// Returns the tables that may stand behind a key, at whatever depth of lists and names.
pub(super) fn within(form: &Form) -> Vec<&'static Table> {
    match form {
        Form::Table(table) => vec![table],
        Form::List(inner) | Form::Named(inner) => within(inner),
        Form::Either(forms) => forms.iter().flat_map(within).collect(),
        _ => Vec::new(),
    }
}

/// Returns the pages of the keys of this name, such as `rest`, or `workload.rest` for one of several.
pub fn pages_of(name: &str) -> Vec<String> {
    let is_meant = |table: &Table, key: &Key| {
        key.name == name || name.split_once('.').is_some_and(|of| of == (bare(table), key.name))
    };
    let of = |table: &'static Table| {
        table.keys.iter().filter(move |key| is_meant(table, key)).map(|key| page(table, key).1)
    };
    tables().flat_map(of).collect()
}

/// Returns the name of a table without its brackets.
fn bare(table: &Table) -> &str {
    table.name.trim_matches(['[', ']']).trim_end_matches(".NAME")
}

/// Returns the page of a key, by its file name.
pub(super) fn page(table: &Table, key: &Key) -> (String, String) {
    let (form, without) = (sentence(&key.form.words()), without(key));
    let mut text = format!("# `{}`\n\nIn `{}`. {form} {without}\n\n", key.name, table.name);
    let _ = writeln!(text, "{}", key.about);
    for inner in within(&key.form) {
        nested(&mut text, inner);
    }
    let such_as = match bare(table) {
        "workload" => "dome-still",
        "meter" => "wall",
        _ => "heron",
    };
    let heading = table.name.replace("NAME", such_as);
    let _ = writeln!(text, "\n## Example\n\n```toml\n{heading}\n{}\n```", key.example);
    (format!("{}.{}.md", bare(table), key.name), text)
}

/// Returns `words` as a sentence.
fn sentence(words: &str) -> String {
    let mut letters = words.chars();
    let first = letters.next().map(char::to_uppercase).into_iter().flatten();
    first.chain(letters).chain(['.']).collect()
}

/// Returns what holds without a key, as a sentence.
fn without(key: &Key) -> String {
    let is_written = |value: &str| format!("x = {value}").parse::<toml::Table>().is_ok();
    match key.default {
        "" => "May be left out.".to_owned(),
        needed if needed.starts_with("needed") => sentence(needed),
        value if is_written(value) => format!("Without it: `{value}`."),
        words => format!("Without it: {words}."),
    }
}

/// Adds what may stand within a key.
fn nested(text: &mut String, table: &'static Table) {
    let _ = writeln!(text, "\n| key of `{}` | written | for |\n|---|---|---|", table.name);
    for key in table.keys {
        let (form, about) = (key.form.words(), key.about.replace('|', "\\|"));
        let _ = writeln!(text, "| `{}` | {form} | {about} {} |", key.name, without(key));
    }
    for inner in table.keys.iter().flat_map(|key| within(&key.form)) {
        nested(text, inner);
    }
}

/// Returns the page that lists all others.
#[cfg(test)]
pub(super) fn contents() -> String {
    let mut text = String::from(
        "# Keys of a study\n\nEvery key of `study.toml`, a page each. How the file is read, with longer examples, is in \
         [formats/study.md](../../formats/study.md).\n",
    );
    for table in tables() {
        let _ = writeln!(text, "\n## `{}`\n\n| key | for |\n|---|---|", table.name);
        for key in table.keys {
            let end = key.about.find(". ").map_or(key.about.len(), |end| end + 1);
            let _ = writeln!(
                text,
                "| [`{0}`]({1}.{0}.md) | {2} |",
                key.name,
                bare(table),
                &key.about[..end]
            );
        }
    }
    text
}
