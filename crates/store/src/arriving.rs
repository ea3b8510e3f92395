//! Rows on their way from the server into a file: what reads them and what writes them down are a thread each.

use crate::error::StoreError;
use honest_lap_logbook::LogbookError;
use honest_lap_logbook::carry::{Arrivals, Shape, Value, shapes};
use std::path::Path;
use std::sync::mpsc::{Receiver, SyncSender, sync_channel};
use std::thread;

/// Rows that are handed over at once, or fewer where they hold so many bytes: packed series are long.
const AT_ONCE: usize = 500;
const BYTES_AT_ONCE: usize = 1 << 20;
/// How many times as many wait to be written at most: enough that neither waits for the other at every turn.
const WAITING: usize = 8;

/// What is handed over.
enum Piece {
    /// A table, by its name, and the columns that rows of it have from here on.
    Table(&'static str, Vec<&'static str>),
    /// Rows of it.
    Rows(Vec<Vec<Value>>),
    /// All of it was there.
    Whole,
}

/// Hands rows over to be written.
pub(crate) struct Arriving {
    to: SyncSender<Piece>,
    rows: Vec<Vec<Value>>,
    /// How many bytes of texts and of packed values these hold.
    bytes: usize,
    is_over: bool,
}

impl Arriving {
    /// Begins rows of `table` with these columns.
    pub(crate) fn table(&mut self, table: &Shape, columns: Vec<&'static str>) {
        self.rest();
        self.send(Piece::Table(table.name, columns));
    }

    /// Hands over a row of it; returns whether there is any use in more.
    pub(crate) fn row(&mut self, row: Vec<Value>) -> bool {
        self.bytes += row.iter().map(length).sum::<usize>();
        self.rows.push(row);
        if self.rows.len() == AT_ONCE || self.bytes >= BYTES_AT_ONCE {
            self.rest();
        }
        !self.is_over
    }

    fn rest(&mut self) {
        self.bytes = 0;
        let rows = std::mem::take(&mut self.rows);
        if !rows.is_empty() {
            self.send(Piece::Rows(rows));
        }
    }

    fn send(&mut self, piece: Piece) {
        // Nobody takes it where it could not be written, and whoever could not write says why.
        self.is_over |= self.to.send(piece).is_err();
    }
}

fn length(value: &Value) -> usize {
    match value {
        Value::Text(text) => text.len(),
        Value::Blob(bytes) => bytes.len(),
        Value::Null | Value::Integer(_) | Value::Real(_) => 0,
    }
}

/// Writes what `read` hands over into a new file at `path`; where either fails, nothing is in it.
pub(crate) fn arriving<T>(
    path: &Path,
    read: impl FnOnce(&mut Arriving) -> Result<T, StoreError>,
) -> Result<T, StoreError> {
    let (to, pieces) = sync_channel(WAITING);
    thread::scope(|scope| {
        let writing = scope.spawn(move || written(path, pieces));
        let mut arriving = Arriving { to, rows: Vec::new(), bytes: 0, is_over: false };
        let read = read(&mut arriving);
        if read.is_ok() {
            arriving.rest();
            arriving.send(Piece::Whole);
        }
        drop(arriving);
        let written = writing.join().unwrap_or_else(|panic| std::panic::resume_unwind(panic));
        written?;
        read
    })
}

/// Writes pieces down until all were there; where they end before that, nothing stays.
fn written(path: &Path, pieces: Receiver<Piece>) -> Result<(), LogbookError> {
    let shapes = shapes();
    let mut arrivals = Arrivals::begin(path)?;
    let mut next = pieces.recv().ok();
    while let Some(piece) = next {
        next = match piece {
            Piece::Whole => return arrivals.end(),
            Piece::Table(name, columns) => {
                let Some(table) = shapes.iter().find(|table| table.name == name) else { break };
                let mut rows = arrivals.rows(table, &columns)?;
                loop {
                    match pieces.recv().ok() {
                        Some(Piece::Rows(some)) => {
                            some.into_iter().try_for_each(|row| rows.put(row))?;
                        }
                        other => break other,
                    }
                }
            }
            // Of no table.
            Piece::Rows(_) => break,
        };
    }
    Ok(())
}

#[cfg(test)]
mod tests {
    use super::*;
    use honest_lap_logbook::Logbook;
    use honest_lap_logbook::carry::Part;

    fn remarks() -> Shape {
        shapes().into_iter().find(|table| table.name == "remark").unwrap()
    }

    /// Hands over so many remarks, and the word that all were there, or not; returns how many were handed over, too.
    fn hand_over(
        path: &Path,
        count: usize,
        ended: Result<(), StoreError>,
    ) -> (usize, Result<(), StoreError>) {
        let columns: Vec<&'static str> =
            remarks().columns.iter().map(|column| column.name).collect();
        let mut handed = 0;
        let came = arriving(path, |arriving| {
            arriving.table(&remarks(), columns.clone());
            for number in 1..=count {
                let text = |name: &&str| match *name {
                    "place" | "form" => Value::Integer(i64::try_from(number).unwrap()),
                    name => Value::Text(format!("{name} {number}")),
                };
                handed = number;
                if !arriving.row(columns.iter().map(text).collect()) {
                    break;
                }
            }
            ended
        });
        (handed, came)
    }

    fn found(path: &Path) -> Vec<String> {
        let all = Part { mark: String::new(), from: 0, to: 0 };
        let rows = Logbook::open(path).unwrap().rows_of(&remarks(), &["mark"], &all).unwrap();
        let text = |row: Vec<Value>| match row.into_iter().next() {
            Some(Value::Text(text)) => text,
            other => panic!("{other:?}"),
        };
        rows.into_iter().map(text).collect()
    }

    #[test]
    fn rows_are_there_in_the_order_in_which_they_came() {
        let dir = tempfile::tempdir().unwrap();
        let path = dir.path().join("all.db");
        let count = AT_ONCE * (WAITING + 2) + 7;
        let (handed, came) = hand_over(&path, count, Ok(()));
        assert!(came.is_ok() && handed == count, "{came:?}");
        let expected: Vec<String> = (1..=count).map(|number| format!("mark {number}")).collect();
        assert_eq!(found(&path), expected);
    }

    #[test]
    fn of_what_broke_off_nothing_is_there() {
        let dir = tempfile::tempdir().unwrap();
        let path = dir.path().join("broken.db");
        let broken = Err(StoreError::Address("lost".to_owned()));
        let (_, came) = hand_over(&path, 3 * AT_ONCE, broken);
        assert!(matches!(came, Err(StoreError::Address(_))), "{came:?}");
        assert_eq!(found(&path).len(), 0);
    }

    #[test]
    fn a_file_that_cannot_be_written_ends_the_reading_and_says_why() {
        let dir = tempfile::tempdir().unwrap();
        let path = dir.path().join("no such folder/all.db");
        let many = AT_ONCE * WAITING * 1_000;
        let (handed, came) = hand_over(&path, many, Ok(()));
        assert!(matches!(came, Err(StoreError::Logbook(_))), "{came:?}");
        assert!(handed < many, "{handed}");
    }
}
