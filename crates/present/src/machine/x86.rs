//! 32-bit processors of the x86 family.
//!
//! Arguments lie on the stack, and what belongs to this library is reached from where it is found to run (System V
//! application binary interface, Intel386 supplement).

use super::calls::Calls;
use crate::Pointer;
use core::arch::asm;
use core::ffi::CStr;

pub(crate) const CALLS: Calls = Calls {
    close: 6,
    lseek: 19,
    // `mmap2`, which counts offsets in pages; ours are all 0.
    mmap: 192,
    munmap: 91,
    mremap: 163,
    madvise: 219,
    getpid: 20,
    // `ugetrlimit`: no limit is the largest number, as everywhere else.
    getrlimit: 191,
    clock_gettime: 265,
    openat: 295,
    readlinkat: 305,
};
pub(crate) const O_NOFOLLOW: usize = 0o400_000;
/// What the kernel puts into every process so that the clock is read without a call.
pub(crate) const CLOCK: &CStr = c"__vdso_clock_gettime";

/// What is returned in two registers.
pub(crate) type TwoRegisters = u64;

/// Makes the call `number`; an answer that lies just below zero is an error number.
///
/// # Safety
/// The arguments are what the call asks for.
pub(crate) unsafe fn call(number: usize, [a, b, c, d, e, f]: [usize; 6]) -> isize {
    // SAFETY: the caller upholds it.
    unsafe { interrupt(number, a, b, c, d, e, f) }
}

/// The same: it needs all registers but one, of which the compiler does not give away all.
///
/// # Safety
/// As above.
#[unsafe(naked)]
unsafe extern "C" fn interrupt(
    number: usize,
    _: usize,
    _: usize,
    _: usize,
    _: usize,
    _: usize,
    _: usize,
) -> isize {
    core::arch::naked_asm!(
        "push ebx",
        "push esi",
        "push edi",
        "push ebp",
        "mov eax, dword ptr [esp + 20]",
        "mov ebx, dword ptr [esp + 24]",
        "mov ecx, dword ptr [esp + 28]",
        "mov edx, dword ptr [esp + 32]",
        "mov esi, dword ptr [esp + 36]",
        "mov edi, dword ptr [esp + 40]",
        "mov ebp, dword ptr [esp + 44]",
        "int 0x80",
        "pop ebp",
        "pop edi",
        "pop esi",
        "pop ebx",
        "ret",
    )
}

/// Reads the word that lies so far from the table of what the loader found, whose place follows from that of this code.
macro_rules! from_table {
    ($what:literal) => {{
        let found: Pointer;
        // SAFETY: it reads what the loader wrote when it loaded us.
        unsafe {
            asm!(
                "call 2f",
                "2: popl {0}",
                "3: addl $_GLOBAL_OFFSET_TABLE_+(3b-2b), {0}",
                concat!("movl ", $what, "({0}), {0}"),
                out(reg) found, options(att_syntax, pure, readonly)
            );
        }
        found
    }};
}

/// Returns where this thread's `lap_recorder_thread` lies.
#[inline(always)]
pub(crate) fn own_of_thread() -> Pointer {
    let further = from_table!("lap_recorder_thread@GOTNTPOFF") as usize;
    let thread: usize;
    // SAFETY: every thread begins its own storage with where that is.
    unsafe {
        asm!("mov {}, dword ptr gs:[0]", out(reg) thread, options(pure, nomem, nostack));
    }
    thread.wrapping_add(further) as Pointer
}

/// Returns the loader's answer to where `dl_iterate_phdr` is; null where there is none.
pub(crate) fn iterate() -> Pointer {
    from_table!("dl_iterate_phdr@GOT")
}

/// Returns the loader's answer to where `environ` is, likewise.
pub(crate) fn environment() -> Pointer {
    from_table!("environ@GOT")
}

/// The body of a function of these arguments that goes on to another one, with one more: where it was called from. Of
/// arguments on the stack that is a call with copies of them, which leaves the stack in whole sixteens.
macro_rules! hand_on {
    ($to:ident: $($type:ty),*) => {
        core::arch::naked_asm!(
            ".cfi_startproc",
            "subl $4 * {spare}, %esp",
            ".cfi_adjust_cfa_offset 4 * {spare}",
            "pushl 4 * {spare}(%esp)",
            ".cfi_adjust_cfa_offset 4",
            ".rept {words}",
            "pushl 4 * ({words} + {spare} + 1)(%esp)",
            ".cfi_adjust_cfa_offset 4",
            ".endr",
            "call {to}",
            "addl $4 * ({words} + {spare} + 1), %esp",
            ".cfi_adjust_cfa_offset -4 * ({words} + {spare} + 1)",
            "ret",
            ".cfi_endproc",
            to = sym $to,
            words = const $crate::machine::words_of(&[$(size_of::<$type>()),*]),
            spare = const $crate::machine::spare_of(&[$(size_of::<$type>()),*]),
            options(att_syntax)
        )
    };
}
pub(crate) use hand_on;

/// Returns how many words arguments of these sizes take on the stack.
pub(crate) const fn words_of(sizes: &[usize]) -> usize {
    let (mut words, mut place) = (0, 0);
    while place < sizes.len() {
        words += sizes[place].div_ceil(size_of::<usize>());
        place += 1;
    }
    words
}

/// Returns how many words more fill up sixteen bytes, with them, where they were called from and where that is called from.
pub(crate) const fn spare_of(sizes: &[usize]) -> usize {
    (4 - (words_of(sizes) + 2) % 4) % 4
}

/// The body of a look-up: what `resolve` does not answer is left to the function that `real` points to, which finds its own
/// caller where it returns to.
macro_rules! look_up {
    ($resolve:ident, $real:ident) => {
        core::arch::naked_asm!(
            ".cfi_startproc",
            "pushl (%esp)",
            ".cfi_adjust_cfa_offset 4",
            "pushl 12(%esp)",
            ".cfi_adjust_cfa_offset 4",
            "pushl 12(%esp)",
            ".cfi_adjust_cfa_offset 4",
            "call {resolve}",
            "addl $12, %esp",
            ".cfi_adjust_cfa_offset -12",
            "testl %edx, %edx", "jz 2f",
            "ret",
            "2: call 3f",
            "3: popl %eax",
            "4: addl $_GLOBAL_OFFSET_TABLE_+(4b-3b), %eax",
            "movl {real}@GOTOFF(%eax), %eax",
            "testl %eax, %eax", "jz 5f",
            "jmp *%eax",
            "5: ret",
            ".cfi_endproc",
            resolve = sym $resolve,
            real = sym $real,
            options(att_syntax)
        )
    };
}
pub(crate) use look_up;
