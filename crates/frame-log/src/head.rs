//! The head of a text: how it is divided, its headings, where its rows begin.

use crate::decode::Text;
use crate::error::LogError;
use crate::number::{Cell, Written, cell, trimmed};
use std::cmp::Ordering;

/// How many rows are looked at.
const SAMPLE_ROWS: usize = 2_000;
/// Headings stand in one of the first lines.
const LINES_AHEAD: usize = 50;
const MOST_LINE_BYTES: usize = 64 << 10;
/// A cell as a whole number of units: enough to see what kind of column it is in.
const AS_UNITS: u64 = 1_000_000_000;

/// What the head of a text shows.
#[derive(Debug)]
pub(crate) struct Head {
    /// What divides the cells of a row.
    pub(crate) delimiter: u8,
    /// What stands before decimals.
    pub(crate) point: u8,
    /// Whether every separator in its numbers may stand before decimals or between thousands: `16,700`.
    pub(crate) open_point: bool,
    /// How many cells a row may have.
    pub(crate) width: usize,
    /// The headings; empty if there are none.
    pub(crate) headings: Vec<String>,
    /// Where the first row begins.
    pub(crate) rows_from: u64,
    /// Sample values of each column, in units; `None` where a cell is no number.
    pub(crate) sample: Vec<Vec<Option<f64>>>,
}

/// Returns whether a line says something to people and nothing to programs.
pub(crate) fn is_comment(line: &[u8]) -> bool {
    let line = line.trim_ascii_start();
    line.starts_with(b"#") || line.starts_with(b"//") || line.starts_with(b"%")
}

/// A line of the head, with where it begins.
struct Line<'a> {
    at: u64,
    number: usize,
    bytes: &'a [u8],
}

/// Returns what the head of `text` shows.
pub(crate) fn read(text: &Text) -> Result<Head, LogError> {
    let head = text.head()?;
    let lines = lines(&head, text.start);
    if lines.is_empty() {
        return Err(LogError::unreadable(
            "there is nothing in it",
            "give a log with a row a frame; is the recording complete?",
        ));
    }
    let Division { delimiter, point, open_point } = division(&lines)?;
    let cells = |line: &Line<'_>| cells(line.bytes, delimiter);
    let numeric = |cell: &str| value(cell, point).is_some();
    let is_row = |line: &Line<'_>| {
        let cells = cells(line);
        let filled = cells.iter().filter(|cell| !cell.is_empty()).count();
        let numbers = cells.iter().filter(|cell| numeric(cell)).count();
        numbers > 0 && numbers * 2 >= filled
    };
    let width = usual_width(&lines, &cells);
    let is_heading = |line: &Line<'_>| {
        let cells = cells(line);
        let words = |cell: &String| cell.contains(char::is_alphabetic) && !is_no_value(cell);
        cells.len() * 2 >= width
            && cells.iter().all(|cell| !numeric(cell))
            && cells.iter().any(words)
    };
    // Among several columns a line of words is a heading, whatever stands above it; in a single
    // one it may be what a program prints between its frames.
    let heading = match width {
        1 => None,
        // The same once more is that of a second recording.
        _ => lines
            .iter()
            .take(LINES_AHEAD)
            .rposition(&is_heading)
            .and_then(|last| lines.iter().position(|line| cells(line) == cells(&lines[last]))),
    };
    let first = match heading {
        Some(heading) => (heading + 1..lines.len()).find(|&place| is_row(&lines[place])),
        None => lines.iter().position(|line| is_row(line) && cells(line).len() == width),
    };
    let Some(first) = first else {
        let line = &lines[0];
        return Err(LogError::unreadable(
            format!(
                "line {} is `{}`, and no row of numbers follows",
                line.number,
                shortened(line.bytes)
            ),
            "give a table of numbers with a row a frame",
        ));
    };
    let rows = &lines[first..];
    let headings = match first.checked_sub(1).map(|above| &lines[above]) {
        Some(above) if is_heading(above) => cells(above),
        _ => Vec::new(),
    };
    let width = if headings.is_empty() { width } else { headings.len() };
    let mut sample = vec![Vec::with_capacity(rows.len()); width];
    for line in rows {
        let cells = cells(line);
        for (column, values) in sample.iter_mut().enumerate() {
            values.push(cells.get(column).and_then(|cell| value(cell, point)));
        }
    }
    Ok(Head { delimiter, point, open_point, width, headings, rows_from: rows[0].at, sample })
}

/// Returns the lines of the head that say something to programs. A line break within quotes ends
/// none.
fn lines(head: &[u8], start: u64) -> Vec<Line<'_>> {
    let mut lines = Vec::new();
    let (mut from, mut to, mut number) = (0, 0, 1);
    for bytes in head.split_inclusive(|&byte| byte == b'\n') {
        to += bytes.len();
        let open = head[from..to].iter().filter(|&&byte| byte == b'"').count() % 2 == 1;
        if open && to < head.len() && to - from < MOST_LINE_BYTES {
            continue;
        }
        let line = head[from..to].trim_ascii_end();
        if !line.trim_ascii().is_empty() && !is_comment(line) && lines.len() < SAMPLE_ROWS {
            lines.push(Line { at: start + from as u64, number, bytes: line });
        }
        number += head[from..to].iter().filter(|&&byte| byte == b'\n').count();
        from = to;
    }
    lines
}

/// Returns how many cells most lines of the later half have.
fn usual_width(lines: &[Line<'_>], cells: &impl Fn(&Line<'_>) -> Vec<String>) -> usize {
    let mut widths: Vec<usize> =
        lines[lines.len() / 2..].iter().map(|line| cells(line).len()).collect();
    widths.sort_unstable();
    widths[widths.len() / 2]
}

/// Returns whether a word stands for a value that is not there.
pub(crate) fn is_no_value(word: &str) -> bool {
    let word = word.trim_start_matches('-').to_ascii_lowercase();
    matches!(word.as_str(), "nan" | "inf" | "infinity" | "na" | "n/a" | "null" | "none")
}

fn value(text: &str, point: u8) -> Option<f64> {
    match cell(text.as_bytes(), Written { unit_ns: AS_UNITS, point }) {
        Cell::Ns(ns) => Some(ns as f64 / AS_UNITS as f64),
        _ => None,
    }
}

/// Returns the cells of a line, without the quotes around them.
fn cells(line: &[u8], delimiter: u8) -> Vec<String> {
    if delimiter == b' ' {
        // Blanks line columns up: several are one.
        return String::from_utf8_lossy(line).split_whitespace().map(str::to_owned).collect();
    }
    let text = |cell: &[u8]| String::from_utf8_lossy(trimmed(cell)).into_owned();
    if !line.contains(&b'"') {
        return line.split(|&byte| byte == delimiter).map(text).collect();
    }
    let mut reader = csv::ReaderBuilder::new()
        .delimiter(delimiter)
        .has_headers(false)
        .flexible(true)
        .from_reader(line);
    let mut record = csv::ByteRecord::new();
    match reader.read_byte_record(&mut record) {
        Ok(true) => {
            record.iter().map(|cell| String::from_utf8_lossy(trimmed(cell)).into_owned()).collect()
        }
        _ => Vec::new(),
    }
}

/// What divides cells, and what stands before decimals.
struct Division {
    delimiter: u8,
    point: u8,
    open_point: bool,
}

impl Division {
    fn of(delimiter: u8, point: u8) -> Self {
        Self { delimiter, point, open_point: false }
    }
}

/// Returns what divides cells, and what stands before decimals.
fn division(lines: &[Line<'_>]) -> Result<Division, LogError> {
    // The last lines are rows, whatever stands at the top.
    let rows = &lines[lines.len() / 2..];
    let most = |test: &dyn Fn(&[u8]) -> bool| {
        rows.iter().filter(|line| test(line.bytes)).count() * 2 > rows.len()
    };
    let has = |byte: u8| most(&|line: &[u8]| line.contains(&byte));
    for delimiter in [b'\t', b';'] {
        if has(delimiter) {
            return Ok(decimals(rows, delimiter));
        }
    }
    if has(b',') {
        return comma(lines, rows);
    }
    // A blank divides where the words are numbers: `frame 16.7` says one thing.
    let spaced = |line: &[u8]| {
        let words: Vec<&[u8]> =
            line.split(|&byte| byte == b' ').filter(|w| !w.is_empty()).collect();
        let number = |word: &&&[u8]| value(&String::from_utf8_lossy(word), b'.').is_some();
        words.len() > 1 && words.iter().filter(number).count() == words.len()
    };
    Ok(Division::of(if most(&spaced) { b' ' } else { b',' }, b'.'))
}

/// Tells a comma between cells from one before decimals.
fn comma(lines: &[Line<'_>], rows: &[Line<'_>]) -> Result<Division, LogError> {
    let quoted = |line: &&Line<'_>| line.bytes.contains(&b'"');
    if rows.iter().any(|line| quoted(&line)) {
        return Ok(decimals(rows, b','));
    }
    // `16,7`: two whole numbers, or one with decimals?
    let two_whole = |line: &Line<'_>| {
        let parts: Vec<&[u8]> = line.bytes.split(|&byte| byte == b',').collect();
        let whole = |part: &&[u8]| !part.is_empty() && part.iter().all(u8::is_ascii_digit);
        parts.len() == 2 && parts.iter().all(whole)
    };
    if !rows.iter().all(two_whole) {
        return Ok(Division::of(b',', b'.'));
    }
    let words = lines.iter().rev().find(|line| line.bytes.iter().any(u8::is_ascii_alphabetic));
    match words.map(|line| line.bytes.contains(&b',')) {
        Some(true) => Ok(Division::of(b',', b'.')),
        // One heading over it: one column. No cell is divided by a byte that is in none.
        Some(false) => Ok(decimals(rows, b'\t')),
        None => Err(LogError::asks(
            format!(
                "line {} is `{}`: two columns, or one number with a decimal comma",
                rows[0].number,
                shortened(rows[0].bytes)
            ),
            "write a heading line above it, of one word or of two, or use a decimal point",
        )),
    }
}

/// Returns what stands before decimals in cells that `delimiter` divides.
fn decimals(rows: &[Line<'_>], delimiter: u8) -> Division {
    // How many cells are numbers with either one before decimals, and how many of those with none other.
    let (mut read, mut sure) = ([0, 0], [0, 0]);
    for line in rows {
        for cell in cells(line.bytes, delimiter) {
            let [point, comma] = [b'.', b','].map(|point| value(&cell, point).is_some());
            let parted = cell.contains(['.', ',']);
            for (nth, (this, other)) in [(point, comma), (comma, point)].into_iter().enumerate() {
                read[nth] += usize::from(parted && this && cell.contains(['.', ','][nth]));
                sure[nth] += usize::from(parted && this && !other);
            }
        }
    }
    let comma = match sure[0].cmp(&sure[1]) {
        Ordering::Equal => read[1] > read[0],
        order => order == Ordering::Less,
    };
    let open_point = sure == [0, 0] && read != [0, 0];
    Division { delimiter, point: if comma { b',' } else { b'.' }, open_point }
}

/// Returns a line as it stands there, short enough to be told.
pub(crate) fn shortened(bytes: &[u8]) -> String {
    let text = honest_lap_core::record::plain_line(&String::from_utf8_lossy(bytes));
    match text.char_indices().nth(60) {
        Some((at, _)) => format!("{}…", &text[..at]),
        None => text,
    }
}
