//! Other machines, reached by a command line that runs a command there: what is sent, and what comes home.
//!
//! Nothing here is a protocol of its own. A shell there unpacks an archive and starts the tool, which writes an archive to
//! its standard output that grows as laps end. Logins, host keys and encryption are the business of whatever the command
//! line starts.

mod command_line;
mod connection;
mod error;
mod message;
mod named_files;
mod parcel;
mod process;
mod program;

pub use command_line::CommandLine;
pub use connection::{Begin, Connecting, Connection};
pub use error::ReachError;
pub use message::{MOST_TEXT, Message, MessageReader, MessageWriter};
pub use named_files::named_files;
pub use parcel::{Order, Packed, Parcel};
pub use process::Control;
pub use program::{Program, machine_of};
