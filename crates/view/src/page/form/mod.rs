//! A page: figures, tables and words in one HTML file that needs nothing else.

mod evidence;
mod html;
mod markdown;
mod moving;
mod packed;
mod reworded;

use crate::table::Group;
use honest_lap_draw::Drawing;

pub use evidence::{Evidence, Made};
pub use html::html;
pub use markdown::markdown;

/// What is published.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Page {
    /// Its title.
    pub title: String,
    /// The question that it answers.
    pub question: Option<String>,
    /// The conclusion, in sentences.
    pub conclusion: Vec<String>,
    /// All of it at a glance: a figure.
    pub overview: Option<Block>,
    /// What is missing, in lines.
    pub missing: Vec<String>,
    /// Its parts, in order.
    pub parts: Vec<Part>,
    /// Files that can be saved from inside the page.
    pub files: Vec<File>,
    /// What it was made of, where it carries that.
    pub evidence: Option<Evidence>,
    /// Who made it, from what, when.
    pub stamp: String,
}

/// A part of a page.
#[derive(Clone, Debug, PartialEq)]
pub struct Part {
    /// Its heading; its address follows from it.
    pub heading: String,
    /// What it holds.
    pub blocks: Vec<Block>,
}

/// One thing in a part.
#[derive(Clone, Debug, PartialEq)]
pub enum Block {
    /// A heading within a part.
    Heading(String),
    /// A sentence or two.
    Words(String),
    /// Remarks, each for itself.
    List(Vec<String>),
    /// A figure, and as it is drawn for a phone where that is another.
    Figure {
        /// For a screen or paper.
        wide: Box<Drawing>,
        /// For a phone.
        narrow: Option<Box<Drawing>>,
        /// Footnotes that stand in the figure; where it cannot be seen they follow the next table.
        notes: Vec<String>,
    },
    /// A table.
    Table(Group),
    /// A way to what stands elsewhere in the page.
    Way {
        /// What is there.
        words: String,
        /// The summary of the details that are meant.
        to: String,
    },
    /// Blocks that are read by those who ask for them.
    Details {
        /// What is in there.
        summary: String,
        /// The blocks.
        blocks: Vec<Block>,
    },
    /// The frames of a pass, to be looked into.
    Frames(Frames),
    /// Rigs side by side in true proportion.
    Race(Race),
}

/// The whole series of a pass.
#[derive(Clone, Debug, PartialEq)]
pub struct Frames {
    /// The pass.
    pub name: String,
    /// What it comes to.
    pub says: String,
    /// Frame times in nanoseconds.
    pub frames: Vec<u64>,
    /// A frame's time at the display's rate, in milliseconds.
    pub budget: Option<f64>,
    /// Stretches that are left out of its figures, in seconds.
    pub cut: Vec<(f64, f64)>,
}

/// Rigs that do one piece of work side by side.
#[derive(Clone, Debug, PartialEq)]
pub struct Race {
    /// The work.
    pub of: String,
    /// Each rig with its typical time in seconds and in words, quickest first.
    pub rigs: Vec<(String, f64, String)>,
}

/// A file inside a page.
#[derive(Clone, Debug, PartialEq)]
pub struct File {
    /// Its name.
    pub name: String,
    /// What it holds, in words.
    pub about: String,
    /// Its kind: `text/csv`.
    pub kind: &'static str,
    /// What it holds.
    pub bytes: Vec<u8>,
}
