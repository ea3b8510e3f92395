//! The guide, as `lap help TOPIC` prints it.

mod terminal;

pub use terminal::in_terminal;

/// A page of the guide.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Page {
    /// What it is asked for by: its file in docs/guide.
    pub topic: &'static str,
    /// Its text, in Markdown.
    pub text: &'static str,
}

impl Page {
    /// Returns its title.
    pub fn title(&self) -> &'static str {
        self.text.lines().next().unwrap_or_default().trim_start_matches(['#', ' '])
    }
}

macro_rules! pages {
    ($($topic:literal),* $(,)?) => {
        /// Every page, in the order in which people work.
        pub const PAGES: &[Page] = &[$(Page {
            topic: $topic,
            text: include_str!(concat!("../../../../docs/guide/", $topic, ".md")),
        }),*];
    };
}

pages![
    "first-study",
    "renders-and-exports",
    "compiles-in-ci",
    "games",
    "playback",
    "by-hand",
    "battery-and-heat",
    "how-much-it-carries",
    "several-rigs",
    "reading-verdicts",
    "publishing",
    "when-something-looks-wrong",
    "glossary",
];

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_pages_are_those_of_the_contents_in_that_order() {
        let contents = include_str!("../../../../docs/guide/README.md");
        let linked = contents.split("](").skip(1).filter_map(|rest| rest.split_once(".md)"));
        let linked: Vec<&str> =
            linked.map(|(page, _)| page).filter(|page| !page.contains('/')).collect();
        assert_eq!(PAGES.iter().map(|page| page.topic).collect::<Vec<_>>(), linked);
        assert!(PAGES.iter().all(|page| page.text.starts_with("# ") && !page.title().is_empty()));
    }
}
