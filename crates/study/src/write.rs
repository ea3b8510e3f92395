//! Text that is added to a study: what `read` reads back.

use honest_lap_core::record::{Elsewhere, SECONDS, TIME};
use toml::Value;

/// Returns `number` as a table of the list `[[elsewhere]]`, to stand at the end of a study.
pub fn elsewhere_text(number: &Elsewhere) -> String {
    let text = |words: &str| Value::String(words.to_owned()).to_string();
    let mut lines = vec!["[[elsewhere]]".to_owned()];
    let mut line = |key: &str, value: String| lines.push(format!("{key:<8} = {value}"));
    line("rig", text(&number.rig));
    line("workload", text(&number.workload));
    if !number.settings.is_empty() {
        let pair = |(key, value): (&str, &str)| format!("{} = {}", text(key), text(value));
        let pairs: Vec<String> = number.settings.iter().map(pair).collect();
        line("settings", format!("{{ {} }}", pairs.join(", ")));
    }
    if number.measure != TIME {
        line("measure", text(&number.measure));
        line("better", text(number.better.word()));
    }
    line(
        "value",
        match number.unit.as_str() {
            SECONDS if number.measure == TIME => text(&format!("{} s", number.value)),
            "" => number.value.to_string(),
            unit => text(&format!("{} {unit}", number.value)),
        },
    );
    line("source", text(&number.source));
    lines.join("\n") + "\n"
}

#[cfg(test)]
mod tests {
    use super::*;
    use honest_lap_core::record::{Better, Settings};

    #[test]
    fn what_is_written_is_read_back() {
        let one = |measure: &str, unit: &str, value, better, settings| Elsewhere {
            rig: "the \"osprey\"".into(),
            workload: "dome-still".into(),
            settings,
            measure: measure.into(),
            better,
            value,
            unit: unit.into(),
            source: "the maker's leaflet, spring".into(),
        };
        let threads = Settings::new(vec![("threads".into(), "2".into())]);
        let all = vec![
            one(TIME, SECONDS, 0.48, Better::Less, threads),
            one("score", "", 812.0, Better::More, Settings::default()),
            one("low 1%", "fps", 59.5, Better::More, Settings::default()),
        ];
        let text: String = all.iter().map(elsewhere_text).collect();
        let study = crate::read(&format!(
            "[workload.dome-still]\nkind = \"task\"\nby_hand = \"watch\"\n{text}"
        ));
        assert_eq!(study.map_err(|mistakes| format!("{mistakes:?}")).unwrap().elsewhere, all);
    }
}
