//! Devices, their swapchains, and what their queues present.

use super::answer::{Answer, INITIALIZATION_FAILED, OUT_OF_HOST_MEMORY};
use super::chain::{Look, OF_DEVICE, succeeded, take_link};
use super::instance::{Instance, next_destroy};
use super::table::{Row, Table, key};
use crate::Pointer;
use crate::book;
use crate::presented::around;
use core::ffi::CStr;
use core::mem::transmute;
use honest_lap_present_abi::Api;

pub(super) type Create = unsafe extern "C" fn(Pointer, Pointer, Pointer, *mut Pointer) -> Answer;
pub(super) type CreateSwapchain =
    unsafe extern "C" fn(Pointer, *const SwapchainInfo, Pointer, *mut u64) -> Answer;
pub(super) type Present = unsafe extern "C" fn(Pointer, *const PresentInfo) -> Answer;

/// Of each device the next layer's functions, looked up when it is made, as those of an instance.
static DEVICES: Table<4> = Table::new();
/// Which surface each swapchain presents to: a window that is resized gets a new swapchain and stays the window that it was.
static SURFACES: Table<1> = Table::new();

/// What is known of a device, and of what shares its key.
pub(super) struct Device(&'static Row<4>);

impl Device {
    /// Returns what is known of `handle`.
    ///
    /// # Safety
    /// It is null, or a living device or queue.
    #[inline]
    pub(super) unsafe fn of(handle: Pointer) -> Option<Self> {
        // SAFETY: the caller upholds it.
        DEVICES.of(unsafe { key(handle) }).map(Self)
    }

    /// Returns the next layer's look-up.
    pub(super) fn look(&self) -> Pointer {
        self.0.get::<0>() as Pointer
    }

    fn destroy(&self) -> Pointer {
        self.0.get::<1>() as Pointer
    }

    fn present(&self) -> Pointer {
        self.0.get::<2>() as Pointer
    }

    fn create_swapchain(&self) -> Pointer {
        self.0.get::<3>() as Pointer
    }
}

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
        let (Some(look), Some(instance)) = (link.other, Instance::of(physical)) else {
            return INITIALIZATION_FAILED;
        };
        let next = (link.of_instance)(instance.handle(), c"vkCreateDevice".as_ptr());
        if next.is_null() {
            return INITIALIZATION_FAILED;
        }
        let answer = transmute::<Pointer, Create>(next)(physical, info, memory, made);
        if succeeded(answer) {
            let handle = *made;
            let of = |name: &CStr| look(handle, name.as_ptr()) as u64;
            let destroy = of(c"vkDestroyDevice");
            let known = [
                look as Look as usize as u64,
                destroy,
                of(c"vkQueuePresentKHR"),
                of(c"vkCreateSwapchainKHR"),
            ];
            if !DEVICES.keep(key(handle), known) {
                next_destroy(destroy as Pointer, handle, memory);
                return OUT_OF_HOST_MEMORY;
            }
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
        let Some(known) = Device::of(device) else { return };
        let next = known.destroy();
        known.0.forget();
        next_destroy(next, device, memory);
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
        let Some(known) = Device::of(device) else { return INITIALIZATION_FAILED };
        let next = transmute::<Pointer, CreateSwapchain>(known.create_swapchain());
        let answer = next(device, info, memory, made);
        if succeeded(answer) {
            // Without room for it a swapchain is a window of its own.
            let _ = SURFACES.keep(*made, [(*info).surface]);
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
        let Some(known) = Device::of(queue) else { return INITIALIZATION_FAILED };
        let next = transmute::<Pointer, Present>(known.present());
        let (answer, times) = around(known.present(), || next(queue, info));
        if let Some((begun, ended)) = times {
            record(&*info, answer, begun, ended);
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
            let surface = SURFACES.of(swapchain).map_or(swapchain, Row::get::<0>);
            book::record(Api::Vulkan, surface, begun, ended);
        }
    }
}
