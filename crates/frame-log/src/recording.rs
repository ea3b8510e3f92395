//! Whether a log is one recording, to its end: what begins anew, what has cells too many, what breaks off.

use crate::decode::Text;
use crate::error::LogError;
use crate::head::{is_comment, shortened};
use crate::number::{Cell, cell, trimmed};
use crate::plan::{Counts, Pick, Witness};
use crate::rows::{COUNTER_BITS, Cells, Halt, Job, Rows};
use crate::words::TimeUnit;
use std::io::{self, Read};

/// The last rows lie within this.
const TAIL_BYTES: u64 = 64 << 10;
/// What goes on as long as the recording does goes on for this share of it, at least.
const LEAST_ON: f64 = 0.75;

impl Job<'_> {
    /// Returns an error where what counts frames or time beside the frame times began anew: it holds two recordings.
    pub(crate) fn goes_on(&self, rows: &Rows) -> Result<(), LogError> {
        let Some(Witness { place, counts }) = self.plan.witness else { return Ok(()) };
        let (Some(first), Some(last)) =
            (self.head.sample[place].iter().flatten().next(), self.last(place)?)
        else {
            return Ok(());
        };
        let (what, expected) = match counts {
            Counts::Frames => ("its frame numbers begin", rows.values[0].len() as f64 - 1.0),
            Counts::Time(units) => {
                // The first frame may have ended when it was first looked at.
                let known = rows.values[0].iter().skip(1).filter(|&&ns| ns > 0);
                let whole: f64 = known.map(|&ns| ns as f64).sum();
                ("its time begins", whole / self.plan.shown.unit.ns() as f64 * units)
            }
        };
        // A counter of so many bits that is full begins anew, too, and goes on with one recording.
        let full = |bits: u32| expected > 0.9 * 2_f64.powi(bits as i32);
        let wraps = matches!(counts, Counts::Time(_)) && COUNTER_BITS.into_iter().any(full);
        if last - first > LEAST_ON * expected || wraps {
            return Ok(());
        }
        Err(LogError::unreadable(
            format!("{what} anew in its midst: it holds two recordings"),
            "give each a file of its own",
        ))
    }

    /// Returns the last number in the column at `place`.
    fn last(&self, place: usize) -> Result<Option<f64>, LogError> {
        let from = self.text.end.saturating_sub(TAIL_BYTES).max(self.head.rows_from);
        let mut tail = Vec::new();
        self.text.part(from, self.text.end).read_to_end(&mut tail)?;
        let written = self.plan.written(Pick { place, unit: TimeUnit::Seconds });
        let number = |line: &[u8]| {
            let mut record = csv::ByteRecord::new();
            match cell(self.cells(line, &mut record).get(place)?, written) {
                Cell::Ns(ns) => Some(ns as f64 / 1e9),
                _ => None,
            }
        };
        Ok(tail.rsplit(|&byte| byte == b'\n').skip(1).find_map(number))
    }

    /// Returns whether the text ends in the midst of a row: its end is missing, and a cell with it,
    /// or decimals that the row above has.
    pub(crate) fn is_cut_short(&self) -> Result<bool, LogError> {
        let from = self.text.end.saturating_sub(TAIL_BYTES).max(self.head.rows_from);
        let mut tail = Vec::new();
        self.text.part(from, self.text.end).read_to_end(&mut tail)?;
        if tail.ends_with(b"\n") {
            return Ok(false);
        }
        let mut lines = tail.rsplit(|&byte| byte == b'\n');
        let (Some(last), Some(above)) = (lines.next(), lines.next()) else { return Ok(false) };
        let (mut record, mut other) = Default::default();
        let (last_cells, above) = (self.cells(last, &mut record), self.cells(above, &mut other));
        if last.is_empty() || is_comment(last) || self.is_words(&last_cells) {
            return Ok(false);
        }
        let most = self.picks.iter().map(|pick| pick.place).max().unwrap_or(0);
        let decimals = |cells: &Cells<'_>| {
            let text = trimmed(cells.get(most).unwrap_or_default());
            text.iter()
                .position(|&byte| byte == self.plan.point)
                .map_or(0, |at| text.len() - at - 1)
        };
        Ok(last_cells.0.len() < above.0.len()
            || most + 1 == last_cells.0.len() && decimals(&last_cells) < decimals(&above))
    }

    /// Returns whether a row is the headings once more.
    pub(crate) fn is_heading(&self, cells: &Cells<'_>) -> bool {
        let headings = &self.head.headings;
        let same = |(cell, heading): (&&[u8], &String)| trimmed(cell) == heading.as_bytes();
        // A single word may be what a program prints between its frames, wherever it stands.
        headings.len() > 1
            && cells.0.len() == headings.len()
            && cells.0.iter().zip(headings).all(same)
    }

    /// Returns what is wrong with the first line that is in no one recording.
    pub(crate) fn odd(&self) -> Result<LogError, LogError> {
        let mut line = 1 + lines_in(self.text, self.head.rows_from)?;
        let mut found = None;
        let mut look = |bytes: &[u8], length: usize| {
            let row = &bytes[..length];
            let mut record = csv::ByteRecord::new();
            let cells = self.cells(row, &mut record);
            if found.is_none() && !is_comment(row) && !row.trim_ascii().is_empty() {
                let words = self.is_words(&cells);
                found = match (words, self.is_heading(&cells), cells.beyond(self.head.width)) {
                    (true, true, _) => Some(again(line)),
                    (false, _, true) => Some(self.wide(line, &cells, row)),
                    _ => None,
                };
            }
            line += 1 + row.iter().filter(|&&byte| byte == b'\n').count();
            Ok(0)
        };
        self.each(self.head.rows_from, self.text.end, false, &mut look)
            .map_err(Halt::into_error)?;
        Ok(found.unwrap_or_else(|| Halt::Odd.into_error()))
    }

    fn wide(&self, line: usize, cells: &Cells<'_>, row: &[u8]) -> LogError {
        let (cells, width) = (cells.0.len(), self.head.width);
        let under = match self.head.headings.is_empty() {
            true => format!("where others have {width}"),
            false => format!("under {width} headings"),
        };
        LogError::unreadable(
            format!("line {line} is `{}`: {cells} cells {under}", shortened(row)),
            "does a comma in a number divide it? Write a decimal point and no thousands apart, or quote the number",
        )
    }
}

/// Returns how many lines end ahead of `at`.
fn lines_in(text: &Text, at: u64) -> io::Result<usize> {
    let mut before = Vec::new();
    text.part(text.start, at).read_to_end(&mut before)?;
    Ok(before.iter().filter(|&&byte| byte == b'\n').count())
}

fn again(line: usize) -> LogError {
    LogError::unreadable(
        format!("its headings stand again in line {line}: it holds two recordings"),
        "give each a file of its own",
    )
}
