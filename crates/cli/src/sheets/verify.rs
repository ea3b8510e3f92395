//! `lap verify`: every session's seal, and the first record that is not as it was written.

use super::words::count;
use honest_lap_draw::{Cell, Column, Group, Layout, Role, Sheet};
use honest_lap_logbook::{Logbook, SealedRemarks, SealedSession};

/// Characters of a seal that people compare by eye.
const SHORT: usize = 16;

/// Returns the sheet of checked seals; `faults` are the file's own.
pub fn verify(sessions: &[SealedSession], remarks: &SealedRemarks, faults: &[String]) -> Sheet {
    let laps = sessions.iter().map(|session| session.laps).sum::<usize>();
    let broken = sessions.iter().filter(|session| session.broken.is_some()).count();
    let said = match remarks.seals.len() {
        0 => String::new(),
        n => format!(" and {}", count(n, "remark")),
    };
    let what = format!("{} in {}{said}", count(laps, "lap"), count(sessions.len(), "session"));
    let mut faults: Vec<String> = faults.iter().map(|fault| format!("the file: {fault}")).collect();
    let answer = match (broken, faults.len()) {
        _ if remarks.broken.is_some() => "A remark is not as it was written.".to_owned(),
        (0, 0) => format!("Nothing has changed: {what} are as they were written."),
        (0, _) => format!("The file is damaged, though the seals of {what} hold."),
        (broken, _) => {
            format!("The seals of {broken} of {} are broken.", count(sessions.len(), "session"))
        }
    };
    faults.extend(remarks.broken.as_ref().map(|made| {
        format!("the remark made at {made} has changed, or the one before it was taken out")
    }));
    Sheet {
        schema: "honest-lap/verify",
        version: 1,
        title: None,
        lead: vec![answer, format!("Seal of the logbook: {}", Logbook::seal(sessions, remarks))],
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
            "A seal chains each record of a session to the one before it. Note the logbook's seal \
             elsewhere to prove later that nothing was taken off its end."
                .to_owned(),
        ],
    }
}

fn row(session: &SealedSession) -> Vec<Cell> {
    let finding = match &session.broken {
        None => Cell::text("as it was written"),
        Some(broken) => Cell::text(broken.to_string()).role(Role::Failed),
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
