//! Texts in which placeholders may stand, and where.

use crate::launch::Placed;
use honest_lap_core::record::{Launch, Template};
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
