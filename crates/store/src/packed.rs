//! Sending what is packed: under its hash, once, and only where the store has it not.

use crate::error::StoreError;
use crate::rows::{arrays, as_text, insert, taken};
use crate::schema::{PACKED, PACKED_COLUMNS, SCHEMA, find};
use crate::store::Store;
use honest_lap_logbook::Logbook;
use honest_lap_logbook::carry::{Column, Part, Shape, Value};
use std::collections::BTreeSet;

/// Bytes of packed series that are sent at once.
const MOST_BYTES: usize = 4 << 20;

impl Store {
    /// Sends what is packed for the laps of `part` and is not in the store yet.
    pub(crate) fn send_packed(
        &mut self,
        logbook: &Logbook,
        part: &Part,
        shapes: &[Shape],
    ) -> Result<(), StoreError> {
        let chunk = find(shapes, "chunk");
        for number in part.from.max(1)..=part.to {
            let lap = Part { from: number, to: number, ..part.clone() };
            let hashes = logbook.rows_of(chunk, &["sha256"], &lap)?;
            let hashes: BTreeSet<String> =
                hashes.into_iter().flatten().filter_map(as_text).collect();
            let missing = self.missing(hashes)?;
            if missing.is_empty() {
                continue;
            }
            let columns: Vec<Column> = PACKED_COLUMNS
                .iter()
                .filter_map(|name| chunk.columns.iter().find(|column| column.name == *name))
                .copied()
                .collect();
            let names: Vec<&str> = columns.iter().map(|column| column.name).collect();
            let insert = format!("{} ON CONFLICT DO NOTHING", insert(PACKED, &columns));
            let (mut rows, mut bytes) = (Vec::new(), 0);
            for row in logbook.rows_of(chunk, &names, &lap)? {
                if !row
                    .first()
                    .cloned()
                    .and_then(as_text)
                    .is_some_and(|hash| missing.contains(&hash))
                {
                    continue;
                }
                bytes += row.iter().map(length).sum::<usize>();
                rows.push(row);
                if bytes >= MOST_BYTES {
                    self.put(&insert, &columns, &rows)?;
                    (rows, bytes) = (Vec::new(), 0);
                }
            }
            self.put(&insert, &columns, &rows)?;
        }
        Ok(())
    }

    fn put(
        &mut self,
        insert: &str,
        columns: &[Column],
        rows: &[Vec<Value>],
    ) -> Result<(), StoreError> {
        if rows.is_empty() {
            return Ok(());
        }
        let put = self.client.execute(insert, &taken(&arrays(columns, rows)));
        put.map(|_| ()).map_err(StoreError::of("sending packed series"))
    }

    fn missing(&mut self, hashes: BTreeSet<String>) -> Result<BTreeSet<String>, StoreError> {
        if hashes.is_empty() {
            return Ok(hashes);
        }
        let asked = format!(
            "SELECT h FROM unnest($1::text[]) h
             WHERE NOT EXISTS (SELECT 1 FROM {SCHEMA}.{PACKED} p WHERE p.sha256 = h)"
        );
        let hashes: Vec<String> = hashes.into_iter().collect();
        let rows = self.client.query(&asked, &[&hashes]);
        let rows = rows.map_err(StoreError::of("asking which packed series it has"))?;
        Ok(rows.iter().map(|row| row.get(0)).collect())
    }
}

fn length(value: &Value) -> usize {
    match value {
        Value::Text(text) => text.len(),
        Value::Blob(bytes) => bytes.len(),
        _ => 8,
    }
}
