//! Names as people write them: `Osprey Mk II` is the rig `osprey-mk-ii`.

use crate::record::{Study, is_rig_name, plain_name};

/// Most letters of a name.
const LONGEST: usize = 40;

/// Rigs that are known, by every spelling of theirs.
pub(super) struct Rigs {
    known: Vec<(String, String)>,
}

impl Rigs {
    /// Returns those of `study`, by name and title, and those that were `recorded`.
    pub(super) fn of(study: &Study, recorded: &[String]) -> Self {
        let mut known = Vec::new();
        for rig in &study.rigs {
            let title = rig.title.iter();
            known.extend(title.chain([&rig.name]).map(|text| (plain_name(text), rig.name.clone())));
        }
        known.extend(recorded.iter().map(|name| (plain_name(name), name.clone())));
        Self { known }
    }

    /// Returns the name of the rig that `text` means.
    pub(super) fn named(&self, text: &str) -> Option<&str> {
        let exact = self.known.iter().find(|(_, name)| name == text);
        let spelled = || self.known.iter().find(|(spelling, _)| *spelling == plain_name(text));
        exact.or_else(spelled).map(|(_, name)| name.as_str())
    }
}

/// Returns a name for a thing that is called `title`; `None` where nothing of it can be one.
pub fn name_for(title: &str) -> Option<String> {
    let ascii: String = title.chars().filter(|c| c.is_ascii() || !c.is_alphanumeric()).collect();
    let mut name = plain_name(&ascii);
    name.truncate(LONGEST);
    name.truncate(name.trim_end_matches('-').len());
    is_rig_name(&name).then_some(name)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::record::Rig;

    #[test]
    fn a_title_gives_a_name() {
        assert_eq!(name_for("Osprey (Mk II)").as_deref(), Some("osprey-mk-ii"));
        assert_eq!(name_for(&"a b".repeat(40)).map(|name| name.len() <= 40), Some(true));
        assert_eq!(name_for("–"), None);
    }

    #[test]
    fn a_rig_is_known_by_name_and_by_title() {
        let rig = |name: &str, title: Option<&str>| Rig {
            name: name.into(),
            title: title.map(str::to_owned),
            ..Rig::default()
        };
        let rigs = vec![rig("heron", Some("The big one")), rig("wren", None)];
        let known = Rigs::of(&Study { rigs, ..Study::default() }, &["plover".to_owned()]);
        let named = |text| known.named(text);
        assert_eq!(
            [named("the BIG one"), named("Wren"), named("plover")],
            [Some("heron"), Some("wren"), Some("plover")]
        );
        assert_eq!(named("dunlin"), None);
    }
}
