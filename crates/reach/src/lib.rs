//! Other machines, reached by a command line that runs a command there: what is sent, and what comes home.
//!
//! Nothing here is a protocol of its own. A shell there unpacks an archive and starts the tool, which writes an archive to
//! its standard output that grows as laps end. Logins, host keys and encryption are the business of whatever the command
//! line starts.

mod error;
mod line;
mod news;
mod parcel;
mod program;
mod sent;
mod visit;

pub use error::ReachError;
pub use line::Line;
pub use news::{MOST_TEXT, News, Reader, Teller};
pub use parcel::{Order, Packed, Parcel};
pub use program::{Program, machine_of};
pub use sent::named_files;
pub use visit::{Begin, Call, Visit, Word};
