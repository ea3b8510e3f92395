//! The shared store of a lab, in PostgreSQL: what rigs and people record, joined, and never altered.
//!
//! The database holds the logbook's own tables and checks every seal itself, so that nobody needs to trust a client. What
//! comes from it is checked like the logbook of any stranger. The blocking client of `postgres` is used here alone; nothing
//! of it shows outside.

mod access;
mod address;
mod alike;
mod arriving;
mod encryption;
mod error;
mod packed;
mod pull;
mod push;
mod rows;
mod rules;
mod schema;
mod store;
mod sync;

pub use access::Access;
pub use address::{Address, PASSWORD_REMEDY};
pub use error::StoreError;
pub use pull::Depth;
pub use store::Store;
pub use sync::{Agreed, Step, Synced};
