//! What differs from one kind of processor to the next: a file for each, all with the same functions.

mod calls;

#[cfg_attr(target_arch = "x86_64", path = "x86_64.rs")]
#[cfg_attr(target_arch = "aarch64", path = "aarch64.rs")]
#[cfg_attr(target_arch = "x86", path = "x86.rs")]
mod this;

pub(crate) use this::{
    CALLS, CLOCK, O_NOFOLLOW, TwoRegisters, call, environment, hand_on, iterate, look_up,
    own_of_thread,
};
#[cfg(target_arch = "x86")]
pub(crate) use this::{spare_of, words_of};
