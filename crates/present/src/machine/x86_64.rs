//! 64-bit processors of the x86 family.

use super::calls::Calls;
use crate::Pointer;
use core::arch::asm;
use core::ffi::CStr;

pub(crate) const CALLS: Calls = Calls {
    close: 3,
    lseek: 8,
    mmap: 9,
    munmap: 11,
    mremap: 25,
    madvise: 28,
    getpid: 39,
    getrlimit: 97,
    clock_gettime: 228,
    openat: 257,
    readlinkat: 267,
};
pub(crate) const O_NOFOLLOW: usize = 0o400_000;
/// What the kernel puts into every process so that the clock is read without a call.
pub(crate) const CLOCK: &CStr = c"__vdso_clock_gettime";

/// What is returned in two registers.
pub(crate) type TwoRegisters = u128;

/// Makes the call `number`; an answer that lies just below zero is an error number.
///
/// # Safety
/// The arguments are what the call asks for.
pub(crate) unsafe fn call(number: usize, with: [usize; 6]) -> isize {
    let answer: isize;
    // SAFETY: the kernel changes these registers alone, and the memory that the arguments point to.
    unsafe {
        asm!(
            "syscall",
            inlateout("rax") number => answer,
            in("rdi") with[0], in("rsi") with[1], in("rdx") with[2],
            in("r10") with[3], in("r8") with[4], in("r9") with[5],
            lateout("rcx") _, lateout("r11") _,
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
            "mov {0}, qword ptr [rip + lap_recorder_thread@gottpoff]",
            "add {0}, qword ptr fs:[0]",
            out(reg) at, options(pure, nomem, nostack)
        );
    }
    at
}

/// Returns the loader's answer to where `dl_iterate_phdr` is; null where there is none.
pub(crate) fn iterate() -> Pointer {
    let at: Pointer;
    // SAFETY: it reads what the loader wrote when it loaded us.
    unsafe {
        asm!("mov {}, qword ptr [rip + dl_iterate_phdr@GOTPCREL]", out(reg) at, options(pure, readonly, nostack));
    }
    at
}

/// Returns the loader's answer to where `environ` is, likewise.
pub(crate) fn environment() -> Pointer {
    let at: Pointer;
    // SAFETY: as above.
    unsafe {
        asm!("mov {}, qword ptr [rip + environ@GOTPCREL]", out(reg) at, options(pure, readonly, nostack));
    }
    at
}

/// The body of a function of these arguments that goes on to another one, with one more: where it was called from.
macro_rules! hand_on {
    ($to:ident: $_a:ty) => { hand_on!(@ "rsi", $to) };
    ($to:ident: $_a:ty, $_b:ty) => { hand_on!(@ "rdx", $to) };
    ($to:ident: $_a:ty, $_b:ty, $_c:ty, $_d:ty) => { hand_on!(@ "r8", $to) };
    ($to:ident: $_a:ty, $_b:ty, $_c:ty, $_d:ty, $_e:ty) => { hand_on!(@ "r9", $to) };
    (@ $register:literal, $to:ident) => {
        core::arch::naked_asm!(concat!("mov ", $register, ", qword ptr [rsp]"), "jmp {}", sym $to)
    };
}
pub(crate) use hand_on;

/// The body of a look-up: what `resolve` does not answer is left to the function that `real` points to, which finds its own
/// caller where it returns to.
macro_rules! look_up {
    ($resolve:ident, $real:ident) => {
        core::arch::naked_asm!(
            "mov rdx, qword ptr [rsp]",
            "push rdi", "push rsi", "sub rsp, 8",
            "call {resolve}",
            "add rsp, 8", "pop rsi", "pop rdi",
            "test rdx, rdx", "jz 2f",
            "ret",
            "2: mov rax, qword ptr [rip + {real}]",
            "test rax, rax", "jz 3f",
            "jmp rax",
            "3: ret",
            resolve = sym $resolve,
            real = sym $real,
        )
    };
}
pub(crate) use look_up;
