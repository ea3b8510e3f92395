//! What the tool and the starter say to each other: a line of JSON, then raw output bytes.

use honest_lap_core::record::{Captured, OwnWaits, TreeKept, TreePeak, Usage};
use honest_lap_core::unit::Nanos;
use serde::{Deserialize, Serialize};
use std::io::{self, BufRead, Read, Write};

/// A program to be started, and how long it may take.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub(crate) struct Order {
    /// The program and its arguments.
    pub(crate) command: Vec<String>,
    /// The folder it runs in.
    pub(crate) folder: String,
    /// Environment on top of the starter's own.
    pub(crate) environment: Vec<(String, String)>,
    /// A file to be opened as its standard input; without one there is nothing to read.
    pub(crate) stdin: Option<String>,
    /// Whether it gets a terminal of its own, to which its output and its errors go.
    pub(crate) terminal: bool,
    /// When it is ended.
    pub(crate) limit: Nanos,
    /// What is written down as it comes in.
    pub(crate) spools: Spools,
    /// Where the starter notes which process it is, so that what it leaves can be found.
    pub(crate) noted: Option<String>,
    /// Whether it is a lap, whose tree is looked at while it runs; a step around one is not.
    pub(crate) watched: bool,
}

/// Streams that are written down as they come in, each to a path of its own.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
pub(crate) struct Spools {
    /// Where standard output goes.
    pub(crate) stdout: Option<String>,
    /// Where standard error goes.
    pub(crate) stderr: Option<String>,
    /// A file that the program appends to, and where what it appends goes.
    pub(crate) watched: Option<(String, String)>,
}

/// What came of it.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub(crate) enum Report {
    /// It could not be started, for this reason.
    NotStarted(String),
    /// It was started, and has ended.
    Ended(Box<Ended>),
}

/// How a program ended.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
pub(crate) struct Ended {
    pub(crate) wall: Nanos,
    pub(crate) slept: Nanos,
    pub(crate) exit_code: Option<i32>,
    pub(crate) signal: Option<i32>,
    pub(crate) usage: Usage,
    /// It was ended at its limit.
    pub(crate) over_limit: bool,
    /// It was ended because the tool asked.
    pub(crate) asked: bool,
    /// Names of the programs that outlived it and were ended.
    pub(crate) left_behind: Vec<String>,
    /// What its processes waited for and moved; nothing of a step.
    pub(crate) own: OwnWaits,
    /// The most memory that its whole tree was seen to hold at once.
    pub(crate) tree_peak: Option<TreePeak>,
    /// By what its tree was held together; `None` of a step.
    pub(crate) tree: Option<TreeKept>,
    /// How many bytes it appended to the watched file.
    pub(crate) watched_bytes: u64,
    #[serde(skip)]
    pub(crate) stdout: Captured,
    #[serde(skip)]
    pub(crate) stderr: Captured,
}

/// The lengths of the raw bytes that follow a report.
#[derive(Serialize, Deserialize)]
struct Envelope {
    report: Report,
    /// Head, tail and total of standard output, then of standard error.
    lengths: [u64; 6],
}

/// No line of ours is longer; what is, is not ours.
const MOST_LINE_BYTES: u64 = 16 << 20;

pub(crate) fn write_order(order: &Order, mut to: impl Write) -> io::Result<()> {
    let mut line = serde_json::to_vec(order)?;
    line.push(b'\n');
    to.write_all(&line)
}

pub(crate) fn read_order(from: impl BufRead) -> io::Result<Order> {
    Ok(serde_json::from_slice(&line(from)?)?)
}

pub(crate) fn write_report(mut report: Report, mut to: impl Write) -> io::Result<()> {
    let streams = match &mut report {
        Report::Ended(ended) => {
            [std::mem::take(&mut ended.stdout), std::mem::take(&mut ended.stderr)]
        }
        Report::NotStarted(_) => Default::default(),
    };
    let [out, err] = &streams;
    let lengths = [out.head.len(), out.tail.len(), 0, err.head.len(), err.tail.len(), 0];
    let mut lengths = lengths.map(|length| length as u64);
    (lengths[2], lengths[5]) = (out.total, err.total);
    let mut line = serde_json::to_vec(&Envelope { report, lengths })?;
    line.push(b'\n');
    to.write_all(&line)?;
    for bytes in [&out.head, &out.tail, &err.head, &err.tail] {
        to.write_all(bytes)?;
    }
    to.flush()
}

pub(crate) fn read_report(mut from: impl BufRead) -> io::Result<Report> {
    let Envelope { mut report, lengths } = serde_json::from_slice(&line(&mut from)?)?;
    if let Report::Ended(ended) = &mut report {
        let mut bytes = |length: u64| -> io::Result<Vec<u8>> {
            let mut bytes = Vec::new();
            let read = (&mut from).take(length.min(MOST_LINE_BYTES)).read_to_end(&mut bytes)?;
            if read as u64 == length { Ok(bytes) } else { Err(io::ErrorKind::UnexpectedEof.into()) }
        };
        let [out_head, out_tail, out_total, err_head, err_tail, err_total] = lengths;
        ended.stdout =
            Captured { head: bytes(out_head)?, tail: bytes(out_tail)?, total: out_total };
        ended.stderr =
            Captured { head: bytes(err_head)?, tail: bytes(err_tail)?, total: err_total };
    }
    Ok(report)
}

fn line(from: impl BufRead) -> io::Result<Vec<u8>> {
    let mut line = Vec::new();
    from.take(MOST_LINE_BYTES).read_until(b'\n', &mut line)?;
    if line.ends_with(b"\n") { Ok(line) } else { Err(io::ErrorKind::UnexpectedEof.into()) }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_report_comes_through_with_any_bytes() {
        let captured =
            |bytes: &[u8]| Captured { head: bytes.to_vec(), tail: vec![0, 10], total: 9 };
        let report = Report::Ended(Box::new(Ended {
            wall: Nanos(7),
            signal: Some(11),
            stdout: captured(b"\n\xff{"),
            stderr: captured(b""),
            ..Ended::default()
        }));
        let mut wire = Vec::new();
        write_report(report.clone(), &mut wire).unwrap();
        assert_eq!(read_report(&wire[..]).unwrap(), report);
        assert!(read_report(&wire[..wire.len() - 1]).is_err(), "a cut report is no report");
        assert!(read_report(&b"{}\n"[..]).is_err());
    }
}
