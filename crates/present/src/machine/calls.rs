//! The calls to the system that are made here.

/// Their numbers.
pub(crate) struct Calls {
    pub(crate) close: usize,
    pub(crate) lseek: usize,
    pub(crate) mmap: usize,
    pub(crate) munmap: usize,
    pub(crate) mremap: usize,
    pub(crate) madvise: usize,
    pub(crate) getpid: usize,
    pub(crate) getrlimit: usize,
    pub(crate) clock_gettime: usize,
    pub(crate) openat: usize,
    pub(crate) readlinkat: usize,
}
