//! What is wrong with a file, and what to do about it.

pub(super) type Wrong = (String, String);
