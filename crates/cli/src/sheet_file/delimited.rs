//! Tables as text: cells divided by commas, semicolons or tabs.

use super::wrong::Wrong;

/// Rows in which the sign between cells is looked for.
const LOOKED_AT: usize = 20;

/// Returns the cells of a table in text.
pub(super) fn read(bytes: Vec<u8>) -> Result<Vec<Vec<String>>, Wrong> {
    let text = match String::from_utf8(bytes) {
        Ok(text) => text,
        Err(_) => return Err(("not valid UTF-8".into(), "save it as UTF-8 text".into())),
    };
    let text = format!("{}\n", text.strip_prefix('\u{feff}').unwrap_or(&text).trim_end());
    let mut reader = csv::ReaderBuilder::new()
        .delimiter(between(&text))
        .has_headers(false)
        .flexible(true)
        .trim(csv::Trim::All)
        .from_reader(text.as_bytes());
    let (mut rows, mut record) = (Vec::new(), csv::StringRecord::new());
    let bad = |err: csv::Error| (err.to_string(), "save it as CSV again".to_owned());
    let mut before = 1;
    while reader.read_record(&mut record).map_err(bad)? {
        let after = reader.position().line();
        let within: u64 = record.iter().map(|cell| cell.matches('\n').count() as u64).sum();
        // The reader passes over empty lines; rows keep the numbers that they have in the file.
        let empty = (after - before).saturating_sub(1 + within);
        rows.extend((0..empty).map(|_| Vec::new()));
        rows.push(record.iter().map(str::to_owned).collect());
        before = after;
    }
    Ok(rows)
}

/// Returns the sign between cells. Pasted from a spreadsheet it is a tab; a comma may be a decimal one where semicolons
/// divide, and stand in a title where neither does.
fn between(text: &str) -> u8 {
    let lines = || text.lines().filter(|line| !line.trim().is_empty()).take(LOOKED_AT);
    let many = |sign: char| lines().filter(|line| line.contains(sign)).count();
    let half = lines().count().div_ceil(2).max(1);
    [b'\t', b';'].into_iter().find(|sign| many(char::from(*sign)) >= half).unwrap_or(b',')
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn cells_are_divided_by_what_most_lines_have() {
        for (text, sign) in [
            ("rig,still\nheron,5:41", b','),
            ("rig;still\nheron;341,2", b';'),
            ("rig\tstill, s\nheron\t341,2", b'\t'),
            ("Results; all of them\nrig,still\nheron,5:41\nwren,5:52", b','),
            ("", b','),
        ] {
            assert_eq!(between(text), sign, "{text}");
        }
    }

    #[test]
    fn rows_keep_their_numbers() {
        let rows = read(b"\xef\xbb\xbftitle\n\n\nrig,still\n\"he,ron\",5:41\n".to_vec()).unwrap();
        assert_eq!(rows.len(), 5);
        assert_eq!((rows[3][0].as_str(), rows[4][0].as_str()), ("rig", "he,ron"));
        assert!(rows[1].is_empty() && rows[2].is_empty());
        assert!(read(vec![0xff, 0xfe]).is_err());
    }
}
