//! `lap import`: how each log was read, and what it held.

use super::time_cell::time_cell;
use crate::number::fixed;
use crate::table::{Cell, Column, Group, Layout, Sheet, Show};
use crate::words::{count, listed, listed_in_short};
use honest_lap_core::frame::{Looks, Proposal};
use honest_lap_core::record::{Cut, Faults, LapName, Mark, RecordedPass};
use honest_lap_core::unit::{Nanos, display_count, display_span};

/// A log that was read; `lap` is what it became.
pub struct Imported {
    pub lap: Option<LapName>,
    /// The log, as it was named.
    pub log: String,
    pub read_as: String,
    /// Its frames and their time, whatever is cut.
    pub frames: usize,
    pub time: Nanos,
    pub faults: Faults,
    pub marks: Vec<Mark>,
    /// What was kept beside the frames, and which columns were not.
    pub kept: Vec<String>,
    pub not_kept: Vec<String>,
    pub cut: Cut,
    /// Stretches that may not belong.
    pub proposals: Vec<Proposal>,
}

/// Returns the sheet of logs as they were read.
pub fn imported(all: &[Imported]) -> Sheet {
    let lead = match all {
        [Imported { lap: None, .. }, ..] => {
            vec![format!("{} read; nothing was recorded.", count(all.len(), "log"))]
        }
        [Imported { lap: Some(lap), .. }, ..] => {
            vec![format!("{} imported, as session {}.", count(all.len(), "pass"), lap.session)]
        }
        [] => Vec::new(),
    };
    Sheet {
        schema: "honest-lap/import",
        version: 1,
        title: None,
        lead,
        groups: all.iter().map(group).collect(),
        notes: Vec::new(),
    }
}

/// Columns that are named, of those of which nothing was made.
const TOLD: usize = 12;
/// A tenth of a second, in nanoseconds.
const TENTH: u64 = 100_000_000;

fn group(imported: &Imported) -> Group {
    let name = imported.lap.as_ref().map(|lap| format!("{lap} · ")).unwrap_or_default();
    let read = format!(
        "{}: {} frames in {} s",
        imported.read_as,
        display_count(imported.frames),
        fixed(imported.time.seconds(), 1)
    );
    let faults = imported.faults.words();
    let mut notes: Vec<String> = Vec::new();
    if !faults.is_empty() {
        notes.push(format!("Left out: {}.", faults.join(", ")));
    }
    if !imported.kept.is_empty() {
        notes.push(format!("Beside the frames: {}.", listed_in_short(&imported.kept)));
    }
    if !imported.not_kept.is_empty() {
        let (told, more) = imported.not_kept.split_at(imported.not_kept.len().min(TOLD));
        let more = (!more.is_empty()).then(|| format!("{} more", more.len()));
        let told: Vec<String> = told.iter().cloned().chain(more).collect();
        notes.push(format!("Columns that nothing was made of: {}.", listed(&told)));
    }
    match imported.faults.wrapped {
        0 => {}
        1 => notes.push("The counter began anew once and was corrected.".to_owned()),
        n => notes.push(format!("The counter began anew {n} times and was corrected.")),
    }
    for proposal in &imported.proposals {
        notes.push(proposed(proposal, imported.lap.as_ref()));
    }
    let mut columns = vec![
        Column::machine("lap"),
        Column::machine("log"),
        Column::text("read_as", "read as"),
        Column::text("frames", "frames"),
        Column::text("time_ns", "time"),
        Column::text("left_out", "left out"),
        Column::text("cut", "cut"),
        Column::text("looks_like", "looks like"),
        Column::text("marks", "marks"),
        Column::machine("beside_the_frames"),
        Column::machine("not_kept"),
    ];
    let cells = vec![
        Cell::or_missing(imported.lap.as_ref(), |lap| Cell::text(lap.to_string())),
        Cell::text(&imported.log),
        Cell::text(&imported.read_as).shown(read),
        Cell::whole(imported.frames as u64),
        time_cell(imported.time, fixed(imported.time.seconds(), 1)),
        Cell::list(faults),
        Cell::text(imported.cut.to_string()),
        Cell::list(imported.proposals.iter().map(stretch_words).collect()),
        Cell::list(imported.marks.iter().map(|mark| mark.name.clone()).take(20).collect()),
        Cell::list(imported.kept.clone()),
        Cell::list(imported.not_kept.clone()),
    ];
    for (column, cell) in columns.iter_mut().zip(&cells).skip(3) {
        let says = match &*column.key {
            "cut" => !imported.cut.is_empty(),
            "marks" => !imported.marks.is_empty() && cell.text.is_none(),
            // Said in the line above, or in the notes.
            _ => false,
        };
        if !says {
            column.show = Show::Machines;
        }
    }
    Group {
        heading: Some(format!("{name}{}", imported.log)),
        lead: Vec::new(),
        columns,
        rows: vec![cells],
        layout: Layout::Record,
        drawing: Vec::new(),
        notes,
    }
}

fn stretch_words(proposal: &Proposal) -> String {
    let looks = match proposal.looks {
        Looks::Loading => "loading",
        Looks::Idle => "idle",
    };
    let (from, to) = (proposal.stretch.from, proposal.stretch.to);
    format!("{looks} {}..{}", display_span(from), display_span(to))
}

/// Returns a proposal as a sentence, with the command that would follow it.
pub fn proposed(proposal: &Proposal, lap: Option<&LapName>) -> String {
    let what = match proposal.looks {
        Looks::Loading => "a loading screen or a pause",
        Looks::Idle => "a menu or an empty screen",
    };
    // Times that people can type, with all of the stretch between them.
    let tenths = |tenths: u64| fixed(tenths as f64 / 10.0, 1);
    let (from, to) = (proposal.stretch.from.0 / TENTH, proposal.stretch.to.0.div_ceil(TENTH));
    let (from, to) = (tenths(from), tenths(to));
    let lap = lap.map_or_else(|| "LAP".to_owned(), ToString::to_string);
    format!(
        "From {from} s to {to} s ({}) it looks like {what}. If it is: lap trim {lap} --without \
         {from}s..{to}s",
        count(proposal.frames, "frame")
    )
}

/// Returns how a pass was read and what it comes to, in a line.
pub fn pass_words(pass: &RecordedPass) -> String {
    let sums = &pass.about.digest.sums;
    let low = sums.low_1.map(|low| format!(", low 1% {} fps", fixed(low, 1))).unwrap_or_default();
    let faults = match pass.about.faults.words() {
        none if none.is_empty() => String::new(),
        faults => format!("; left out: {}", faults.join(", ")),
    };
    format!(
        "{} frames in {} s, {} fps{low}; {}{faults}",
        display_count(pass.pass.shown.len()),
        fixed(sums.time.seconds(), 1),
        fixed(sums.rate, 1),
        pass.about.read_as
    )
}

#[cfg(test)]
mod tests {
    use super::*;
    use honest_lap_core::record::{Against, Digest, Pass, PassAbout, Stretch};

    #[test]
    fn a_pass_is_told_with_how_it_was_read() {
        let pass = Pass { shown: vec![12_500_000; 1_200], ..Pass::default() };
        let digest = Digest::of(&pass, &Cut::default(), Against::default()).unwrap();
        let about = PassAbout {
            log: "f.csv".into(),
            log_sha256: None,
            read_as: "column 1, durations in milliseconds".into(),
            faults: Faults { zero: 2, ..Faults::default() },
            marks: Vec::new(),
            also: Vec::new(),
            digest,
        };
        assert_eq!(
            pass_words(&RecordedPass { about, pass }),
            "1,200 frames in 15.0 s, 80.0 fps, low 1% 80.0 fps; column 1, durations in milliseconds; \
             left out: 2 frame times of zero"
        );
    }

    #[test]
    fn what_is_proposed_can_be_typed_and_holds_all_of_it() {
        let stretch = Stretch { from: Nanos(23_460_000_000), to: Nanos(26_610_000_000) };
        let proposal = Proposal { stretch, looks: Looks::Loading, frames: 14 };
        let said = proposed(&proposal, LapName::parse("wren-1.22").as_ref());
        assert!(said.ends_with("lap trim wren-1.22 --without 23.4s..26.7s"), "{said}");
        let idle = Proposal { looks: Looks::Idle, ..proposal };
        assert!(proposed(&idle, None).contains("a menu or an empty screen"));
    }
}
