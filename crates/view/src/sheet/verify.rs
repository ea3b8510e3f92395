//! `lap verify`: every session's seal, and the first record that is not as it was written.

use crate::words::count;
use honest_lap_core::record::SessionName;
use honest_lap_draw::{Cell, Column, Group, Layout, Role, Sheet};

/// Characters of a seal that people compare by eye.
const SHORT: usize = 16;

/// The seals of a session, checked.
pub struct CheckedSession {
    /// The session.
    pub name: SessionName,
    /// How many laps it holds.
    pub laps: usize,
    /// Its last seal.
    pub seal: String,
    /// Which record is not as it was written, in words; `None` if all are.
    pub broken: Option<String>,
}

/// A logbook's seals, checked.
pub struct CheckedLogbook {
    /// Session by session.
    pub sessions: Vec<CheckedSession>,
    /// How many remarks it holds.
    pub remarks: usize,
    /// When the first remark was made that is not as it was written.
    pub broken_remark: Option<String>,
    /// Rows that no seal accounts for, in words.
    pub strays: Vec<String>,
    /// Whether a seal that was noted before is still that of a record, where one is asked about.
    pub noted: Option<bool>,
    /// What is wrong with the file itself.
    pub faults: Vec<String>,
    /// The seal of the whole.
    pub seal: String,
}

/// Returns the sheet of checked seals.
pub fn verify(logbook: &CheckedLogbook) -> Sheet {
    let CheckedLogbook { sessions, broken_remark, faults, strays, noted, .. } = logbook;
    let laps = sessions.iter().map(|session| session.laps).sum::<usize>();
    let broken = sessions.iter().filter(|session| session.broken.is_some()).count();
    let said = match logbook.remarks {
        0 => String::new(),
        n => format!(" and {}", count(n, "remark")),
    };
    let what = format!("{} in {}{said}", count(laps, "lap"), count(sessions.len(), "session"));
    let mut faults: Vec<String> = faults.iter().map(|fault| format!("the file: {fault}")).collect();
    let answer = match (broken, faults.len()) {
        _ if broken_remark.is_some() => "A remark is not as it was written.".to_owned(),
        (0, _) if !strays.is_empty() => {
            "Something was put in or taken out by something else.".to_owned()
        }
        (0, 0) if *noted == Some(false) => {
            "The seal that was noted is of no record here: that record was taken out, or is another logbook's; \
             or it was the whole logbook's, and more was recorded since.".to_owned()
        }
        (0, 0) => format!("Nothing has changed: {what} are as they were written."),
        (0, _) => format!("The file is damaged, though the seals of {what} hold."),
        (broken, _) => {
            format!("The seals of {broken} of {} are broken.", count(sessions.len(), "session"))
        }
    };
    faults.extend(strays.iter().map(|stray| format!("no seal accounts for {stray}")));
    faults.extend(broken_remark.as_ref().map(|made| {
        format!("the remark made at {made} has changed, or the one before it was taken out")
    }));
    Sheet {
        schema: "honest-lap/verify",
        version: 1,
        title: None,
        lead: vec![answer, format!("Seal of the logbook: {}", logbook.seal)],
        groups: vec![Group {
            heading: None,
            lead: Vec::new(),
            columns: vec![
                Column::text("session", "session"),
                Column::figure("laps", "laps"),
                Column::text("seal", "seal"),
                Column::machine("sealed"),
                Column::text("finding", "finding"),
            ],
            rows: sessions.iter().map(row).collect(),
            layout: Layout::Table,
            drawing: Vec::new(),
            notes: faults,
        }],
        notes: vec![
            "A seal chains each record of a session to the one before it. Note the seals \
             elsewhere, and prove later by --noted that nothing was taken off since."
                .to_owned(),
        ],
    }
}

fn row(session: &CheckedSession) -> Vec<Cell> {
    let finding = match &session.broken {
        None => Cell::text("as it was written"),
        Some(broken) => Cell::text(broken).role(Role::Failed),
    };
    let short = session.seal.get(..SHORT).unwrap_or(&session.seal);
    vec![
        Cell::text(session.name.to_string()),
        Cell::whole(session.laps as u64),
        Cell::text(&session.seal).shown(short),
        Cell::flag(session.broken.is_none()),
        finding,
    ]
}
