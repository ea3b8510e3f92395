//! What a Vulkan function returns.

/// What a Vulkan function returns.
pub(super) type Answer = i32;
pub(super) const SUCCESS: Answer = 0;
pub(super) const OUT_OF_HOST_MEMORY: Answer = -1;
pub(super) const INITIALIZATION_FAILED: Answer = -3;
