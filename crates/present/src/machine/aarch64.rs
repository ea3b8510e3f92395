//! 64-bit processors of the ARM family.

use super::calls::Calls;
use crate::Pointer;
use core::arch::asm;
use core::ffi::CStr;

pub(crate) const CALLS: Calls = Calls {
    close: 57,
    lseek: 62,
    mmap: 222,
    munmap: 215,
    mremap: 216,
    madvise: 233,
    getpid: 172,
    getrlimit: 163,
    clock_gettime: 113,
    openat: 56,
    readlinkat: 78,
};
pub(crate) const O_NOFOLLOW: usize = 0o100_000;
/// What the kernel puts into every process so that the clock is read without a call.
pub(crate) const CLOCK: &CStr = c"__kernel_clock_gettime";

/// What is returned in two registers.
pub(crate) type TwoRegisters = u128;

/// Makes the call `number`; an answer that lies just below zero is an error number.
///
/// # Safety
/// The arguments are what the call asks for.
pub(crate) unsafe fn call(number: usize, with: [usize; 6]) -> isize {
    let answer: isize;
    // SAFETY: the kernel changes this register alone, and the memory that the arguments point to.
    unsafe {
        asm!(
            "svc #0",
            in("x8") number,
            inlateout("x0") with[0] => answer,
            in("x1") with[1], in("x2") with[2], in("x3") with[3], in("x4") with[4], in("x5") with[5],
            options(nostack)
        );
    }
    answer
}

/// Returns where this thread's `lap_recorder_thread` lies.
#[inline(always)]
pub(crate) fn own_of_thread() -> Pointer {
    let at: Pointer;
    // It is the same for as long as the thread lives, so that it need not be asked twice.
    // SAFETY: it reads where this thread's storage is, which the loader laid out when it loaded us.
    unsafe {
        asm!(
            "mrs {0}, tpidr_el0",
            "adrp {1}, :gottprel:lap_recorder_thread",
            "ldr {1}, [{1}, :gottprel_lo12:lap_recorder_thread]",
            "add {0}, {0}, {1}",
            out(reg) at, out(reg) _, options(pure, nomem, nostack)
        );
    }
    at
}

/// Returns the loader's answer to where `dl_iterate_phdr` is; null where there is none.
pub(crate) fn iterate() -> Pointer {
    let at: Pointer;
    // SAFETY: it reads what the loader wrote when it loaded us.
    unsafe {
        asm!("adrp {0}, :got:dl_iterate_phdr", "ldr {0}, [{0}, :got_lo12:dl_iterate_phdr]", out(reg) at, options(pure, readonly, nostack));
    }
    at
}

/// Returns the loader's answer to where `environ` is, likewise.
pub(crate) fn environment() -> Pointer {
    let at: Pointer;
    // SAFETY: as above.
    unsafe {
        asm!("adrp {0}, :got:environ", "ldr {0}, [{0}, :got_lo12:environ]", out(reg) at, options(pure, readonly, nostack));
    }
    at
}

/// The body of a function of these arguments that goes on to another one, with one more: where it was called from.
macro_rules! hand_on {
    ($to:ident: $_a:ty) => { hand_on!(@ "x1", $to) };
    ($to:ident: $_a:ty, $_b:ty) => { hand_on!(@ "x2", $to) };
    ($to:ident: $_a:ty, $_b:ty, $_c:ty, $_d:ty) => { hand_on!(@ "x4", $to) };
    ($to:ident: $_a:ty, $_b:ty, $_c:ty, $_d:ty, $_e:ty) => { hand_on!(@ "x5", $to) };
    (@ $register:literal, $to:ident) => {
        core::arch::naked_asm!(concat!("mov ", $register, ", x30"), "b {}", sym $to)
    };
}
pub(crate) use hand_on;

/// The body of a look-up: what `resolve` does not answer is left to the function that `real` points to, which finds its own
/// caller where it returns to.
macro_rules! look_up {
    ($resolve:ident, $real:ident) => {
        core::arch::naked_asm!(
            "stp x29, x30, [sp, #-32]!",
            "mov x29, sp",
            "stp x0, x1, [sp, #16]",
            "mov x2, x30",
            "bl {resolve}",
            "mov x9, x0", "mov x10, x1",
            "ldp x0, x1, [sp, #16]",
            "ldp x29, x30, [sp], #32",
            "cbz x10, 2f",
            "mov x0, x9",
            "ret",
            "2: adrp x9, {real}",
            "ldr x9, [x9, :lo12:{real}]",
            "cbz x9, 3f",
            "br x9",
            "3: mov x0, xzr",
            "ret",
            resolve = sym $resolve,
            real = sym $real,
        )
    };
}
pub(crate) use look_up;
