//! Instances: made by the next layer, and known from then on.

use super::answer::{Answer, INITIALIZATION_FAILED, OUT_OF_HOST_MEMORY};
use super::chain::{Destroy, Look, OF_INSTANCE, succeeded, take_link};
use super::table::{Row, Table, key};
use crate::Pointer;
use core::mem::transmute;
use core::ptr::null_mut;

pub(super) type Create = unsafe extern "C" fn(Pointer, Pointer, *mut Pointer) -> Answer;

/// Of each instance: its handle, the next layer's look-up and its `vkDestroyInstance`.
///
/// That is looked up when the handle is made: asked for later, a loader may answer with the top of the chain, and the
/// call would come back here for ever.
static INSTANCES: Table<3> = Table::new();

/// What is known of an instance, and of what shares its key.
pub(super) struct Instance(&'static Row<3>);

impl Instance {
    /// Returns what is known of `handle`.
    ///
    /// # Safety
    /// It is null, or a living instance or physical device.
    pub(super) unsafe fn of(handle: Pointer) -> Option<Self> {
        // SAFETY: the caller upholds it.
        INSTANCES.of(unsafe { key(handle) }).map(Self)
    }

    pub(super) fn handle(&self) -> Pointer {
        self.0.get::<0>() as Pointer
    }

    /// Returns the next layer's look-up.
    pub(super) fn look(&self) -> Pointer {
        self.0.get::<1>() as Pointer
    }
}

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
            let known = [handle as u64, look as Look as usize as u64, destroy as u64];
            if !INSTANCES.keep(key(handle), known) {
                next_destroy(destroy, handle, memory);
                return OUT_OF_HOST_MEMORY;
            }
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
        let Some(Instance(known)) = Instance::of(instance) else { return };
        let next = known.get::<2>() as Pointer;
        known.forget();
        next_destroy(next, instance, memory);
    }
}

/// Has the next layer destroy what it made.
///
/// # Safety
/// `next` is null or its function for that.
pub(super) unsafe fn next_destroy(next: Pointer, handle: Pointer, memory: Pointer) {
    if !next.is_null() {
        // SAFETY: the caller upholds it.
        unsafe { transmute::<Pointer, Destroy>(next)(handle, memory) };
    }
}
