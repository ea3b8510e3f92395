//! The rows of a text, on two threads: the values of the picked columns, row by row.

use crate::decode::{self, Text};
use crate::error::LogError;
use crate::head::{Head, is_comment, is_no_value};
use crate::number::{Cell, cell, trimmed};
use crate::plan::{Pick, Plan};
use crate::quick::Quick;
use honest_lap_core::both;
use honest_lap_core::record::plain_line;
use memchr::memchr;
use std::io::{self, BufRead, BufReader, Read};

/// A log of more frames is not read, nor kept by a logbook: five hours at a thousand frames a second.
const MOST_ROWS: usize = 1 << 24;
/// More marks than these are something else.
const MOST_MARKS: usize = 1_000;
/// A smaller text is not worth a second thread.
const LEAST_SPLIT_BYTES: u64 = 1 << 20;
const MOST_MARK_CHARS: usize = 80;
const MOST_LINE_BYTES: usize = 16 << 20;
const BUFFER: usize = 512 << 10;

/// Counters as programs have them.
pub(crate) const COUNTER_BITS: [u32; 3] = [16, 24, 32];
/// No value.
pub(crate) const MISSING: i64 = i64::MIN;
/// Something that is no number.
pub(crate) const NOT_A_NUMBER: i64 = i64::MIN + 1;

/// The values of a log, row by row.
#[derive(Debug, Default)]
pub(crate) struct Rows {
    /// What each value of the first column is told from, in nanoseconds.
    pub(crate) base: i128,
    /// The values of each picked column, in nanoseconds; those of the first less `base`.
    pub(crate) values: Vec<Vec<i64>>,
    /// Marks: the row that follows, and its name.
    pub(crate) marks: Vec<(usize, String)>,
    /// Rows cut short at the end.
    pub(crate) truncated: u64,
}

/// Reads the rows of `text`.
pub(crate) fn read(text: &Text, head: &Head, plan: &Plan) -> Result<Rows, LogError> {
    let job = Job::of(text, head, plan)?;
    let (from, to) = (head.rows_from, text.end);
    let two = to - from >= LEAST_SPLIT_BYTES && head.delimiter != b' ';
    let split = if two { line_after(text, from + (to - from) / 2)? } else { to };
    let parts = both(|| job.part(from, split, split < to), || job.part(split, to, true));
    let (first, second) = match parts {
        (Ok(first), Ok(second)) => (first, second),
        // A line break within quotes: such a text has one beginning.
        (Err(Halt::Quotes), _) | (_, Err(Halt::Quotes)) => match job.part(from, to, false) {
            Ok(all) => (all, Part::new(job.picks.len())),
            Err(Halt::Odd) => return Err(job.odd()?),
            Err(halt) => return Err(halt.into_error()),
        },
        (Err(Halt::Odd), _) | (_, Err(Halt::Odd)) => return Err(job.odd()?),
        (Err(Halt::Because(err)), _) | (_, Err(Halt::Because(err))) => return Err(err),
    };
    joined(first, second, &job)
}

fn joined(first: Part, second: Part, job: &Job<'_>) -> Result<Rows, LogError> {
    let before = first.rows();
    let mut rows = Rows { base: job.base, values: first.values, marks: first.marks, truncated: 0 };
    for (all, more) in rows.values.iter_mut().zip(second.values) {
        match all.is_empty() {
            true => *all = more,
            false => all.extend(more),
        }
    }
    let again = |name: &String| rows.marks.last().is_some_and(|(_, last)| last == name);
    let mut marks = second.marks;
    if marks.first().is_some_and(|(row, name)| *row == 0 && again(name)) {
        marks.remove(0);
    }
    rows.marks.extend(marks.into_iter().map(|(row, name)| (row + before, name)));
    rows.marks.truncate(MOST_MARKS);
    if job.is_cut_short()? {
        rows.values.iter_mut().for_each(|values| {
            values.pop();
        });
        rows.truncated = 1;
    }
    if rows.values[0].is_empty() {
        return Err(LogError::unreadable(
            "no row of it is whole",
            "give a log with a row a frame; is the recording complete?",
        ));
    }
    job.goes_on(&rows)?;
    Ok(rows)
}

/// Returns what the moments of a log are told from: its first one.
fn base(text: &Text, head: &Head, plan: &Plan) -> Result<i128, LogError> {
    if plan.reading == crate::As::Durations {
        return Ok(0);
    }
    let job = Job { text, head, plan, picks: Vec::new(), base: 0 };
    let end = text.end.min(head.rows_from + decode::HEAD_BYTES as u64);
    let mut first = None;
    job.each(head.rows_from, end, false, &mut |bytes: &[u8], length| {
        let line = &bytes[..length];
        let mut record = csv::ByteRecord::new();
        let value = job.cells(line, &mut record).value(plan.shown, plan);
        if let (None, Cell::Ns(ns), false) = (first, value, is_comment(line)) {
            first = Some(ns);
        }
        Ok(0)
    })
    .map_err(Halt::into_error)?;
    Ok(first.unwrap_or(0))
}

/// Returns where the first line behind `at` begins.
fn line_after(text: &Text, at: u64) -> io::Result<u64> {
    let mut reader = BufReader::new(text.part(at, text.end));
    let mut skipped = Vec::new();
    // A line of many megabytes is none; then one thread reads all.
    let came = reader.by_ref().take(MOST_LINE_BYTES as u64).read_until(b'\n', &mut skipped)?;
    Ok(if skipped.ends_with(b"\n") { at + came as u64 } else { text.end })
}

/// Why a part was not read.
pub(crate) enum Halt {
    /// A line of it belongs to no one recording: which, is to be found.
    Odd,
    /// It has quotes, and was not read from the beginning of the text.
    Quotes,
    Because(LogError),
}

impl Halt {
    pub(crate) fn into_error(self) -> LogError {
        match self {
            Self::Because(err) => err,
            Self::Quotes => LogError::unreadable("a quote is not closed", "close it"),
            Self::Odd => LogError::unreadable("a row of it is not like the others", "mend it"),
        }
    }
}

impl From<io::Error> for Halt {
    fn from(source: io::Error) -> Self {
        Self::Because(LogError::Io { source })
    }
}

/// What a part of the text holds.
struct Part {
    values: Vec<Vec<i64>>,
    marks: Vec<(usize, String)>,
}

impl Part {
    fn new(columns: usize) -> Self {
        Self { values: vec![Vec::new(); columns], marks: Vec::new() }
    }

    fn rows(&self) -> usize {
        self.values[0].len()
    }

    /// Notes a mark ahead of the next row: a comment, or words.
    fn mark(&mut self, text: &[u8]) {
        let text = String::from_utf8_lossy(text);
        let name = text.trim_matches(|c: char| c.is_whitespace() || "#/%\"".contains(c));
        if !name.is_empty() && self.marks.len() < MOST_MARKS {
            let short: String = name.chars().take(MOST_MARK_CHARS).collect();
            self.marks.push((self.rows(), plain_line(&short)));
        }
    }
}

/// The cells of a row.
pub(crate) struct Cells<'a>(pub(crate) Vec<&'a [u8]>);

impl<'a> Cells<'a> {
    pub(crate) fn get(&self, place: usize) -> Option<&'a [u8]> {
        self.0.get(place).copied()
    }

    /// Returns whether it has more cells than there are columns; empty ones at its end are none.
    pub(crate) fn beyond(&self, width: usize) -> bool {
        self.0.iter().skip(width).any(|cell| !trimmed(cell).is_empty())
    }

    fn value(&self, pick: Pick, plan: &Plan) -> Cell {
        self.get(pick.place).map_or(Cell::Missing, |text| cell(text, plan.written(pick)))
    }
}

pub(crate) struct Job<'a> {
    pub(crate) text: &'a Text,
    pub(crate) head: &'a Head,
    pub(crate) plan: &'a Plan,
    pub(crate) picks: Vec<Pick>,
    base: i128,
}

impl<'a> Job<'a> {
    /// Returns the reading of `text` as `plan` says.
    pub(crate) fn of(text: &'a Text, head: &'a Head, plan: &'a Plan) -> Result<Self, LogError> {
        Ok(Self { text, head, plan, picks: plan.picks(), base: base(text, head, plan)? })
    }
}

impl Job<'_> {
    fn part(&self, from: u64, to: u64, halts: bool) -> Result<Part, Halt> {
        let mut part = Part::new(self.picks.len());
        let mut last_mark = Vec::new();
        let quick = self.quick();
        self.each(from, to, halts, &mut |bytes: &[u8], length| {
            let plain = quick.as_ref().map_or(0, |quick| quick.rows(bytes, &mut part.values));
            if plain == 0 {
                self.row(&bytes[..length], &mut part, &mut last_mark)?;
            }
            // Looked at as it grows: a small file may unpack to more rows than there is memory for.
            if part.rows() > MOST_ROWS {
                return Err(Halt::Because(LogError::unreadable(
                    format!("it has more than {MOST_ROWS} rows"),
                    "split it into passes",
                )));
            }
            Ok(plain)
        })?;
        Ok(part)
    }

    /// Returns the quick way through the rows, where there may be one.
    fn quick(&self) -> Option<Quick> {
        let place = |pick: &Pick| (pick.place, self.plan.written(*pick));
        let places: Vec<_> = self.picks.iter().map(place).collect();
        match self.plan.mark {
            Some(_) => None,
            None => Quick::new((self.head.delimiter, self.head.width), &places, self.base),
        }
    }

    /// Reads a row thoroughly.
    fn row(&self, line: &[u8], part: &mut Part, last_mark: &mut Vec<u8>) -> Result<(), Halt> {
        if is_comment(line) {
            part.mark(line);
            return Ok(());
        }
        let mut record = csv::ByteRecord::new();
        let cells = self.cells(line, &mut record);
        if line.trim_ascii().is_empty() {
            return Ok(());
        }
        if let Some(name) = self.plan.mark.and_then(|place| cells.get(place)) {
            let name = trimmed(name);
            if name != last_mark {
                *last_mark = name.to_vec();
                part.mark(name);
            }
        }
        if self.is_words(&cells) {
            if self.is_heading(&cells) {
                return Err(Halt::Odd);
            }
            part.mark(line);
            return Ok(());
        }
        if cells.beyond(self.head.width) {
            return Err(Halt::Odd);
        }
        for (nth, pick) in self.picks.iter().enumerate() {
            let base = if nth == 0 { self.base } else { 0 };
            part.values[nth].push(match cells.value(*pick, self.plan) {
                Cell::Ns(ns) => i64::try_from(ns - base).unwrap_or(NOT_A_NUMBER),
                Cell::Missing => MISSING,
                Cell::NotANumber => NOT_A_NUMBER,
            });
        }
        Ok(())
    }

    pub(crate) fn cells<'l>(&self, line: &'l [u8], record: &'l mut csv::ByteRecord) -> Cells<'l> {
        if self.head.delimiter == b' ' {
            let cells = line.split(|byte| byte.is_ascii_whitespace());
            return Cells(cells.filter(|cell| !cell.is_empty()).collect());
        }
        if !line.contains(&b'"') {
            return Cells(line.split(|&byte| byte == self.head.delimiter).collect());
        }
        let read = csv::ReaderBuilder::new()
            .delimiter(self.head.delimiter)
            .has_headers(false)
            .flexible(true)
            .from_reader(line)
            .read_byte_record(record);
        Cells(if read.is_ok_and(|came| came) { record.iter().collect() } else { Vec::new() })
    }

    /// Returns whether a row is a line of words: what a program prints between its frames.
    pub(crate) fn is_words(&self, cells: &Cells<'_>) -> bool {
        let begins_with_words = |cell: &[u8]| {
            let cell = trimmed(cell);
            cell.first().is_some_and(u8::is_ascii_alphabetic)
                && !is_no_value(&String::from_utf8_lossy(cell))
        };
        let Some(first) = cells.get(0) else { return false };
        begins_with_words(first)
            && (0..cells.0.len().min(64)).all(|place| {
                let written = self.plan.written(self.plan.shown);
                !matches!(cells.get(place).map(|text| cell(text, written)), Some(Cell::Ns(_)))
            })
    }

    /// Calls `take` with every line that begins from `from` to `to`: bytes, and how many of them
    /// are the line. It returns how many bytes it took in whole lines; 0 is that line. Where the text has quotes, a
    /// line may go on behind a line break; then it must be read from its beginning, which with
    /// `halts` it is not.
    pub(crate) fn each(
        &self,
        from: u64,
        to: u64,
        halts: bool,
        take: &mut impl FnMut(&[u8], usize) -> Result<usize, Halt>,
    ) -> Result<(), Halt> {
        let mut reader = self.text.part(from, to);
        let (mut buffer, mut filled) = (vec![0; BUFFER], 0);
        loop {
            if filled == buffer.len() {
                // A line longer than the buffer.
                if filled >= MOST_LINE_BYTES {
                    return Err(Halt::Because(LogError::unreadable(
                        "a line of it is longer than 16 MB, or a quote is not closed",
                        "is it the right file?",
                    )));
                }
                buffer.resize(filled * 2, 0);
            }
            let came = reader.read(&mut buffer[filled..])?;
            let quotes = memchr(b'"', &buffer[..filled + came]).is_some();
            if quotes && halts {
                return Err(Halt::Quotes);
            }
            filled += came;
            let mut begins = 0;
            let mut search = 0;
            while let Some(ends) = memchr(b'\n', &buffer[search..filled]).map(|at| search + at) {
                search = ends + 1;
                let line = &buffer[begins..ends];
                if quotes && line.iter().filter(|&&byte| byte == b'"').count() % 2 == 1 {
                    continue;
                }
                let length = line.strip_suffix(b"\r").unwrap_or(line).len();
                let taken = take(&buffer[begins..filled], length)?;
                begins = search.max(begins + taken);
                search = begins;
            }
            if came == 0 {
                if begins < filled {
                    take(&buffer[begins..filled], filled - begins)?;
                }
                return Ok(());
            }
            buffer.copy_within(begins..filled, 0);
            filled -= begins;
        }
    }
}
