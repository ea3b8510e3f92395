//! Texts as C keeps them, compared byte by byte: the C library's functions for that are the program's.

use core::ffi::{CStr, c_char};

/// Returns the byte at a place of a text.
///
/// # Safety
/// The text is at least so long, its zero counted.
#[inline]
unsafe fn byte(text: *const c_char, place: usize) -> u8 {
    // Or the compiler would make a call of it again.
    // SAFETY: the caller upholds it.
    unsafe { text.add(place).read_volatile() as u8 }
}

/// Returns whether a text begins with `wanted`.
///
/// # Safety
/// `text` ends in a zero, and none is in `wanted`.
#[inline]
pub(crate) unsafe fn begins(text: *const c_char, wanted: &[u8]) -> bool {
    // SAFETY: it is not read beyond the first byte that differs, which its zero does.
    wanted.iter().enumerate().all(|(place, wanted)| unsafe { byte(text, place) == *wanted })
}

/// Returns whether a text is `wanted`.
///
/// # Safety
/// `text` ends in a zero.
#[inline]
pub(crate) unsafe fn is(text: *const c_char, wanted: &CStr) -> bool {
    // SAFETY: as above; of `wanted` the zero is compared too.
    wanted
        .to_bytes_with_nul()
        .iter()
        .enumerate()
        .all(|(place, wanted)| unsafe { byte(text, place) == *wanted })
}

/// Returns the part of a path behind its last slash.
///
/// # Safety
/// `path` ends in a zero.
pub(crate) unsafe fn file_name(path: *const c_char) -> *const c_char {
    let (mut from, mut place) = (0, 0);
    loop {
        // SAFETY: no byte up to here was the zero.
        match unsafe { byte(path, place) } {
            // SAFETY: it lies in the text.
            0 => return unsafe { path.add(from) },
            b'/' => from = place + 1,
            _ => {}
        }
        place += 1;
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn texts_are_told_apart_and_file_names_found() {
        let text = c"/lib/libc.so.6".as_ptr();
        // SAFETY: all of them end in a zero.
        unsafe {
            assert!(
                is(text, c"/lib/libc.so.6")
                    && !is(text, c"/lib/libc.so")
                    && !is(text, c"/lib/libc.so.66")
            );
            assert!(begins(text, b"/lib") && !begins(text, b"lib") && !begins(c"".as_ptr(), b"l"));
            assert!(is(file_name(text), c"libc.so.6") && is(file_name(c"lib".as_ptr()), c"lib"));
            assert!(is(file_name(c"lib/".as_ptr()), c""));
        }
    }
}
