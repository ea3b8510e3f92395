//! Where readings are found: texts by their source, as bytes and as lines.

use crate::plain_file::open_plain;
use crate::spool;
use honest_lap_core::record::Source;
use honest_lap_core::unit::Nanos;
use std::collections::BTreeMap;
use std::io::Read;
use std::path::{Path, PathBuf};

/// A JSON file that is larger is not one that a score stands in.
const MOST_JSON_BYTES: u64 = 64 << 20;

/// A stream or file of a lap: where it is, and how many bytes it carried if it is a spool.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(crate) enum Text {
    Spool { path: PathBuf, total: u64 },
    File(PathBuf),
}

/// What readings and splits of a lap are taken from, by where the study says it is.
pub(crate) type Texts = BTreeMap<String, Text>;

/// Returns the key of a source in [`Texts`].
pub(crate) fn key(source: &Source) -> String {
    match source {
        Source::Output => "standard output".to_owned(),
        Source::Errors => "standard error".to_owned(),
        Source::File(template) => template.source().to_owned(),
    }
}

pub(super) fn bytes(text: &Text) -> Result<Vec<u8>, String> {
    let (Text::Spool { path, .. } | Text::File(path)) = text;
    let mut file = open_plain(path).map_err(|err| err.to_string())?;
    let size = file.metadata().map_err(|err| err.to_string())?.len();
    if size > MOST_JSON_BYTES {
        return Err(format!("it is larger than a result can be ({} MB)", size >> 20));
    }
    let mut bytes = Vec::new();
    // A file that grows meanwhile is read to where it was.
    (&mut file).take(size).read_to_end(&mut bytes).map_err(|err| err.to_string())?;
    Ok(bytes)
}

pub(super) fn lines(text: &Text) -> Result<Vec<spool::Line>, String> {
    match text {
        Text::Spool { path, total } => {
            let lines = spool::lines(path, *total).map_err(|err| err.to_string())?;
            lines.collect::<Result<_, _>>().map_err(|err| err.to_string())
        }
        Text::File(path) => file_lines(path),
    }
}

fn file_lines(path: &Path) -> Result<Vec<spool::Line>, String> {
    let text = Text::File(path.to_owned());
    let bytes = bytes(&text)?;
    let lines = String::from_utf8_lossy(&bytes);
    let line = |text: &str| spool::Line { text: text.to_owned(), at: Nanos(0) };
    Ok(lines.split(['\n', '\r']).map(line).collect())
}
