//! Devices, their swapchains, and what their queues present.

use super::answer::{Answer, INITIALIZATION_FAILED};
use super::chain::{Destroy, Look, OF_DEVICE, succeeded, take_link};
use super::instance::INSTANCES;
use super::table::{Kept, Surfaces, Table};
use crate::book;
use crate::guard::quietly;
use crate::hook::around;
use crate::sys::Pointer;
use core::mem::transmute;
use honest_lap_present_abi::Api;

pub(super) type Create = unsafe extern "C" fn(Pointer, Pointer, Pointer, *mut Pointer) -> Answer;
pub(super) type CreateSwapchain =
    unsafe extern "C" fn(Pointer, *const SwapchainInfo, Pointer, *mut u64) -> Answer;
pub(super) type Present = unsafe extern "C" fn(Pointer, *const PresentInfo) -> Answer;

pub(super) static DEVICES: Table = Table::new();
static SURFACES: Surfaces = Surfaces::new();

/// `VkSwapchainCreateInfoKHR`, as far as it is read.
#[repr(C)]
pub(super) struct SwapchainInfo {
    kind: u32,
    next: Pointer,
    flags: u32,
    surface: u64,
}

/// `VkPresentInfoKHR`.
#[repr(C)]
pub(super) struct PresentInfo {
    kind: u32,
    next: Pointer,
    wait_count: u32,
    waits: *const u64,
    count: u32,
    swapchains: *const u64,
    images: *const u32,
    answers: *mut Answer,
}

/// `vkCreateDevice`.
///
/// # Safety
/// As of the function of this name, called by a loader.
pub(super) unsafe extern "C" fn create(
    physical: Pointer,
    info: Pointer,
    memory: Pointer,
    made: *mut Pointer,
) -> Answer {
    // SAFETY: the loader hands its chain along; the functions it names have the types they are
    // called by; a physical device shares its instance's key; `made` holds a living device once the
    // call has succeeded.
    unsafe {
        let Some(link) = take_link(info, OF_DEVICE) else { return INITIALIZATION_FAILED };
        let (Some(look), Some(instance)) = (link.other, INSTANCES.of(physical)) else {
            return INITIALIZATION_FAILED;
        };
        let next = (link.of_instance)(instance.handle(), c"vkCreateDevice".as_ptr());
        if next.is_null() {
            return INITIALIZATION_FAILED;
        }
        let answer = transmute::<Pointer, Create>(next)(physical, info, memory, made);
        if succeeded(answer) {
            let handle = *made;
            let kept = Kept {
                handle,
                destroy: look(handle, c"vkDestroyDevice".as_ptr()),
                present: look(handle, c"vkQueuePresentKHR".as_ptr()),
                create_swapchain: look(handle, c"vkCreateSwapchainKHR".as_ptr()),
                look: look as Look as Pointer,
            };
            quietly(|| DEVICES.keep(&kept));
        }
        answer
    }
}

/// `vkDestroyDevice`.
///
/// # Safety
/// As of the function of this name.
pub(super) unsafe extern "C" fn destroy(device: Pointer, memory: Pointer) {
    // SAFETY: it is null or a living device, and what was kept is the next layer's function.
    unsafe {
        let Some(known) = DEVICES.of(device) else { return };
        let next = known.destroy();
        known.forget();
        if !next.is_null() {
            transmute::<Pointer, Destroy>(next)(device, memory);
        }
    }
}

/// `vkCreateSwapchainKHR`.
///
/// # Safety
/// As of the function of this name.
pub(super) unsafe extern "C" fn create_swapchain(
    device: Pointer,
    info: *const SwapchainInfo,
    memory: Pointer,
    made: *mut u64,
) -> Answer {
    // SAFETY: the arguments are the caller's, and what was kept is the next layer's function.
    unsafe {
        let Some(known) = DEVICES.of(device) else { return INITIALIZATION_FAILED };
        let next = transmute::<Pointer, CreateSwapchain>(known.create_swapchain());
        let answer = next(device, info, memory, made);
        if succeeded(answer) {
            quietly(|| SURFACES.keep(*made, (*info).surface));
        }
        answer
    }
}

/// `vkQueuePresentKHR`.
///
/// # Safety
/// As of the function of this name.
pub(super) unsafe extern "C" fn queue_present(queue: Pointer, info: *const PresentInfo) -> Answer {
    // SAFETY: a queue shares its device's key; what was kept is the next layer's function.
    unsafe {
        let Some(known) = DEVICES.of(queue) else { return INITIALIZATION_FAILED };
        let next = transmute::<Pointer, Present>(known.present());
        let (answer, times) = around(|| next(queue, info));
        if let Some((begun, ended)) = times {
            quietly(|| record(&*info, answer, begun, ended));
        }
        answer
    }
}

/// Records a present to each swapchain that took it.
///
/// # Safety
/// `info` is what was presented.
unsafe fn record(info: &PresentInfo, answer: Answer, begun: u64, ended: u64) {
    for place in 0..info.count as usize {
        // SAFETY: there are `count` of each; the answers may be left out.
        let (swapchain, answer) = unsafe {
            let one = info.answers.as_ref().map(|_| *info.answers.add(place));
            (*info.swapchains.add(place), one.unwrap_or(answer))
        };
        if succeeded(answer) {
            book::record(Api::Vulkan, SURFACES.of(swapchain), begun, ended);
        }
    }
}
