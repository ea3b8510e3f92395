//! A folder of Parquet files that other engines read, and that grows by new files only.
//!
//! `TABLE/WORKLOAD/RIG/MARK-FROM-TO.parquet` holds the rows of a session's laps FROM to TO. What is said of laps later (set
//! aside, taken back, frames cut) is rows of `remarks`, since no file is ever written again.

use super::table::Table;
use crate::ctx::Ctx;
use crate::error::{CmdError, Exit};
use crate::study_file::OpenStudy;
use honest_lap_core::record::{LapHead, LapName, SessionName, is_rig_name};
use honest_lap_logbook::Logbook;
use honest_lap_logbook::exchange::{Column, Field, Form, Holds, Rows, rows};
use honest_lap_measure::Part;
use honest_lap_view::table::Role;
use honest_lap_view::words::count;
use std::collections::{BTreeMap, HashMap};
use std::fmt::Write;
use std::io::{self, BufWriter};
use std::path::{Path, PathBuf};

/// The tables that only ever grow: what laps were when they were recorded.
const TABLES: [Table; 5] =
    [Table::Laps, Table::Readings, Table::Conditions, Table::Frames, Table::Repeats];
/// Columns that a later remark would change.
const CHANGING: [&str; 2] = ["set_aside_because", "cut"];
const REMARKS: [(&str, Holds); 4] =
    [("made", Holds::Text), ("kind", Holds::Text), ("about", Holds::Text), ("text", Holds::Text)];

/// Writes what the lake at `folder` lacks of `logbook`.
pub fn lake(
    open: &OpenStudy,
    logbook: &Logbook,
    folder: &Path,
    ctx: &Ctx,
) -> Result<Exit, CmdError> {
    let heads = logbook.heads()?;
    let marks: HashMap<SessionName, (String, u32)> =
        heads.into_iter().map(|head| (head.session, (in_a_name(&head.mark), head.last))).collect();
    // As they were recorded, session by session, so that one file is written at a time.
    let mut laps: Vec<LapHead> =
        logbook.laps()?.into_iter().map(|lap| LapHead { set_aside: None, ..lap }).collect();
    laps.sort_by(|a, b| a.name.cmp(&b.name));
    let mut written = BTreeMap::new();
    for table in TABLES {
        let mut files = Files::of(folder, table, &marks)?;
        table.rows(open, logbook, &laps, ctx, &mut files)?;
        files.end_files().map_err(|err| wrong(folder, &err))?;
        written.insert(table.word(), files.written);
    }
    written.insert("remarks", remarks(logbook, folder)?);
    let all: usize = written.values().map(|(files, _)| files).sum();
    for (table, (files, rows)) in written.iter().filter(|(_, (files, _))| *files > 0) {
        ctx.ui.say(
            Role::Plain,
            &format!("{table}: {} in {}", count(*rows, "row"), count(*files, "new file")),
        );
    }
    if all == 0 {
        ctx.ui.say(Role::Plain, "nothing new");
    }
    Ok(Exit::Done)
}

fn wrong(path: &Path, err: &io::Error) -> CmdError {
    CmdError::io("write", path, err)
}

/// Files that were written, and the rows in them.
type Written = (usize, usize);

/// The files of a table: rows go where they belong, unless they are there already.
struct Files<'a> {
    folder: PathBuf,
    columns: Vec<Column>,
    /// The places, among the fields of a row, of those that are kept.
    kept: Vec<usize>,
    marks: &'a HashMap<SessionName, (String, u32)>,
    /// The last lap that is there, by the folder of a workload and by session: what a rig is called may change.
    known: HashMap<(PathBuf, String), u32>,
    open: BTreeMap<PathBuf, OpenFile>,
    session: Option<SessionName>,
    written: Written,
}

struct OpenFile {
    part: Part,
    rows: Box<dyn Rows>,
}

impl<'a> Files<'a> {
    fn of(
        lake: &Path,
        table: Table,
        marks: &'a HashMap<SessionName, (String, u32)>,
    ) -> Result<Self, CmdError> {
        let folder = lake.join(table.word());
        let all = table.columns();
        let is_kept = |column: &Column| !CHANGING.contains(&column.name.as_str());
        let kept = (0..all.len()).filter(|at| is_kept(&all[*at])).collect();
        let columns = all.iter().filter(|column| is_kept(column)).cloned().collect();
        let known = known(&folder).map_err(|err| CmdError::io("read", &folder, &err))?;
        let (open, session, written) = Default::default();
        Ok(Self { folder, columns, kept, marks, known, open, session, written })
    }

    fn place(&self, name: &str) -> usize {
        self.columns.iter().position(|column| column.name == name).unwrap_or_default()
    }

    fn end_files(&mut self) -> io::Result<()> {
        for (path, OpenFile { part, rows }) in std::mem::take(&mut self.open) {
            rows.end()?;
            if let Some(folder) = path.parent() {
                std::fs::create_dir_all(folder)?;
            }
            part.put_new()?;
            self.written.0 += 1;
        }
        Ok(())
    }
}

impl Rows for Files<'_> {
    fn row(&mut self, fields: &[Field]) -> io::Result<()> {
        let text = |name: &str| match fields.get(self.kept[self.place(name)]) {
            Some(Field::Text(Some(text))) => text.clone(),
            _ => String::new(),
        };
        let unknown =
            || io::Error::other("a row is of no lap, or has a name that no study could give");
        // Names become folders, and what a store holds may come from anyone.
        if ![text("workload"), text("rig")].iter().all(|name| is_rig_name(name)) {
            return Err(unknown());
        }
        let lap = LapName::parse(&text("lap")).ok_or_else(unknown)?;
        let (mark, last) = self.marks.get(&lap.session).ok_or_else(unknown)?.clone();
        let of = self.folder.join(text("workload"));
        let folder = of.join(text("rig"));
        let after = self.known.get(&(of, mark.clone())).copied().unwrap_or(0);
        if lap.number <= after {
            return Ok(());
        }
        if self.session.as_ref() != Some(&lap.session) {
            self.end_files()?;
            self.session = Some(lap.session.clone());
        }
        let path = folder.join(format!("{mark}-{}-{last}.parquet", after + 1));
        if !self.open.contains_key(&path) {
            std::fs::create_dir_all(&folder)?;
            let mut part = Part::of(&path)?;
            let out = BufWriter::new(part.file().try_clone()?);
            let rows = rows(Form::Parquet, &self.columns, Box::new(out))?;
            self.open.insert(path.clone(), OpenFile { part, rows });
        }
        let row: Vec<Field> = self.kept.iter().filter_map(|at| fields.get(*at)).cloned().collect();
        self.written.1 += 1;
        match self.open.get_mut(&path) {
            Some(file) => file.rows.row(&row),
            None => Ok(()),
        }
    }

    fn end(mut self: Box<Self>) -> io::Result<()> {
        self.end_files()
    }
}

/// Returns the last lap that is there of each session, by the folder of the workload.
fn known(table: &Path) -> io::Result<HashMap<(PathBuf, String), u32>> {
    let mut known = HashMap::new();
    for workload in folders(table)? {
        for rig in folders(&workload)? {
            for file in std::fs::read_dir(&rig)? {
                let name = file?.file_name();
                let Some((mark, to)) = name.to_str().and_then(named) else { continue };
                let last = known.entry((workload.clone(), mark)).or_insert(0);
                *last = to.max(*last);
            }
        }
    }
    Ok(known)
}

fn folders(of: &Path) -> io::Result<Vec<PathBuf>> {
    match std::fs::read_dir(of) {
        Ok(entries) => {
            let all: io::Result<Vec<_>> = entries.map(|entry| Ok(entry?.path())).collect();
            Ok(all?.into_iter().filter(|path| path.is_dir()).collect())
        }
        Err(err) if err.kind() == io::ErrorKind::NotFound => Ok(Vec::new()),
        Err(err) => Err(err),
    }
}

/// Returns a session's mark as a part of a file's name, which no other mark has: ours are digits and letters, a stranger's
/// may be a path.
fn in_a_name(mark: &str) -> String {
    let mut name = String::new();
    for byte in mark.bytes() {
        match byte {
            b'0'..=b'9' | b'A'..=b'Z' | b'a'..=b'z' | b'-' => name.push(char::from(byte)),
            other => {
                let _ = write!(name, "_{other:02x}");
            }
        }
    }
    name
}

/// Returns the mark and the last number that a file's name says.
fn named(name: &str) -> Option<(String, u32)> {
    let (whose, to) = name.strip_suffix(".parquet")?.rsplit_once('-')?;
    Some((whose.rsplit_once('-')?.0.to_owned(), to.parse().ok()?))
}

/// Writes the remarks that are not there yet, in one file: those behind as many as the files say.
fn remarks(logbook: &Logbook, lake: &Path) -> Result<Written, CmdError> {
    let folder = lake.join("remarks");
    let all = logbook.remarks()?;
    let io = |err: io::Error| wrong(&folder, &err);
    let files = match std::fs::read_dir(&folder) {
        Ok(files) => files.filter_map(|file| file.ok()?.file_name().into_string().ok()).collect(),
        Err(_) => Vec::new(),
    };
    let there = files.iter().filter_map(|name| named(&format!("r-{name}"))).map(|(_, to)| to).max();
    let there = there.unwrap_or(0) as usize;
    if all.len() <= there {
        return Ok((0, 0));
    }
    std::fs::create_dir_all(&folder).map_err(io)?;
    let path = folder.join(format!("{}-{}.parquet", there + 1, all.len()));
    let columns = REMARKS.map(|(name, holds)| Column::new(name, holds));
    let mut part = Part::of(&path).map_err(io)?;
    let out = BufWriter::new(part.file().try_clone().map_err(io)?);
    let mut rows = rows(Form::Parquet, &columns, Box::new(out)).map_err(io)?;
    for remark in &all[there..] {
        let about = remark.subject.to_string();
        let row = [&remark.made, remark.kind.word(), &about, &remark.text].map(Field::text);
        rows.row(&row).map_err(io)?;
    }
    rows.end().map_err(io)?;
    part.put_new().map_err(io)?;
    Ok((1, all.len() - there))
}

#[cfg(test)]
mod tests {
    use super::{in_a_name, named};

    #[test]
    fn a_files_name_says_whose_laps_it_has_and_up_to_which() {
        assert_eq!(named("0f1e-1-12.parquet"), Some(("0f1e".to_owned(), 12)));
        assert_eq!(named("made-up-1-12.parquet"), Some(("made-up".to_owned(), 12)));
        assert_eq!(named("0f1e-1-12.parquet.part"), None);
        assert_eq!(named("notes.parquet"), None);
    }

    #[test]
    fn a_mark_is_no_path_and_no_other_marks_name() {
        assert_eq!(in_a_name("0f1e-2"), "0f1e-2");
        assert_eq!(in_a_name("../tmp/x"), "_2e_2e_2ftmp_2fx");
        assert_ne!(in_a_name("_2e"), in_a_name("."));
    }
}
