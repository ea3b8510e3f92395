//! Wide tables, a row a rig and a column a workload, as people keep them in spreadsheets.

use crate::entry::{Common, Entry, EntryError, entries};
use crate::record::{Study, TIME};

/// What a column of a wide table is of.
struct Heading {
    workload: String,
    settings: Vec<(String, String)>,
    /// The measure, with its unit behind it as it was written.
    measure: String,
}

/// Reads `dome-still threads=2 · low 1% [fps]`: workload, settings, measure, unit; all but the first may be
/// left out.
fn heading(text: &str) -> Heading {
    let (of, unit) = match text.trim().split_once('[') {
        Some((of, unit)) => (of, Some(unit.trim_end_matches(']').trim())),
        None => (text, None),
    };
    let (of, measure) = of.split_once('·').map_or((of, TIME), |(of, measure)| (of, measure.trim()));
    let mut words = of.split([' ', ',']).filter(|word| !word.is_empty());
    let workload = words.next().unwrap_or_default().to_owned();
    let pair = |word: &str| {
        let (key, value) = word.split_once('=').unwrap_or((word, ""));
        (key.to_owned(), value.to_owned())
    };
    let measure = match unit {
        Some(unit) => format!("{measure} [{unit}]"),
        None => measure.to_owned(),
    };
    Heading { workload, settings: words.map(pair).collect(), measure }
}

/// Returns the values of a wide table, each as a lap that somebody read off.
///
/// The first column names the rig, whatever its heading; an empty cell is nothing read.
///
/// * Errors: what [`entries`] says of a cell, with the column's whole heading.
pub fn wide_entries(
    study: &Study,
    headings: &[String],
    rows: &[Vec<String>],
) -> Result<Vec<Entry>, EntryError> {
    let missing = |problem: &str, remedy: &str| EntryError {
        place: "the table".to_owned(),
        problem: problem.to_owned(),
        remedy: remedy.to_owned(),
    };
    let [_, columns @ ..] = headings else {
        return Err(missing("it has no columns", "name the rigs in the first column"));
    };
    let mut all = Vec::new();
    for (place, text) in columns.iter().enumerate() {
        let heading = heading(text);
        let common =
            Common { workload: Some(heading.workload), settings: heading.settings, rig: None };
        let names = ["rig".to_owned(), heading.measure];
        let cell = |row: &Vec<String>, at: usize| row.get(at).cloned().unwrap_or_default();
        // Rows keep their numbers: an empty one is passed over where it stands.
        let read = |row: &Vec<String>| match cell(row, place + 1).trim() {
            "" | "-" | "–" => vec![String::new(), String::new()],
            _ => vec![cell(row, 0), cell(row, place + 1)],
        };
        let of_column: Vec<Vec<String>> = rows.iter().map(read).collect();
        if of_column.iter().all(|row| row.iter().all(String::is_empty)) {
            continue;
        }
        let found = entries(study, &names, &of_column, &common);
        all.extend(found.map_err(|err| EntryError {
            place: format!("column `{text}`, {}", err.place),
            ..err
        })?);
    }
    match all.is_empty() {
        true => Err(missing("it has no values", "put a value below a workload's heading")),
        false => Ok(all),
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::entry::table::tests::study;
    use crate::unit::Nanos;

    fn strings(row: &[&str]) -> Vec<String> {
        row.iter().map(|&text| text.to_owned()).collect()
    }

    #[test]
    fn every_cell_is_a_lap_of_its_column_and_an_empty_one_is_none() {
        let headings =
            strings(&["machine", "reel encoder=software [min]", "still · score", "still"]);
        let rows = [strings(&["heron", "1.5", "812", ""]), strings(&["wren", "", "–", "0:52"])];
        let read = wide_entries(&study(), &headings, &rows).unwrap();
        let of = |entry: &Entry| (entry.rig.clone(), entry.workload.clone(), entry.row);
        let cells = [("heron", "reel", 1), ("heron", "still", 1), ("wren", "still", 2)];
        let cells = cells.map(|(rig, workload, row)| (rig.to_owned(), workload.to_owned(), row));
        assert_eq!(read.iter().map(of).collect::<Vec<_>>(), cells);
        assert_eq!(read[0].time.unwrap().0, Nanos(90_000_000_000), "1.5 min");
        assert_eq!(read[0].settings.get("encoder"), Some("software"));
        assert_eq!(read[1].readings[0].value, Some(812.0));
        assert_eq!(read[2].time.unwrap().0, Nanos(52_000_000_000));
    }

    #[test]
    fn what_is_wrong_is_told_by_column_and_row() {
        let table = |heading: &str, cell: &str| {
            let rows = [strings(&["heron", cell])];
            wide_entries(&study(), &strings(&["rig", heading]), &rows).unwrap_err().to_string()
        };
        let unknown = table("render [s]", "5");
        assert!(unknown.starts_with("column `render [s]`, row 1"), "{unknown}");
        assert!(table("reel [s]", "5").contains("`encoder` is varied"));
        assert!(table("still [s]", "5.x").contains("column `still [s]`"));
        assert!(table("still", "").contains("no values"));
    }
}
