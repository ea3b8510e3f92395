//! A Vulkan layer: stands in front of `vkQueuePresentKHR`.
//!
//! Only the function by which a loader and a layer agree is exported: this file is preloaded too,
//! and an exported `vkGet…ProcAddr` would take the loader's own place in the program. Names, types
//! and meaning are those of the Vulkan 1.3 specification and of version 2 of the interface between
//! loader and layers.

mod answer;
mod chain;
mod device;
mod instance;
mod table;

use crate::{Pointer, text};
use answer::{Answer, INITIALIZATION_FAILED, SUCCESS};
use chain::Look;
use core::ffi::{CStr, c_char, c_void};
use core::mem::transmute;
use core::ptr::null_mut;

/// `VkNegotiateLayerInterface`.
#[repr(C)]
struct Negotiate {
    kind: u32,
    next: Pointer,
    version: u32,
    of_instance: Option<Look>,
    of_device: Option<Look>,
    of_physical: Option<Look>,
}

/// # Safety
/// `asked` is null or points to a `VkNegotiateLayerInterface`.
#[unsafe(no_mangle)]
pub unsafe extern "C" fn vkNegotiateLoaderLayerInterfaceVersion(asked: *mut c_void) -> Answer {
    // SAFETY: the caller upholds it.
    let Some(asked) = (unsafe { asked.cast::<Negotiate>().as_mut() }) else {
        return INITIALIZATION_FAILED;
    };
    if asked.version < 2 {
        return INITIALIZATION_FAILED;
    }
    asked.version = 2;
    asked.of_instance = Some(of_instance);
    asked.of_device = Some(of_device);
    asked.of_physical = None;
    SUCCESS
}

/// Our functions of a device, and then the others.
const OF_DEVICE: usize = 4;
static OURS: [(&CStr, Ours); 8] = [
    (c"vkGetDeviceProcAddr", Ours(of_device as Look as Pointer)),
    (c"vkQueuePresentKHR", Ours(device::queue_present as device::Present as Pointer)),
    (c"vkCreateSwapchainKHR", Ours(device::create_swapchain as device::CreateSwapchain as Pointer)),
    (c"vkDestroyDevice", Ours(device::destroy as chain::Destroy as Pointer)),
    (c"vkGetInstanceProcAddr", Ours(of_instance as Look as Pointer)),
    (c"vkCreateInstance", Ours(instance::create as instance::Create as Pointer)),
    (c"vkDestroyInstance", Ours(instance::destroy as chain::Destroy as Pointer)),
    (c"vkCreateDevice", Ours(device::create as device::Create as Pointer)),
];

/// A function of ours.
struct Ours(Pointer);

// SAFETY: it points to a function.
unsafe impl Sync for Ours {}

/// Returns our own function of this name, or null; the first `of` of them.
///
/// # Safety
/// `name` ends in a zero.
unsafe fn ours(name: *const c_char, of: usize) -> Pointer {
    // SAFETY: the caller upholds it.
    let found = OURS.iter().take(of).find(|(own, _)| unsafe { text::is(name, own) });
    found.map_or(null_mut(), |(_, Ours(function))| *function)
}

/// `vkGetInstanceProcAddr` of this layer.
///
/// # Safety
/// As of the function of this name.
unsafe extern "C" fn of_instance(instance: Pointer, name: *const c_char) -> Pointer {
    // SAFETY: the caller upholds that it ends in a zero.
    let own = unsafe { ours(name, OURS.len()) };
    if !own.is_null() || instance.is_null() {
        return own;
    }
    // SAFETY: it is a living instance.
    match unsafe { instance::Instance::of(instance) } {
        // SAFETY: what was kept is the next layer's look-up.
        Some(known) => unsafe { transmute::<Pointer, Look>(known.look())(instance, name) },
        None => null_mut(),
    }
}

/// `vkGetDeviceProcAddr` of this layer.
///
/// # Safety
/// As of the function of this name.
unsafe extern "C" fn of_device(device: Pointer, name: *const c_char) -> Pointer {
    // SAFETY: it is a living device.
    let Some(known) = (unsafe { device::Device::of(device) }) else { return null_mut() };
    // SAFETY: what was kept is the next layer's look-up, and the arguments are the caller's.
    let next = unsafe { transmute::<Pointer, Look>(known.look())(device, name) };
    // SAFETY: the caller upholds that it ends in a zero.
    let own = unsafe { ours(name, OF_DEVICE) };
    // A device that cannot present has no function for it, and none of ours either.
    if own.is_null() || next.is_null() { next } else { own }
}
