//! The analysis: what is asked of a lab, and all that its laps support. The only door for the rest of the workspace.
//!
//! One call answers one question; nobody else knows in which order judging happens.

mod analyse;
mod ask;
mod document;
mod published;
mod question;
mod refused;
mod weigh;

pub use analyse::{Analysis, Answered, Crossed, Unread, Worth, analyse};
pub use document::{Document, SCHEMA, VERSION};
pub use published::{Ours, Published};
pub use question::{Across, Question, Way};
pub use refused::{NameKind, QuestionError};
pub use weigh::{Index, Over};
