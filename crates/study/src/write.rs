//! Text that is added to a study: what `read` reads back.

use honest_lap_core::entry::{Draft, Drafted};
use honest_lap_core::record::{Elsewhere, SECONDS, TIME};
use toml::Value;
use toml_edit::{Array, DocumentMut, Item, Table, TableLike, value};

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

/// Returns a study of a table, whose name is `table`: each of its columns a workload that is done by hand.
pub fn drafted_text(draft: &Draft, table: &str) -> String {
    let text = |words: &str| Value::String(words.to_owned()).to_string();
    let mut lines = vec![
        "# A study of a table that is kept by hand. Next:".to_owned(),
        "#".to_owned(),
        "#   lap enter --table FILE --preview    how the table would be read".to_owned(),
        "#   lap enter --table FILE              record it; again whenever it has grown".to_owned(),
        "#   lap compare".to_owned(),
        String::new(),
        "[study]".to_owned(),
        format!("title = {}", text(table)),
    ];
    draft.workloads.iter().for_each(|one| lines.extend(workload_lines(one)));
    for rig in &draft.rigs {
        lines.extend([String::new(), format!("[rig.{}]", rig.name)]);
        if rig.title != rig.name {
            lines.push(format!("title = {}", text(&rig.title)));
        }
    }
    lines.join("\n") + "\n"
}

/// Returns the study `text` with these workloads behind all that it has.
pub fn with_workloads(text: &str, new: &[Drafted]) -> String {
    let lines: Vec<String> = new.iter().flat_map(workload_lines).collect();
    format!("{}\n{}\n", text.trim_end(), lines.join("\n"))
}

/// Returns the lines of a drafted workload, with a blank one ahead.
fn workload_lines(Drafted { heading, name, reads }: &Drafted) -> Vec<String> {
    let text = |words: &str| Value::String(words.to_owned()).to_string();
    let mut lines = vec![String::new(), format!("[workload.{name}]")];
    match reads {
        None => lines.push("kind    = \"task\"".to_owned()),
        Some(measure) => {
            lines.push("kind    = \"score\"".to_owned());
            let unit = match measure.unit.as_str() {
                "" => String::new(),
                unit => format!("unit = {}, ", text(unit)),
            };
            lines.push(format!(
                "readings = [{{ name = {}, {unit}better = \"{}\" }}]    # is that right?",
                text(&measure.name),
                measure.better.word()
            ));
        }
    }
    lines.push(format!("by_hand = {}", text(heading)));
    lines
}

/// Returns the study `text` with `key` among the keys of `rig`, everything else as it was written; `None` where there
/// is no place for it.
pub fn with_rig_key(text: &str, rig: &str, key: &str) -> Option<String> {
    let mut study: DocumentMut = text.parse().ok()?;
    let known = rig_table(&mut study, rig)?.entry("key").or_insert(value(Array::new()));
    if let Some(one) = known.as_str() {
        *known = value(Array::from_iter([one.to_owned()]));
    }
    let keys = known.as_array_mut()?;
    keys.push(key);
    if keys.len() == 1 {
        *known = value(key);
    }
    Some(study.to_string())
}

/// Returns the study `text` with `rig`, which people call `title`, everything else as it was written; `None` where there
/// is no place for it.
pub fn with_rig(text: &str, rig: &str, title: Option<&str>) -> Option<String> {
    let mut study: DocumentMut = text.parse().ok()?;
    let table = rig_table(&mut study, rig)?;
    if let Some(title) = title {
        table.entry("title").or_insert(value(title));
    }
    Some(study.to_string())
}

/// Returns the table of `rig` in a study, a new one where there is none.
fn rig_table<'s>(study: &'s mut DocumentMut, rig: &str) -> Option<&'s mut dyn TableLike> {
    let mut rigs = Table::new();
    // The tables of the rigs stand by themselves: no line says `[rig]`.
    rigs.set_implicit(true);
    let rigs = study.entry("rig").or_insert(Item::Table(rigs)).as_table_like_mut()?;
    rigs.entry(rig).or_insert(Item::Table(Table::new())).as_table_like_mut()
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

    #[test]
    fn a_key_is_added_and_nothing_else_is_touched() {
        let keys =
            |text: &str, rig: &str| crate::read(text).unwrap().rig(rig).unwrap().keys.clone();
        let (one, two) = ("a1".repeat(32), "b2".repeat(32));
        let work = "[workload.dome]\nkind = \"task\"\nby_hand = \"watch\" # by eye\n";
        for (before, kept) in [
            (work.to_owned(), "# by eye"),
            (
                format!("[rig.heron] # the old one\nprice = \"9 EUR\"\n\n{work}"),
                "# the old one\nprice",
            ),
            (format!("rig.heron.price = \"9 EUR\"\n{work}"), "rig.heron.price"),
        ] {
            let with = with_rig_key(&before, "heron", &one).unwrap();
            assert!(with.contains(kept) && with.contains("# by eye"), "{with}");
            assert_eq!(keys(&with, "heron"), [one.as_str()], "{with}");
            let with = with_rig_key(&with, "heron", &two).unwrap();
            assert_eq!(keys(&with, "heron"), [one.as_str(), two.as_str()], "{with}");
        }
        assert_eq!(with_rig_key("rig = 7", "heron", &one), None);
    }
}
