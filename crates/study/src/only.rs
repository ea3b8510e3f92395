//! Which combinations of varied settings are meant, where not all of them are.

use crate::section::Section;
use crate::vary::{Varied, value_text};
use honest_lap_core::record::Settings;

/// Returns what `only` says: settings each of which is enough; none where all combinations are meant.
pub(crate) fn only(section: &Section, varied: &[Varied]) -> Vec<Settings> {
    if let Some(value) = section.get("only")
        && (varied.is_empty() || value.get_ref().as_array().is_some_and(|list| list.is_empty()))
    {
        let remedy = "name combinations of settings that vary: vary = { threads = [1, 2], codec = [\"a\", \"b\"] } and \
                      only = [{ threads = 1, codec = \"a\" }, { threads = 2 }]; or remove the key";
        let problem = format!("`only` in {} chooses among nothing", section.what);
        section.mistakes.add(value.span(), problem, remedy);
        return Vec::new();
    }
    let mut all = Vec::new();
    for item in section.list("only").unwrap_or_default() {
        let Some(table) = item.get_ref().as_table() else {
            section.wrong_type("only", item, "a list of tables, such as [{ threads = 1 }],");
            continue;
        };
        let mut pairs = Vec::new();
        for (name, value) in table {
            let key: &str = name.get_ref();
            let Some(setting) = varied.iter().find(|setting| setting.name == key) else {
                let known: Vec<&str> = varied.iter().map(|setting| &*setting.name).collect();
                let problem = format!("`only` names `{key}`, which does not vary");
                section.mistakes.add(name.span(), problem, format!("{} vary", known.join(", ")));
                continue;
            };
            match value_text(value).filter(|text| setting.values.contains(text)) {
                Some(text) => pairs.push((key.to_owned(), text)),
                None => {
                    let problem = format!("`only` wants a value of `{key}` that it does not have");
                    let remedy = format!("it has {}", setting.values.join(", "));
                    section.mistakes.add(value.span(), problem, remedy);
                }
            }
        }
        all.push(Settings::new(pairs));
    }
    all
}
