//! Sending what a store lacks: batch by batch, each whole or not at all, so that whatever ends it, it goes on from there.

use crate::error::StoreError;
use crate::rows::{arrays, as_text, insert, taken, unnested};
use crate::schema::{SCHEMA, find, long_identity, sent};
use crate::store::Store;
use crate::sync::{Agreed, Step, Synced};
use honest_lap_core::record::SessionName;
use honest_lap_logbook::Logbook;
use honest_lap_logbook::carry::{Column, Head, Part, Role, Shape, Value, shapes};
use postgres::Transaction;
use std::collections::{BTreeSet, HashMap};

/// Laps that are sent at once.
const MOST_LAPS: usize = 500;

/// The number in the store of every row that others refer to, by table and by its number here.
type Numbers = HashMap<&'static str, HashMap<i64, i64>>;

impl Store {
    /// Sends what `agreed` says, and tells `step` how far it is; what is sent stays, whatever comes after.
    ///
    /// * Errors: the store refuses a record, or fails: what was sent before is there, and the next call goes on behind it.
    pub fn send(
        &mut self,
        logbook: &Logbook,
        agreed: &Agreed,
        step: &mut dyn FnMut(Step),
    ) -> Result<Synced, StoreError> {
        self.takes_ours()?;
        let mut synced = Synced::default();
        let shapes = shapes();
        let mut laps = Vec::new();
        for part in &agreed.to_send {
            let above = part.from.saturating_sub(1);
            laps.push(logbook.laps_above(&part.mark, above)?);
        }
        let all: usize = laps.iter().map(Vec::len).sum();
        let have_packed = |(_, laps): &(&Part, &Vec<(u32, u64)>)| laps.iter().any(|lap| lap.1 > 0);
        let packed: BTreeSet<&str> = agreed
            .to_send
            .iter()
            .zip(&laps)
            .filter(have_packed)
            .map(|(part, _)| part.mark.as_str())
            .collect();
        for parts in batches(&agreed.to_send, &laps) {
            for part in parts.iter().filter(|part| packed.contains(part.mark.as_str())) {
                self.send_packed(logbook, part, &shapes)?;
            }
            synced.sessions += parts.iter().filter(|part| part.from == 0).count();
            synced.laps += self.send_batch(logbook, &parts, &shapes)?;
            step(Step::Sent(synced.laps, all));
        }
        if agreed.signatures_to_send || !agreed.to_send.is_empty() {
            self.send_signatures(logbook, agreed, &shapes)?;
        }
        synced.remarks = self.send_remarks(logbook, &agreed.remarks_to_send, &shapes)?;
        Ok(synced)
    }

    /// Sends the records of `parts`, all of them or none; returns how many laps they have.
    fn send_batch(
        &mut self,
        logbook: &Logbook,
        parts: &[Part],
        shapes: &[Shape],
    ) -> Result<usize, StoreError> {
        let doing = || match parts {
            [one] => format!("records of the session {}", one.mark),
            several => format!("records of {} sessions", several.len()),
        };
        let mut tx = self.client.transaction().map_err(StoreError::of(doing()))?;
        let mut numbers = Numbers::new();
        let mut laps = 0;
        let of_laps = shapes.iter().filter(|table| !matches!(table.name, "signature" | "remark"));
        for table in of_laps {
            let sent = sent(table);
            let own = table.columns.iter().filter(|column| column.role == Role::Own);
            let columns: Vec<Column> = own.chain(&sent).copied().collect();
            let names: Vec<&str> = columns.iter().map(|column| column.name).collect();
            let mut rows = Vec::new();
            for part in parts {
                rows.extend(logbook.rows_of(table, &names, part)?);
            }
            if table.name == "session" {
                send_sessions(&mut tx, (logbook, parts), (table, &sent), rows, &mut numbers)
            } else {
                let has_own = columns.len() > sent.len();
                rows.sort_by_key(|row| own_number(row));
                rows.dedup_by(|a, b| has_own && own_number(a) == own_number(b));
                let ids: Vec<i64> = rows.iter().filter_map(|row| own_number(row)).collect();
                if has_own {
                    rows.iter_mut().for_each(|row| drop(row.remove(0)));
                }
                laps += if table.name == "lap" { rows.len() } else { 0 };
                let rows = renumbered(&sent, rows, &numbers);
                send_rows(&mut tx, (table, &sent), (&ids, &rows), &mut numbers)
            }
            .map_err(StoreError::of(doing()))?;
        }
        tx.commit().map_err(StoreError::of(doing()))?;
        Ok(laps)
    }

    fn send_signatures(
        &mut self,
        logbook: &Logbook,
        agreed: &Agreed,
        shapes: &[Shape],
    ) -> Result<(), StoreError> {
        let table = find(shapes, "signature");
        let columns = sent(table);
        let names: Vec<&str> = columns.iter().map(|column| column.name).collect();
        let doing = || StoreError::of("signatures of sessions");
        let parted: BTreeSet<&SessionName> =
            agreed.parted.iter().map(|(session, _)| session).collect();
        let asked = format!(
            "SELECT s.mark, s.id, k.number FROM {SCHEMA}.session s JOIN LATERAL
                 (SELECT number FROM {SCHEMA}.seal WHERE session = s.id ORDER BY number DESC LIMIT 1) k ON true
             WHERE {SCHEMA}.writes(s.rig)"
        );
        let known = self.client.query(&asked, &[]).map_err(doing())?;
        let known: HashMap<String, (i64, i64)> =
            known.iter().map(|row| (row.get(0), (row.get(1), row.get(2)))).collect();
        let mut rows = Vec::new();
        let goes = |head: &&Head| head.is_present && !parted.contains(&head.session);
        for head in logbook.heads()?.iter().filter(goes) {
            let Some((id, last)) = known.get(&head.mark) else { continue };
            let to = u32::try_from(*last).unwrap_or(head.last).min(head.last);
            let part = Part { mark: head.mark.clone(), from: 0, to };
            for mut row in logbook.rows_of(table, &names, &part)? {
                let at = columns.iter().position(|column| column.role == Role::Of("session"));
                if let Some(value) = at.and_then(|at| row.get_mut(at)) {
                    *value = Value::Integer(*id);
                }
                rows.push(row);
            }
        }
        let insert = format!("{} ON CONFLICT DO NOTHING", insert(table.name, &columns));
        for some in rows.chunks(MOST_LAPS) {
            let put = self.client.execute(&insert, &taken(&arrays(&columns, some)));
            put.map_err(doing())?;
        }
        Ok(())
    }

    fn send_remarks(
        &mut self,
        logbook: &Logbook,
        marks: &BTreeSet<String>,
        shapes: &[Shape],
    ) -> Result<usize, StoreError> {
        if marks.is_empty() {
            return Ok(0);
        }
        let table = find(shapes, "remark");
        let columns = sent(table);
        let names: Vec<&str> = columns.iter().map(|column| column.name).collect();
        let at = names.iter().position(|name| *name == "mark").unwrap_or(0);
        let mut rows =
            logbook.rows_of(table, &names, &Part { mark: String::new(), from: 0, to: 0 })?;
        rows.retain(|row| {
            row.get(at).cloned().and_then(as_text).is_some_and(|m| marks.contains(&m))
        });
        for some in rows.chunks(MOST_LAPS) {
            let put =
                self.client.execute(&insert(table.name, &columns), &taken(&arrays(&columns, some)));
            put.map_err(StoreError::of("remarks"))?;
        }
        Ok(rows.len())
    }
}

/// Cuts what is to be sent into batches of about as many laps.
fn batches(parts: &[Part], laps: &[Vec<(u32, u64)>]) -> Vec<Vec<Part>> {
    let mut all = vec![Vec::new()];
    let mut room = MOST_LAPS;
    for (part, laps) in parts.iter().zip(laps) {
        let mut from = part.from;
        let mut left = laps.as_slice();
        loop {
            let taken = left.len().min(room);
            let rest = left.split_at(taken).1;
            let to = match (left.get(taken.wrapping_sub(1)), rest.is_empty()) {
                (_, true) => part.to,
                (Some((last, _)), false) => *last,
                (None, false) => from,
            };
            // With no room for a lap, a session begins in the next batch.
            if taken > 0 || rest.is_empty() {
                if let Some(batch) = all.last_mut() {
                    batch.push(Part { mark: part.mark.clone(), from, to });
                }
                from = to + 1;
            }
            // A session without a lap takes room too.
            room = room.saturating_sub(taken.max(1));
            left = rest;
            if room == 0 {
                all.push(Vec::new());
                room = MOST_LAPS;
            }
            if left.is_empty() {
                break;
            }
        }
    }
    all.retain(|batch| !batch.is_empty());
    all
}

/// Sends sessions that begin, and learns the numbers of all of `parts`.
fn send_sessions(
    tx: &mut Transaction<'_>,
    (logbook, parts): (&Logbook, &[Part]),
    (table, sent): (&Shape, &[Column]),
    mut rows: Vec<Vec<Value>>,
    numbers: &mut Numbers,
) -> Result<(), postgres::Error> {
    rows.iter_mut().for_each(|row| drop(row.remove(0)));
    if !rows.is_empty() {
        tx.execute(&insert(table.name, sent), &taken(&arrays(sent, &rows)))?;
    }
    let marks: Vec<String> = parts.iter().map(|part| part.mark.clone()).collect();
    let asked = format!("SELECT mark, id FROM {SCHEMA}.session WHERE mark = ANY ($1)");
    let theirs: HashMap<String, i64> =
        tx.query(&asked, &[&marks])?.iter().map(|row| (row.get(0), row.get(1))).collect();
    let known = numbers.entry("session").or_default();
    for mark in marks {
        let own = Part { mark: mark.clone(), from: 0, to: 0 };
        let ours = logbook.rows_of(table, &["id"], &own).unwrap_or_default();
        let ours = ours.first().and_then(|row| own_number(row));
        if let (Some(ours), Some(theirs)) = (ours, theirs.get(&mark)) {
            known.insert(ours, *theirs);
        }
    }
    Ok(())
}

/// Sends rows whose numbers here are `ids`, and learns their numbers in the store where others refer to them.
fn send_rows(
    tx: &mut Transaction<'_>,
    (table, sent): (&Shape, &[Column]),
    (ids, rows): (&[i64], &[Vec<Value>]),
    numbers: &mut Numbers,
) -> Result<(), postgres::Error> {
    if rows.is_empty() {
        return Ok(());
    }
    let arrays = arrays(sent, rows);
    if !["task", "variant", "lap"].contains(&table.name) {
        return tx.execute(&insert(table.name, sent), &taken(&arrays)).map(|_| ());
    }
    let name = table.name;
    let conflict = match long_identity(table) {
        Some(identity) => format!(" ON CONFLICT ({identity}) DO NOTHING"),
        None => String::new(),
    };
    tx.execute(&format!("{}{conflict}", insert(name, sent)), &taken(&arrays))?;
    let same: Vec<String> = table
        .identity
        .iter()
        .map(|column| match long_identity(table) {
            Some(_) => format!("md5(t.{column}) = md5(u.{column}) AND t.{column} = u.{column}"),
            None => format!("t.{column} = u.{column}"),
        })
        .collect();
    let names: Vec<&str> = sent.iter().map(|column| column.name).collect();
    let asked = format!(
        "SELECT u.at, t.id FROM ROWS FROM ({}) WITH ORDINALITY u({}, at) JOIN {SCHEMA}.{name} t ON {}",
        unnested(sent),
        names.join(", "),
        same.join(" AND "),
    );
    let learned = numbers.entry(name).or_default();
    for row in tx.query(&asked, &taken(&arrays))? {
        let at = usize::try_from(row.get::<_, i64>(0)).unwrap_or_default();
        if let Some(ours) = at.checked_sub(1).and_then(|at| ids.get(at)) {
            learned.insert(*ours, row.get(1));
        }
    }
    Ok(())
}

/// Returns rows with the store's numbers of what they refer to.
fn renumbered(sent: &[Column], mut rows: Vec<Vec<Value>>, numbers: &Numbers) -> Vec<Vec<Value>> {
    for (at, column) in sent.iter().enumerate() {
        let Role::Of(table) = column.role else { continue };
        let of = numbers.get(table);
        for value in rows.iter_mut().filter_map(|row| row.get_mut(at)) {
            if let Value::Integer(ours) = *value {
                // What is not known is refused by the store: nothing has this number.
                *value = Value::Integer(of.and_then(|of| of.get(&ours)).copied().unwrap_or(-1));
            }
        }
    }
    rows
}

fn own_number(row: &[Value]) -> Option<i64> {
    match row.first() {
        Some(Value::Integer(number)) => Some(*number),
        _ => None,
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn batches_hold_every_record_once_and_about_as_many_laps() {
        let part = |mark: &str, from, to| Part { mark: mark.into(), from, to };
        let laps = |numbers: std::ops::Range<u32>| numbers.map(|n| (n, 0)).collect();
        let parts = [part("a", 0, 1_200), part("b", 0, 0), part("c", 7, 9)];
        let cut = batches(&parts, &[laps(1..1_201), laps(1..1), laps(7..10)]);
        let last = vec![part("a", 1_001, 1_200), part("b", 0, 0), part("c", 7, 9)];
        assert_eq!(cut, [vec![part("a", 0, 500)], vec![part("a", 501, 1_000)], last]);
        let cut = batches(&[part("a", 0, 500), part("b", 0, 2)], &[laps(1..501), laps(1..3)]);
        assert_eq!(cut, [vec![part("a", 0, 500)], vec![part("b", 0, 2)]]);
        assert!(batches(&[], &[]).is_empty());
    }
}
