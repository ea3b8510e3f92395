//! Records as seals cover them: every sealed column of the lists, in their order, in core's one encoding.

use crate::hash::sha256;
use crate::stored::{CHUNK, Column, DETAIL, LAP, OUTPUT, PASS, SESSION, Shape, TASK, VARIANT};
use honest_lap_core::record::Canonical;
use rusqlite::fallible_streaming_iterator::FallibleStreamingIterator;
use rusqlite::types::ValueRef;
use rusqlite::{Connection, Row, Rows};
use std::collections::HashMap;
use std::sync::LazyLock;

/// What seals cover of a table.
pub(crate) struct Covered {
    columns: Vec<Column>,
    /// The names of the columns, for a query, each behind the alias `x`.
    pub names: String,
    /// The column that tells apart what one lap has several of.
    order: String,
    table: &'static str,
}

impl Covered {
    fn of(shape: &Shape) -> Self {
        let columns: Vec<Column> =
            shape.columns.iter().copied().filter(Column::is_sealed).collect();
        let names: Vec<String> =
            columns.iter().map(|column| format!("x.{}", column.name)).collect();
        let order: Vec<String> = shape.identity.iter().map(|name| format!("x.{name}")).collect();
        Self { names: names.join(", "), columns, order: order.join(", "), table: shape.name }
    }

    /// Adds a row whose sealed columns begin at `from`; returns whether a column that came after old forms of seals
    /// holds something.
    pub(crate) fn add(
        &self,
        record: &mut Canonical,
        row: &Row<'_>,
        from: usize,
    ) -> rusqlite::Result<bool> {
        let mut late = false;
        for (at, column) in self.columns.iter().enumerate() {
            late |= column.seal(row.get_ref(from + at)?, record);
        }
        Ok(late)
    }
}

/// What seals cover of each table.
pub(crate) struct AllCovered {
    pub session: Covered,
    task: Covered,
    variant: Covered,
    lap: Covered,
    detail: Covered,
    /// Of what a lap may have none or several, in order.
    pub beside: [Covered; 3],
}

pub(crate) static COVERED: LazyLock<AllCovered> = LazyLock::new(|| AllCovered {
    session: Covered::of(&SESSION.shape()),
    task: Covered::of(&TASK.shape()),
    variant: Covered::of(&VARIANT.shape()),
    lap: Covered::of(&LAP.shape()),
    detail: Covered::of(&DETAIL.shape()),
    beside: [Covered::of(&OUTPUT.shape()), Covered::of(&PASS.shape()), Covered::of(&CHUNK.shape())],
});

/// Returns the record of the session `id`.
pub(crate) fn session(db: &Connection, id: i64) -> rusqlite::Result<Canonical> {
    let covered = &COVERED.session;
    let query = format!("SELECT {} FROM session x WHERE x.id = ?1", covered.names);
    db.prepare_cached(&query)?.query_row([id], |row| {
        let mut record = Canonical::new("session");
        covered.add(&mut record, row, 0)?;
        Ok(record)
    })
}

/// What laps refer to, as seals cover it: many laps refer to the same.
#[derive(Default)]
pub(crate) struct Referred {
    tasks: HashMap<i64, Canonical>,
    variants: HashMap<i64, Canonical>,
}

impl Referred {
    fn add(
        known: &mut HashMap<i64, Canonical>,
        (db, covered, id): (&Connection, &Covered, i64),
        record: &mut Canonical,
    ) -> rusqlite::Result<()> {
        if let Some(fields) = known.get(&id) {
            record.add(fields);
            return Ok(());
        }
        let mut fields = Canonical::fields();
        let query = format!("SELECT {} FROM {} x WHERE x.id = ?1", covered.names, covered.table);
        let mut statement = db.prepare_cached(&query)?;
        let mut rows = statement.query([id])?;
        // What is not there is named among what no seal accounts for.
        if let Some(row) = rows.next()? {
            covered.add(&mut fields, row, 0)?;
        }
        record.add(&fields);
        known.insert(id, fields);
        Ok(())
    }
}

/// Returns a query for laps, as [`lap`] reads them; `which` says whose.
pub(crate) fn laps_query(which: &str) -> String {
    // The detail's columns are named as those of a table of its own.
    let (lap, detail) = (&COVERED.lap.names, COVERED.detail.names.replace("x.", "d."));
    format!(
        "SELECT x.number, x.id, x.task, x.variant, {lap}, {detail}
         FROM lap x JOIN lap_detail d ON d.lap = x.id {which}"
    )
}

/// A lap's record so far: what stands beside it is still to be added.
pub(crate) struct LapRecord {
    pub number: u32,
    pub id: i64,
    pub record: Canonical,
    /// Whether it holds what came after the old forms of seals.
    pub late: bool,
}

/// Reads a row of [`laps_query`], of a session's `mark`, behind the record whose seal is `before`.
pub(crate) fn lap(
    db: &Connection,
    row: &Row<'_>,
    (before, mark): (&str, &str),
    known: &mut Referred,
) -> rusqlite::Result<LapRecord> {
    let all = &*COVERED;
    let (number, id) = (row.get(0)?, row.get(1)?);
    let mut record = Canonical::new("lap");
    record.text("before", before.as_bytes());
    record.text("session", mark.as_bytes());
    let mut late = all.lap.add(&mut record, row, 4)?;
    Referred::add(&mut known.tasks, (db, &all.task, row.get(2)?), &mut record)?;
    Referred::add(&mut known.variants, (db, &all.variant, row.get(3)?), &mut record)?;
    late |= all.detail.add(&mut record, row, 4 + all.lap.columns.len())?;
    Ok(LapRecord { number, id, record, late })
}

impl Covered {
    /// Returns a query for what stands beside laps: the lap's number, the sealed columns, and what is packed; `which`
    /// says whose laps.
    pub(crate) fn beside_query(&self, which: &str) -> String {
        let packed = if self.table == CHUNK.name { "x.sha256, x.packed" } else { "NULL, NULL" };
        format!(
            "SELECT l.number, {}, {packed} FROM {} x JOIN lap l ON l.id = x.lap {which}
             ORDER BY l.number, {}",
            self.names, self.table, self.order
        )
    }
}

/// The rows that stand beside laps, read along with the laps themselves.
pub(crate) struct Beside<'a> {
    covered: &'a Covered,
    rows: Rows<'a>,
}

impl<'a> Beside<'a> {
    pub(crate) fn new(covered: &'a Covered, mut rows: Rows<'a>) -> rusqlite::Result<Self> {
        rows.advance()?;
        Ok(Self { covered, rows })
    }

    /// Adds the rows of the lap `number`, whose turn it is; returns whether what is packed in them is what was sealed.
    pub(crate) fn add(&mut self, number: u32, lap: &mut LapRecord) -> rusqlite::Result<bool> {
        let (covered, mut whole) = (self.covered, true);
        while let Some(row) = self.rows.get() {
            let of: u32 = row.get(0)?;
            if of > number {
                break;
            }
            if of == number {
                lap.late |= covered.add(&mut lap.record, row, 1)?;
                whole &= is_whole(row, 1 + covered.columns.len())?;
            }
            self.rows.advance()?;
        }
        Ok(whole)
    }
}

fn is_whole(row: &Row<'_>, at: usize) -> rusqlite::Result<bool> {
    Ok(match (row.get_ref(at)?, row.get_ref(at + 1)?) {
        (ValueRef::Text(said), ValueRef::Blob(packed)) => said == sha256(packed).as_bytes(),
        _ => true,
    })
}
