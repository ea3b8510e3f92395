//! The files that a page carries.

use super::form::File;
use super::material::Material;
use crate::sheet;
use crate::table::{Format, Sheet};

/// Returns what can be saved from inside the page.
pub(super) fn files(from: &Material<'_>, compared: &Sheet) -> Vec<File> {
    let laps = from.laps.in_order();
    let doubts = sheet::doubts(&from.shown.analysis.findings, from.shown.analysis.laps());
    vec![
        file(
            "laps.csv",
            "every lap with its outcome and readings",
            "text/csv",
            &written(&sheet::laps(&laps), Format::Csv),
        ),
        file(
            "sums.csv",
            "typical values, intervals, ratios and verdicts",
            "text/csv",
            &written(compared, Format::Csv),
        ),
        file(
            "doubts.csv",
            "every doubt with its evidence",
            "text/csv",
            &written(&doubts, Format::Csv),
        ),
        file(
            "study.toml",
            "the workloads and rigs as they are written down",
            "application/toml",
            from.study_text.as_bytes(),
        ),
    ]
}

fn file(name: &str, about: &str, kind: &'static str, bytes: &[u8]) -> File {
    File { name: name.to_owned(), about: about.to_owned(), kind, bytes: bytes.to_vec() }
}

fn written(sheet: &Sheet, format: Format) -> Vec<u8> {
    let mut out = Vec::new();
    crate::table::write(sheet, format, &mut out).expect("memory takes what is written");
    out
}
