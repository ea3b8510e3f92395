//! A rig as the tool found it: facts, each of which may be unknown.

use serde::{Deserialize, Serialize};

/// What a machine says of itself; `None` is 'could not be found out', never 0.
#[derive(Clone, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
#[serde(default)]
pub struct RigFound {
    /// A fingerprint that tells two machines apart and names neither.
    pub machine: Option<String>,
    /// Processor model.
    pub processor: Option<String>,
    /// Physical cores.
    pub cores: Option<u32>,
    /// Hardware threads that may be used.
    pub threads: Option<u32>,
    /// Memory in bytes.
    pub memory_bytes: Option<u64>,
    /// Operating system and its version.
    pub system: Option<String>,
    /// Kernel and its version.
    pub kernel: Option<String>,
    /// How the processor's clock is governed.
    pub governor: Option<String>,
}
