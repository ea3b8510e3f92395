//! What two spellings of one name have in common.

/// Returns `text` with nothing but small letters and digits, whatever else between them one hyphen: `Osprey Mk II` and
/// `osprey_mk-ii` are both `osprey-mk-ii`.
pub fn plain_name(text: &str) -> String {
    let mut out = String::new();
    for c in text.chars() {
        if c.is_alphanumeric() {
            out.extend(c.to_lowercase());
        } else if !out.is_empty() && !out.ends_with('-') {
            out.push('-');
        }
    }
    out.truncate(out.trim_end_matches('-').len());
    out
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn spellings_of_one_name_are_alike() {
        for (text, alike) in [
            ("Osprey Mk II", "osprey-mk-ii"),
            (" osprey_mk  ii. ", "osprey-mk-ii"),
            ("low 0.1%", "low-0-1"),
            ("Dôme", "dôme"),
            ("--", ""),
        ] {
            assert_eq!(plain_name(text), alike);
        }
    }
}
