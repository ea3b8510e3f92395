//! Functions of loaded libraries, found by their names in what the loader itself reads.
//!
//! Shapes and hash are those of the System V application binary interface and of the GNU hash section
//! (U. Drepper, *How To Write Shared Libraries*, 2011).

#[cfg_attr(target_pointer_width = "64", path = "wide.rs")]
#[cfg_attr(target_pointer_width = "32", path = "narrow.rs")]
mod this;

use crate::{Pointer, text};
use core::ffi::{CStr, c_char};
use core::ptr::{null, null_mut};
use this::{Segment, Symbol};

const DYNAMIC: u32 = 2;
const LOAD: u32 = 1;
/// Entries of the dynamic section.
const HASH: isize = 4;
const STRINGS: isize = 5;
const SYMBOLS: isize = 6;
const GNU_HASH: isize = 0x6fff_fef5;
/// Numbers to a word of the filter.
const WORD: usize = size_of::<usize>() / size_of::<u32>();
/// A function, in the low bits of a symbol's kind.
const FUNCTION: u8 = 2;

/// `Elf64_Dyn` or `Elf32_Dyn`.
#[repr(C)]
struct Entry {
    tag: isize,
    value: usize,
}

/// A library that is loaded: `dl_phdr_info`, as far as it is read.
#[repr(C)]
pub(crate) struct Library {
    pub(crate) base: usize,
    pub(crate) name: *const c_char,
    segments: *const Segment,
    count: u16,
    /// How many libraries were loaded so far, and unloaded.
    loaded: u64,
    unloaded: u64,
}

impl Library {
    fn segments(&self) -> impl Iterator<Item = &Segment> {
        // SAFETY: the loader says so many from there on, and keeps them for as long as the library is loaded.
        (0..usize::from(self.count)).map(|place| unsafe { &*self.segments.add(place) })
    }

    /// Returns a number that changes whenever a library is loaded or unloaded.
    pub(crate) fn generation(&self) -> u64 {
        self.loaded.wrapping_add(self.unloaded)
    }

    /// Returns whether `address` lies in it.
    pub(crate) fn holds(&self, address: usize) -> bool {
        let lies = |segment: &Segment| {
            let from = self.base.wrapping_add(segment.at);
            address.wrapping_sub(from) < segment.in_memory
        };
        self.segments().any(|segment| segment.kind == LOAD && lies(segment))
    }

    /// Returns its function `name`; null where it has none.
    pub(crate) fn function(&self, name: &CStr) -> Pointer {
        let Some(dynamic) = self.segments().find(|segment| segment.kind == DYNAMIC) else {
            return null_mut();
        };
        let Tables { symbols, strings, gnu, old } = self.tables(dynamic);
        if symbols.is_null() || strings.is_null() {
            return null_mut();
        }
        let is_it = |place: u32| {
            // SAFETY: the hash sections name places of the table of symbols, and a symbol one of that of strings.
            let symbol = unsafe { &*symbols.add(place as usize) };
            let here = symbol.section != 0 && symbol.kind & 15 == FUNCTION;
            // SAFETY: as above; every text there ends in a zero.
            let named = || unsafe { text::is(strings.add(symbol.name as usize), name) };
            (here && named()).then(|| self.base.wrapping_add(symbol.value) as Pointer)
        };
        // SAFETY: both are what the loader looks names up by.
        let found = unsafe {
            if gnu.is_null() { by_old_hash(old, is_it) } else { by_gnu_hash(gnu, name, is_it) }
        };
        found.unwrap_or(null_mut())
    }

    fn tables(&self, dynamic: &Segment) -> Tables {
        let mut all = Tables { symbols: null(), strings: null(), gnu: null(), old: null() };
        let mut entry = self.base.wrapping_add(dynamic.at) as *const Entry;
        // SAFETY: the section is loaded, and ends with an entry of tag 0.
        while let Entry { tag: tag @ 1.., value } = unsafe { &*entry } {
            // Some loaders have put addresses here by now, and some leave places.
            let address = if *value < self.base { self.base.wrapping_add(*value) } else { *value };
            match *tag {
                SYMBOLS => all.symbols = address as _,
                STRINGS => all.strings = address as _,
                GNU_HASH => all.gnu = address as _,
                HASH => all.old = address as _,
                _ => {}
            }
            // SAFETY: it was not the last.
            entry = unsafe { entry.add(1) };
        }
        all
    }
}

struct Tables {
    symbols: *const Symbol,
    strings: *const c_char,
    gnu: *const u32,
    old: *const u32,
}

/// Tries every symbol of the bucket that `name` falls into.
///
/// # Safety
/// `table` is a whole GNU hash section.
unsafe fn by_gnu_hash(
    table: *const u32,
    name: &CStr,
    is_it: impl Fn(u32) -> Option<Pointer>,
) -> Option<Pointer> {
    let wanted = name
        .to_bytes()
        .iter()
        .fold(5_381_u32, |hash, byte| hash.wrapping_mul(33).wrapping_add(u32::from(*byte)));
    // SAFETY: the section begins with four numbers; a filter of words, the buckets and the chains follow.
    unsafe {
        let (buckets, first, filter) = (*table, *table.add(1), *table.add(2));
        let all = table.add(4 + WORD * filter as usize);
        let bucket = wanted.checked_rem(buckets)?;
        let mut place = *all.add(bucket as usize);
        if place < first {
            return None;
        }
        let chains = all.add(buckets as usize);
        loop {
            let hash = *chains.add((place - first) as usize);
            if hash | 1 == wanted | 1
                && let Some(found) = is_it(place)
            {
                return Some(found);
            }
            if hash & 1 == 1 {
                return None;
            }
            place += 1;
        }
    }
}

/// Tries every symbol: those of such a section are few.
///
/// # Safety
/// `table` is null or a whole hash section.
unsafe fn by_old_hash(
    table: *const u32,
    is_it: impl Fn(u32) -> Option<Pointer>,
) -> Option<Pointer> {
    if table.is_null() {
        return None;
    }
    // SAFETY: its second number says how many symbols there are.
    (1..unsafe { *table.add(1) }).find_map(is_it)
}
