//! Texts in which placeholders may stand, and where.

use crate::launch::Placed;
use crate::mistake::nearest;
use crate::section::Section;
use crate::vary::{OWN_PLACES, Varied};
use honest_lap_core::record::{CACHE, KindName, Launch, Template};
use std::collections::BTreeSet;
use std::ops::Range;
use toml::Spanned;

/// Texts in which placeholders may stand, with their places, and the names they use.
#[derive(Default)]
pub(crate) struct Places {
    pub(crate) used: Vec<(String, Range<usize>)>,
}

impl Places {
    pub(crate) fn note(&mut self, span: &Range<usize>, templates: &[Template]) {
        for name in templates.iter().flat_map(Template::places) {
            self.used.push((name.to_owned(), span.clone()));
        }
    }

    pub(crate) fn keep(&mut self, template: Option<Spanned<Template>>) -> Option<Template> {
        let template = template?;
        self.note(&template.span(), std::slice::from_ref(template.get_ref()));
        Some(template.into_inner())
    }

    pub(crate) fn keep_launch(&mut self, placed: Placed) -> Launch {
        self.note(&placed.span, placed.launch.templates());
        placed.launch
    }
}

/// Tells placeholders without a value, and settings that change nothing.
pub(crate) fn check_places(
    section: &Section,
    places: &Places,
    varied: &[Varied],
    (kind, fills_cache): (Option<KindName>, bool),
) {
    let own = OWN_PLACES.map(|(name, _)| name);
    let cache = fills_cache.then_some(CACHE);
    let load = (kind == Some(KindName::Capacity)).then_some("load");
    // Who runs it by hand is told the load.
    let started = load.is_some() && section.get("by_hand").is_none();
    if started && !places.used.iter().any(|(name, _)| name == "load") {
        let remedy =
            "put {load} into the command: command = [\"sky-layers\", \"--layers\", \"{load}\"]";
        let problem = format!("{} is given no load, so every lap would do the same", section.what);
        section.mistakes.add(section.span.clone(), problem, remedy);
    }
    let seconds = (kind == Some(KindName::Endurance)).then_some("seconds");
    let known = varied.iter().map(|v| v.name.as_str()).chain(own).chain(cache).chain(load);
    let known = known.chain(seconds);
    let known: Vec<&str> = known.collect();
    let mut told = BTreeSet::new();
    for (name, span) in &places.used {
        if known.contains(&name.as_str()) || !told.insert((name, span.start)) {
            continue;
        }
        let problem = format!("placeholder `{{{name}}}` has no value");
        let remedy = match nearest(name, known.iter().copied()) {
            Some(near) => format!("did you mean `{{{near}}}`?"),
            None => format!(
                "vary it, vary = {{ {name} = [1, 2] }}, or write one of {{{}}}; a brace itself is written twice",
                known.join("}, {")
            ),
        };
        section.mistakes.add(span.clone(), problem, remedy);
    }
    for setting in varied {
        // What a person varies, a person sets.
        let by_hand = section.get("by_hand").is_some();
        if !by_hand && !places.used.iter().any(|(name, _)| *name == setting.name) {
            let name = &setting.name;
            section.mistakes.add(
                setting.span.clone(),
                format!(
                    "`{name}` is varied and used nowhere, so its variants would do the same work"
                ),
                format!("put {{{name}}} into the command, the environment or a file name"),
            );
        }
    }
}
