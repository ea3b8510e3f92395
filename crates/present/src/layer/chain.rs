//! The chain of layers that a loader hands along when an instance or a device is made.

use super::answer::Answer;
use crate::Pointer;
use core::ffi::c_char;

pub(super) type Look = unsafe extern "C" fn(Pointer, *const c_char) -> Pointer;
pub(super) type Destroy = unsafe extern "C" fn(Pointer, Pointer);
/// The loader's marks of its links: `VK_STRUCTURE_TYPE_LOADER_INSTANCE_CREATE_INFO` and its twin.
pub(super) const OF_INSTANCE: u32 = 47;
pub(super) const OF_DEVICE: u32 = 48;
/// `VK_LAYER_LINK_INFO`.
const LINK: u32 = 0;

/// `VkLayerInstanceLink` and, in its first three fields, `VkLayerDeviceLink`.
#[repr(C)]
pub(super) struct Link {
    pub(super) next: *mut Self,
    pub(super) of_instance: Look,
    /// Of a device: `vkGetDeviceProcAddr`.
    pub(super) other: Option<Look>,
}

/// `VkLayerInstanceCreateInfo` and `VkLayerDeviceCreateInfo`; also the head of what they hang on.
#[repr(C)]
pub(super) struct Info {
    pub(super) kind: u32,
    pub(super) next: *mut Self,
    function: u32,
    link: *mut Link,
}

/// Takes our link off the chain that hangs on `create`, and returns it; the next layer finds its
/// own then. `None` where the loader hung none on.
///
/// # Safety
/// `create` points to a `VkInstanceCreateInfo` or `VkDeviceCreateInfo` as a loader hands it over.
pub(super) unsafe fn take_link(create: Pointer, kind: u32) -> Option<&'static Link> {
    // SAFETY: every structure on the chain begins with its kind and the next one; those of the
    // loader's own kind are an `Info`.
    unsafe {
        let mut at = (*create.cast::<Info>()).next;
        while !at.is_null() {
            if (*at).kind == kind && (*at).function == LINK {
                let link = (*at).link.as_ref()?;
                (*at).link = link.next;
                return Some(link);
            }
            at = (*at).next;
        }
        None
    }
}

/// Returns whether `answer` is one of success.
pub(super) fn succeeded(answer: Answer) -> bool {
    answer >= 0
}
