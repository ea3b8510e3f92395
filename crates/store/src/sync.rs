//! What a logbook and a store lack of each other.

use crate::error::StoreError;
use crate::rows::as_text;
use crate::schema::{SCHEMA, find};
use crate::store::Store;
use honest_lap_core::record::SessionName;
use honest_lap_logbook::Logbook;
use honest_lap_logbook::carry::{Head, Part, shapes};
use std::collections::{BTreeSet, HashMap};

/// What goes on, for whoever waits.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Step {
    /// So many laps of so many are in the store.
    Sent(usize, usize),
    /// So many sessions of so many have come.
    Fetched(usize, usize),
}

/// What sending came to.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub struct Synced {
    /// Sessions that were new to the store.
    pub sessions: usize,
    /// Laps, likewise.
    pub laps: usize,
    /// Remarks, likewise.
    pub remarks: usize,
}

/// What each lacks of the other, session by session.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Agreed {
    /// Records that the store lacks, session by session, behind what it has of each.
    pub to_send: Vec<Part>,
    /// Sessions of which the store has more, or that are not here.
    pub to_fetch: Vec<String>,
    /// Sessions that both have, each in its own way, from which record on: neither is touched.
    pub parted: Vec<(SessionName, u32)>,
    /// Sessions sealed over encodings of old formats, which the store cannot check.
    pub unchecked: Vec<SessionName>,
    /// Sessions that the store lacks and that this login may not write.
    pub forbidden: Vec<SessionName>,
    /// Remarks that the store lacks, and that this login may not add.
    pub remarks_forbidden: usize,
    /// Remarks that the store lacks, by mark.
    pub remarks_to_send: BTreeSet<String>,
    /// How many remarks are not here.
    pub remarks_to_fetch: usize,
    /// How many signatures are not here.
    pub signatures_to_fetch: usize,
    /// Whether the store lacks a signature.
    pub signatures_to_send: bool,
}

impl Agreed {
    /// Returns whether the store has all that is here.
    pub fn sends_nothing(&self) -> bool {
        self.to_send.is_empty() && self.remarks_to_send.is_empty() && !self.signatures_to_send
    }

    /// Returns whether all that the store has is here.
    pub fn fetches_nothing(&self) -> bool {
        self.to_fetch.is_empty() && self.remarks_to_fetch == 0 && self.signatures_to_fetch == 0
    }
}

/// How far a session goes in the store.
struct Theirs {
    last: u32,
    seal: String,
}

impl Store {
    /// Returns what the store and `logbook` lack of each other.
    pub fn agree(&mut self, logbook: &Logbook) -> Result<Agreed, StoreError> {
        let mut theirs = self.heads()?;
        let (rigs, remarks) = self.rights()?;
        let mut agreed = Agreed::default();
        for Head { session, rig, mark, last, seal, is_present } in logbook.heads()? {
            let may = may_write(&rigs, &rig);
            let sends = |agreed: &mut Agreed, part: Part| match (is_present, may) {
                (true, true) => agreed.to_send.push(part),
                (true, false) => agreed.forbidden.push(session.clone()),
                (false, _) => agreed.unchecked.push(session.clone()),
            };
            let Some(known) = theirs.remove(&mark) else {
                sends(&mut agreed, Part { mark, from: 0, to: last });
                continue;
            };
            if known.seal == seal {
                continue;
            }
            // The shorter one must be the beginning of the longer one.
            let meets = match known.last < last {
                true => logbook.seal_at(&mark, known.last)? == Some(known.seal),
                false => known.last > last && self.seal_at(&mark, last)? == Some(seal),
            };
            match (meets, known.last < last) {
                (true, true) => {
                    sends(&mut agreed, Part { mark, from: known.last + 1, to: last });
                }
                (true, false) => agreed.to_fetch.push(mark),
                (false, _) => agreed.parted.push((session, known.last.min(last))),
            }
        }
        agreed.to_fetch.extend(theirs.into_keys());
        agreed.to_fetch.sort();
        let parted: BTreeSet<SessionName> =
            agreed.parted.iter().map(|(session, _)| session.clone()).collect();
        self.agree_on_remarks(logbook, &mut agreed)?;
        if !remarks {
            agreed.remarks_forbidden = std::mem::take(&mut agreed.remarks_to_send).len();
        }
        self.agree_on_signatures(logbook, (&parted, &rigs), &mut agreed)?;
        Ok(agreed)
    }

    /// Returns the rigs whose sessions this login may write, `*` being any, and whether it may add remarks.
    fn rights(&mut self) -> Result<(Vec<String>, bool), StoreError> {
        let asked = format!(
            "SELECT coalesce(array_agg(rig), '{{}}'), {SCHEMA}.remarks()
             FROM {SCHEMA}.may_write WHERE role = session_user"
        );
        let row = self.client.query_one(&asked, &[]);
        let row = row.map_err(StoreError::of("asking what this login may do"))?;
        Ok((row.get(0), row.get(1)))
    }

    fn heads(&mut self) -> Result<HashMap<String, Theirs>, StoreError> {
        let asked = format!(
            "SELECT s.mark, k.number, k.seal FROM {SCHEMA}.session s JOIN LATERAL
                 (SELECT number, seal FROM {SCHEMA}.seal WHERE session = s.id ORDER BY number DESC LIMIT 1) k ON true"
        );
        let rows =
            self.client.query(&asked, &[]).map_err(StoreError::of("reading its sessions"))?;
        let head = |row: &postgres::Row| {
            let last = u32::try_from(row.get::<_, i64>(1)).unwrap_or(u32::MAX);
            (row.get(0), Theirs { last, seal: row.get(2) })
        };
        Ok(rows.iter().map(head).collect())
    }

    fn seal_at(&mut self, mark: &str, number: u32) -> Result<Option<String>, StoreError> {
        let asked = format!(
            "SELECT k.seal FROM {SCHEMA}.seal k JOIN {SCHEMA}.session s ON s.id = k.session
             WHERE s.mark = $1 AND k.number = $2"
        );
        let row = self.client.query_opt(&asked, &[&mark, &i64::from(number)]);
        Ok(row.map_err(StoreError::of("reading a seal"))?.map(|row| row.get(0)))
    }

    fn agree_on_remarks(
        &mut self,
        logbook: &Logbook,
        agreed: &mut Agreed,
    ) -> Result<(), StoreError> {
        let asked = format!("SELECT mark FROM {SCHEMA}.remark");
        let rows = self.client.query(&asked, &[]).map_err(StoreError::of("reading its remarks"))?;
        let theirs: BTreeSet<String> = rows.iter().map(|row| row.get(0)).collect();
        let ours = remark_marks(logbook)?;
        agreed.remarks_to_fetch = theirs.difference(&ours).count();
        agreed.remarks_to_send = ours.difference(&theirs).cloned().collect();
        Ok(())
    }

    fn agree_on_signatures(
        &mut self,
        logbook: &Logbook,
        (parted, rigs): (&BTreeSet<SessionName>, &[String]),
        agreed: &mut Agreed,
    ) -> Result<(), StoreError> {
        let asked = format!(
            "SELECT s.mark, g.number, g.key FROM {SCHEMA}.signature g JOIN {SCHEMA}.session s ON s.id = g.session"
        );
        let rows = self.client.query(&asked, &[]);
        let rows = rows.map_err(StoreError::of("reading its signatures"))?;
        let theirs: BTreeSet<(String, i64, String)> =
            rows.iter().map(|row| (row.get(0), row.get(1), row.get(2))).collect();
        let all = logbook.heads()?;
        let of = |keep: &dyn Fn(&Head) -> bool| -> BTreeSet<String> {
            all.iter().filter(|head| keep(head)).map(|head| head.mark.clone()).collect()
        };
        let shared = of(&|head| {
            head.is_present && may_write(rigs, &head.rig) && !parted.contains(&head.session)
        });
        let ours = logbook.signature_marks()?;
        agreed.signatures_to_send =
            ours.iter().any(|of| shared.contains(&of.0) && !theirs.contains(of));
        // A session that went on in two ways is touched on neither side.
        let known = of(&|head| !parted.contains(&head.session));
        let fetched = |of: &&(String, i64, String)| known.contains(&of.0) && !ours.contains(of);
        // Those of sessions that come anew come with them.
        let more: Vec<&(String, i64, String)> = theirs.iter().filter(fetched).collect();
        agreed.signatures_to_fetch = more.len();
        for (mark, ..) in more {
            if !agreed.to_fetch.contains(mark) {
                agreed.to_fetch.push(mark.clone());
            }
        }
        Ok(())
    }
}

fn may_write(rigs: &[String], rig: &str) -> bool {
    rigs.iter().any(|may| may == rig || may == "*")
}

/// Returns the marks of all remarks of a logbook.
fn remark_marks(logbook: &Logbook) -> Result<BTreeSet<String>, StoreError> {
    let all = Part { mark: String::new(), from: 0, to: 0 };
    let rows = logbook.rows_of(find(&shapes(), "remark"), &["mark"], &all)?;
    Ok(rows.into_iter().flatten().filter_map(as_text).collect())
}
