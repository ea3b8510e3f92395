//! Paths and variables, put together without allocating.

use crate::sys;
use core::ffi::{CStr, c_int};
use core::fmt::Write;

pub(crate) const PATH_BYTES: usize = 4096;

/// Returns what the environment holds under `name`.
pub(crate) fn variable(name: &str) -> Option<&'static CStr> {
    let mut text = [0_u8; 64];
    text.get_mut(..name.len())?.copy_from_slice(name.as_bytes());
    let name = CStr::from_bytes_until_nul(&text).ok()?;
    sys::environment(name).filter(|value| value.to_bytes().starts_with(b"/"))
}

/// A text that is put together without allocating, and always ends in a zero.
pub(crate) struct Text {
    pub(crate) bytes: [u8; PATH_BYTES],
    pub(crate) length: usize,
}

impl Text {
    pub(crate) fn push(&mut self, more: &[u8]) -> Result<(), c_int> {
        let end = self.length + more.len();
        if end >= PATH_BYTES {
            return Err(sys::ENAMETOOLONG);
        }
        self.bytes[self.length..end].copy_from_slice(more);
        self.length = end;
        Ok(())
    }
}

impl Write for Text {
    fn write_str(&mut self, text: &str) -> core::fmt::Result {
        self.push(text.as_bytes()).map_err(|_| core::fmt::Error)
    }
}
