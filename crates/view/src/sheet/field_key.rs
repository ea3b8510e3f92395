//! The names that programs know measures by.

use honest_lap_core::lab::{JOULES, WATTS};

/// Returns the field's name for programs, ending in its unit.
pub(crate) fn field_key(asked: &str, unit: &str) -> String {
    let unit = match unit {
        "%" => "percent".to_owned(),
        "°C" => "c".to_owned(),
        // Their names say it already.
        "W" | "J" if [WATTS, JOULES].contains(&asked) => String::new(),
        other => other.replace('/', " per "),
    };
    let text = format!("{asked} {unit}").to_lowercase();
    let words = text.split(|c: char| !c.is_alphanumeric()).filter(|word| !word.is_empty());
    words.collect::<Vec<_>>().join("_")
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_key_says_its_unit_once() {
        let keys = [("use", "%"), ("hottest", "°C"), ("watts", "W"), ("cores in use", "")];
        let keys = keys.map(|(asked, unit)| field_key(asked, unit));
        assert_eq!(keys, ["use_percent", "hottest_c", "watts", "cores_in_use"]);
        assert_eq!(field_key("work per joule", "Mpixel/J"), "work_per_joule_mpixel_per_j");
    }
}
