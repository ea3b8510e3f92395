//! Shapes of what 32-bit programs load.

/// `Elf32_Phdr`.
#[repr(C)]
pub(crate) struct Segment {
    pub(super) kind: u32,
    offset: usize,
    pub(super) at: usize,
    physical: usize,
    in_file: usize,
    pub(super) in_memory: usize,
    flags: u32,
    align: usize,
}

/// `Elf32_Sym`.
#[repr(C)]
pub(super) struct Symbol {
    pub(super) name: u32,
    pub(super) value: usize,
    size: usize,
    pub(super) kind: u8,
    other: u8,
    pub(super) section: u16,
}
