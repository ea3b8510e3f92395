//! Shapes of what 64-bit programs load.

/// `Elf64_Phdr`.
#[repr(C)]
pub(crate) struct Segment {
    pub(super) kind: u32,
    flags: u32,
    offset: usize,
    pub(super) at: usize,
    physical: usize,
    in_file: usize,
    pub(super) in_memory: usize,
    align: usize,
}

/// `Elf64_Sym`.
#[repr(C)]
pub(super) struct Symbol {
    pub(super) name: u32,
    pub(super) kind: u8,
    other: u8,
    pub(super) section: u16,
    pub(super) value: usize,
    size: usize,
}
