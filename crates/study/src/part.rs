//! `parts` of a rig: what each is, or was since when.

use crate::keys::PART;
use crate::section::{Section, Value};
use honest_lap_core::record::RigPart;
use honest_lap_core::unit::Date;
use toml::de::DeValue;

/// Returns the parts of a rig: `memory = "64 GB"`, or `memory = [{ is = "32 GB" }, { is = "64 GB", from = "2026-03-09" }]`.
pub(crate) fn parts(section: &Section) -> Vec<RigPart> {
    let part = |(name, _, value): (&str, _, &Value<'_>)| match value.get_ref() {
        DeValue::Array(items) => dated(section, name, items),
        _ => Some(RigPart::always(name, section.text_of(name, value)?)),
    };
    section.entries("parts").filter_map(part).collect()
}

fn dated(section: &Section, name: &str, items: &[Value<'_>]) -> Option<RigPart> {
    let mut history: Vec<(Option<Date>, String)> = Vec::new();
    for item in items {
        let what = format!("`{name}` of the parts of {}", section.what);
        let inner = Section::open(section.mistakes, what, item, &PART)?;
        let Some(is) = inner.text("is") else {
            let remedy =
                "write what it is, and since when: { is = \"64 GB\", from = \"2026-03-09\" }";
            section.mistakes.add(item.span(), format!("{} has no `is`", inner.what), remedy);
            return None;
        };
        let from = match inner.get("from") {
            Some(_) => Some(inner.quantity("from", Date::parse)?),
            None => None,
        };
        if history.iter().any(|(known, _)| *known == from) {
            let remedy = "one entry may have no `from`: what it was at first; each other has a day of its own";
            let problem = format!("`{name}` was two things at once");
            section.mistakes.add(item.span(), problem, remedy);
            return None;
        }
        history.push((from, is.to_owned()));
    }
    history.sort_by_key(|(from, _)| *from);
    (!history.is_empty()).then(|| RigPart { name: name.to_owned(), history })
}
