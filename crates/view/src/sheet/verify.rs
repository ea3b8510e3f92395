//! `lap verify`: every session's seal, and the first record that is not as it was written.

use crate::table::{Cell, Column, Group, Layout, Role, Sheet};
use crate::words::count;
use honest_lap_core::record::SessionName;

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
    /// The last signature of it, if it has one.
    pub signed: Option<Signature>,
}

/// A signature that holds: whoever has the key says that it recorded the session.
pub struct Signature {
    /// The public key.
    pub key: String,
    /// The rig whose key it is, as the study lists it; `None` if the study does not know it.
    pub rig: Option<String>,
    /// The last lap that it covers, where more came after it.
    pub up_to: Option<u32>,
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
            "The seal that was noted is not met here: what it stood for was taken out, or it is another logbook's. \
             A whole logbook's is met only in that file; a session's wherever the session was merged to.".to_owned()
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
        version: 2,
        title: None,
        lead: vec![answer, signatures(sessions), format!("Seal of the logbook: {}", logbook.seal)],
        groups: vec![Group {
            heading: None,
            lead: Vec::new(),
            columns: vec![
                Column::text("session", "session"),
                Column::figure("laps", "laps"),
                Column::text("seal", "seal"),
                Column::machine("sealed"),
                Column::text("finding", "finding"),
                match sessions.iter().any(|session| session.signed.is_some()) {
                    true => Column::text("signed_by", "signed by"),
                    // Nobody reads a column of nothing.
                    false => Column::machine("signed_by"),
                },
                Column::machine("key"),
                Column::machine("key_known"),
                Column::machine("signed_up_to"),
            ],
            rows: sessions.iter().map(row).collect(),
            layout: Layout::Table,
            drawing: Vec::new(),
            notes: faults,
        }],
        notes: vec![
            "A seal chains each record to the one before it. Note a seal elsewhere, and prove later by \
             --noted that nothing was taken off since."
                .to_owned(),
        ],
    }
}

/// How many sessions are signed, and by whom.
fn signatures(sessions: &[CheckedSession]) -> String {
    let of = |known: bool| {
        let signed = sessions.iter().filter_map(|session| session.signed.as_ref());
        signed.filter(|signed| signed.rig.is_some() == known).count()
    };
    let (known, unknown) = (of(true), of(false));
    let unsigned = sessions.len() - known - unknown;
    let parts = [
        (known, "signed by a key that this study lists"),
        (unknown, "signed by an unknown key"),
        (unsigned, "not signed"),
    ];
    let said: Vec<String> =
        parts.iter().filter(|(n, _)| *n > 0).map(|(n, how)| format!("{n} {how}")).collect();
    match said.as_slice() {
        [] => "Sessions: none.".to_owned(),
        said => format!("Sessions: {}.", said.join(", ")),
    }
}

fn signed_by(session: &CheckedSession) -> Cell {
    let Some(signed) = &session.signed else { return Cell::missing() };
    let up_to = signed.up_to.map_or_else(String::new, |lap| format!(", up to lap {lap}"));
    let key = signed.key.get(..SHORT).unwrap_or(&signed.key);
    match &signed.rig {
        // A key of another rig than the session's is a thing to look at.
        Some(rig) if *rig == session.name.rig => Cell::text(rig).shown(format!("{rig}{up_to}")),
        Some(rig) => Cell::text(rig).shown(format!("{rig}, another rig{up_to}")).role(Role::Open),
        None => Cell::missing().shown(format!("unknown {key}{up_to}")).role(Role::Open),
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
        signed_by(session),
        Cell::or_missing(session.signed.as_ref(), |signed| Cell::text(&signed.key)),
        Cell::or_missing(session.signed.as_ref(), |signed| Cell::flag(signed.rig.is_some())),
        Cell::or_missing(session.signed.as_ref().and_then(|signed| signed.up_to), |lap| {
            Cell::whole(u64::from(lap))
        }),
    ]
}
