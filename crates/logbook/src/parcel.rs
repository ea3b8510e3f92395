//! Records on their way from a rig to whoever runs it from afar: some at a time, under the numbers that they have on the rig.
//!
//! What is added up on the other side is a copy of the rig's own file. Nothing of it is believed before `Visitor::check` has
//! gone through it.

use crate::carry::{Arrivals, Head, Part};
use crate::error::LogbookError;
use crate::open::{Logbook, begin};
use crate::stored::shapes;
use rusqlite::types::Value;
use std::path::Path;

/// The tables whose rows are long, and that no figure is made of.
const LONG: [&str; 2] = ["chunk", "output"];

impl Logbook {
    /// Writes the records of `part`, and the remarks that came behind place `behind`, into a new file at `path`.
    pub fn pack(&self, part: &Part, behind: i64, path: &Path) -> Result<(), LogbookError> {
        let one = std::slice::from_ref(part);
        self.write_parts(one, &|_| true, behind, path)
    }

    /// Writes what figures are made of, of every session of `rig`, and all remarks, into a new file at `path`.
    pub fn pack_figures(&self, rig: &str, path: &Path) -> Result<(), LogbookError> {
        // What a session was recorded as and what it is called now may be two names: both keep their numbers.
        let of_rig = |head: &Head| head.rig == rig || head.session.rig == rig;
        let heads = self.heads()?.into_iter().filter(of_rig);
        let parts: Vec<Part> =
            heads.map(|head| Part { mark: head.mark, from: 0, to: head.last }).collect();
        self.write_parts(&parts, &|table| !LONG.contains(&table), 0, path)
    }

    /// Returns the place of the last remark here; 0 where there is none.
    pub fn last_remark(&self) -> Result<i64, LogbookError> {
        let query = "SELECT ifnull(max(place), 0) FROM remark";
        Ok(self.one(query, &[], |row| row.get(0))?.unwrap_or(0))
    }

    fn write_parts(
        &self,
        parts: &[Part],
        wanted: &dyn Fn(&str) -> bool,
        behind: i64,
        path: &Path,
    ) -> Result<(), LogbookError> {
        let failed = |source| self.failed("read", source);
        let moment = begin(&self.db).map_err(failed)?;
        let mut arrivals = Arrivals::begin_some(path)?;
        for table in shapes().iter().filter(|table| wanted(table.name)) {
            let columns: Vec<&str> = table.columns.iter().map(|column| column.name).collect();
            let mut rows = arrivals.rows(table, &columns)?;
            if table.name == "remark" {
                let any = Part { mark: String::new(), from: 0, to: 0 };
                let place = columns.iter().position(|name| *name == "place");
                for row in self.rows_of(table, &columns, &any)? {
                    let at = place.and_then(|place| row.get(place));
                    if matches!(at, Some(Value::Integer(at)) if *at > behind) {
                        rows.put(row)?;
                    }
                }
                continue;
            }
            for part in parts {
                for row in self.rows_of(table, &columns, part)? {
                    rows.put(row)?;
                }
            }
        }
        arrivals.end()?;
        moment.finish().map_err(failed)
    }
}

/// Adds what [`Logbook::pack`] wrote at `packed`, which may come from anyone, to the file at `to`, which is made where there
/// is none.
pub fn add_packed(packed: &Path, to: &Path) -> Result<(), LogbookError> {
    let part = Logbook::open_visitor(packed, packed)?;
    if let Some(fault) = part.faults()?.into_iter().next() {
        return Err(part.damaged(format!("the file ({fault})")));
    }
    drop(part);
    let kept = Logbook::create_or_open(to)?;
    let failed = |source| kept.failed("write to", source);
    kept.db
        .execute("ATTACH DATABASE ?1 AS other", [packed.to_str().unwrap_or_default()])
        .map_err(failed)?;
    let tx = kept.exclusively("write to")?;
    for table in shapes() {
        let columns: Vec<&str> = table.columns.iter().map(|column| column.name).collect();
        let (name, columns) = (table.name, columns.join(", "));
        // Tasks, variants and signatures come again with every part that refers to them.
        let add = format!(
            "INSERT INTO main.{name} ({columns}) SELECT {columns} FROM other.{name} WHERE true
             ON CONFLICT DO NOTHING"
        );
        tx.execute(&add, []).map_err(failed)?;
    }
    tx.commit().map_err(failed)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::OpenSession;
    use crate::merge::Visitor;
    use crate::tests::{begin as begin_marked, body, lap, task};
    use honest_lap_core::record::Settings;

    fn begin_session(logbook: &mut Logbook, rig: &str) -> OpenSession {
        let mark = format!("{:032x}", logbook.heads().unwrap().len());
        begin_marked(logbook, rig, &mark)
    }

    fn append(logbook: &mut Logbook, session: &OpenSession, number: u32) {
        let task = task("x");
        logbook
            .append_lap(session, &lap(number, ("still", &task), &Settings::default(), &body()))
            .unwrap();
    }

    fn head(logbook: &Logbook) -> (String, u32) {
        let head = logbook.heads().unwrap().pop().unwrap();
        (head.mark, head.last)
    }

    #[test]
    fn what_comes_part_by_part_is_the_same_as_what_is_there() {
        let dir = tempfile::tempdir().unwrap();
        let at = |name: &str| dir.path().join(name);
        let mut there = Logbook::create_or_open(&at("there.db")).unwrap();
        let old = begin_session(&mut there, "heron");
        append(&mut there, &old, 1);
        let session = begin_session(&mut there, "heron");
        let mut from = 0;
        for number in 1..=3 {
            append(&mut there, &session, number);
            let (mark, last) = head(&there);
            let packed = at(&format!("{number}.db"));
            there.pack(&Part { mark, from, to: last }, 0, &packed).unwrap();
            add_packed(&packed, &at("came.db")).unwrap();
            // The same part again, as after a lost connection, changes nothing.
            add_packed(&packed, &at("came.db")).unwrap();
            from = last + 1;
        }
        let visitor = Visitor::check(&at("came.db"), &at("copy.db")).unwrap();
        let mut here = Logbook::create_or_open(&at("here.db")).unwrap();
        let merged = here.take_in(&visitor).unwrap();
        assert_eq!((merged.sessions, merged.laps), (1, 3));
        assert_eq!(here.heads().unwrap()[0].seal, there.heads().unwrap()[1].seal);
        // A part whose session never came belongs to nothing.
        let (mark, last) = head(&there);
        there.pack(&Part { mark, from: last, to: last }, 0, &at("last.db")).unwrap();
        assert!(add_packed(&at("last.db"), &at("other.db")).is_err());
    }

    #[test]
    fn figures_are_a_logbook_in_which_the_rigs_sessions_go_on() {
        let dir = tempfile::tempdir().unwrap();
        let at = |name: &str| dir.path().join(name);
        let mut here = Logbook::create_or_open(&at("here.db")).unwrap();
        for rig in ["heron", "wren", "heron"] {
            let session = begin_session(&mut here, rig);
            append(&mut here, &session, 1);
        }
        here.pack_figures("heron", &at("figures.db")).unwrap();
        let mut figures = Logbook::create_or_open(&at("figures.db")).unwrap();
        let sessions: Vec<String> =
            figures.heads().unwrap().iter().map(|head| head.session.to_string()).collect();
        assert_eq!(sessions, ["heron-1", "heron-2"]);
        let third = begin_marked(&mut figures, "heron", &"f".repeat(32));
        assert_eq!(third.name.to_string(), "heron-3");
    }
}
