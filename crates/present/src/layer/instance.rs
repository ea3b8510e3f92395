//! Instances: made by the next layer, and known from then on.

use super::answer::{Answer, INITIALIZATION_FAILED};
use super::chain::{Destroy, Look, OF_INSTANCE, succeeded, take_link};
use super::table::{Kept, Table};
use crate::guard::quietly;
use crate::sys::Pointer;
use core::mem::transmute;
use core::ptr::null_mut;

pub(super) type Create = unsafe extern "C" fn(Pointer, Pointer, *mut Pointer) -> Answer;

pub(super) static INSTANCES: Table = Table::new();

/// `vkCreateInstance`.
///
/// # Safety
/// As of the function of this name, called by a loader.
pub(super) unsafe extern "C" fn create(
    info: Pointer,
    memory: Pointer,
    made: *mut Pointer,
) -> Answer {
    // SAFETY: the loader hands its chain along; the functions it names have the types they are
    // called by; `made` holds a living instance once the call has succeeded.
    unsafe {
        let Some(link) = take_link(info, OF_INSTANCE) else { return INITIALIZATION_FAILED };
        let next = (link.of_instance)(null_mut(), c"vkCreateInstance".as_ptr());
        if next.is_null() {
            return INITIALIZATION_FAILED;
        }
        let answer = transmute::<Pointer, Create>(next)(info, memory, made);
        if succeeded(answer) {
            let (handle, look) = (*made, link.of_instance);
            let destroy = look(handle, c"vkDestroyInstance".as_ptr());
            let (present, create_swapchain) = (null_mut(), null_mut());
            let look = look as Look as Pointer;
            quietly(|| INSTANCES.keep(&Kept { handle, look, destroy, present, create_swapchain }));
        }
        answer
    }
}

/// `vkDestroyInstance`.
///
/// # Safety
/// As of the function of this name.
pub(super) unsafe extern "C" fn destroy(instance: Pointer, memory: Pointer) {
    // SAFETY: it is null or a living instance, and what was kept is the next layer's function.
    unsafe {
        let Some(known) = INSTANCES.of(instance) else { return };
        let next = known.destroy();
        known.forget();
        if !next.is_null() {
            transmute::<Pointer, Destroy>(next)(instance, memory);
        }
    }
}
