//! Small tables from Vulkan's handles to what is known of them: no lock and no memory of their own.

use crate::sys::Pointer;
use core::ptr::null_mut;
use core::sync::atomic::{
    AtomicPtr, AtomicU64, Ordering::AcqRel, Ordering::Acquire, Ordering::Relaxed, Ordering::Release,
};

/// Instances, or devices, that live at once in one process; of more than these no present is seen.
const MOST: usize = 64;
/// Swapchains whose surface is remembered; the oldest is forgotten first.
const MOST_SWAPCHAINS: usize = 256;

const BUSY: Pointer = 1 as Pointer;

type Cell = AtomicPtr<core::ffi::c_void>;

/// What is known of an instance or a device.
pub(super) struct Entry {
    key: Cell,
    handle: Cell,
    look: Cell,
    destroy: Cell,
    present: Cell,
    create_swapchain: Cell,
}

impl Entry {
    const fn empty() -> Self {
        Self {
            key: Cell::new(null_mut()),
            handle: Cell::new(null_mut()),
            look: Cell::new(null_mut()),
            destroy: Cell::new(null_mut()),
            present: Cell::new(null_mut()),
            create_swapchain: Cell::new(null_mut()),
        }
    }

    pub(super) fn handle(&self) -> Pointer {
        self.handle.load(Relaxed)
    }

    /// Returns the next layer's look-up.
    pub(super) fn look(&self) -> Pointer {
        self.look.load(Relaxed)
    }

    pub(super) fn destroy(&self) -> Pointer {
        self.destroy.load(Relaxed)
    }

    pub(super) fn present(&self) -> Pointer {
        self.present.load(Relaxed)
    }

    pub(super) fn create_swapchain(&self) -> Pointer {
        self.create_swapchain.load(Relaxed)
    }

    /// Forgets it: its handle is about to be destroyed.
    pub(super) fn forget(&self) {
        self.key.store(null_mut(), Release);
    }
}

/// What is kept of an instance or a device.
pub(super) struct Kept {
    pub(super) handle: Pointer,
    pub(super) look: Pointer,
    /// Looked up when the handle is made: asked for later, a loader may answer with the top of the
    /// chain, and the call would come back here for ever.
    pub(super) destroy: Pointer,
    pub(super) present: Pointer,
    pub(super) create_swapchain: Pointer,
}

/// All instances, or all devices.
pub(super) struct Table([Entry; MOST]);

/// Returns what a handle is known by: the loader's own table, which it begins with, and which a
/// device shares with its queues, an instance with its physical devices.
///
/// # Safety
/// `handle` is a living dispatchable handle.
unsafe fn key(handle: Pointer) -> Pointer {
    // SAFETY: the caller upholds it.
    unsafe { *handle.cast::<Pointer>() }
}

impl Table {
    pub(super) const fn new() -> Self {
        Self([const { Entry::empty() }; MOST])
    }

    /// Returns what is known of `handle`, or of what shares its key.
    ///
    /// # Safety
    /// `handle` is null or a living dispatchable handle.
    pub(super) unsafe fn of(&'static self, handle: Pointer) -> Option<&'static Entry> {
        if handle.is_null() {
            return None;
        }
        // SAFETY: the caller upholds it.
        let key = unsafe { key(handle) };
        self.0.iter().find(|entry| entry.key.load(Acquire) == key)
    }

    /// Keeps what is known of a new handle; without room for it, it is passed on unseen.
    ///
    /// # Safety
    /// The handle is a living dispatchable one.
    pub(super) unsafe fn keep(&self, kept: &Kept) {
        // SAFETY: the caller upholds it.
        let key = unsafe { key(kept.handle) };
        let take =
            |entry: &&Entry| entry.key.compare_exchange(null_mut(), BUSY, AcqRel, Relaxed).is_ok();
        let Some(entry) = self.0.iter().find(take) else { return };
        entry.handle.store(kept.handle, Relaxed);
        entry.look.store(kept.look, Relaxed);
        entry.destroy.store(kept.destroy, Relaxed);
        entry.present.store(kept.present, Relaxed);
        entry.create_swapchain.store(kept.create_swapchain, Relaxed);
        entry.key.store(key, Release);
    }
}

/// Which surface each swapchain presents to: a window that is resized gets a new swapchain and stays
/// the window that it was.
pub(super) struct Surfaces {
    made: AtomicU64,
    pairs: [(AtomicU64, AtomicU64); MOST_SWAPCHAINS],
}

impl Surfaces {
    pub(super) const fn new() -> Self {
        let pairs = [const { (AtomicU64::new(0), AtomicU64::new(0)) }; MOST_SWAPCHAINS];
        Self { made: AtomicU64::new(0), pairs }
    }

    pub(super) fn keep(&self, swapchain: u64, surface: u64) {
        // A handle that was used before is the same one again.
        let known = self.pairs.iter().find(|(known, _)| known.load(Acquire) == swapchain);
        let place = || self.made.fetch_add(1, Relaxed) as usize % MOST_SWAPCHAINS;
        let (known, of) = known.unwrap_or_else(|| &self.pairs[place()]);
        known.store(0, Release);
        of.store(surface, Release);
        known.store(swapchain, Release);
    }

    /// Returns the surface of `swapchain`; where it is not known, the swapchain itself.
    pub(super) fn of(&self, swapchain: u64) -> u64 {
        let known = self.pairs.iter().find(|(known, _)| known.load(Acquire) == swapchain);
        known.map_or(swapchain, |(_, surface)| surface.load(Acquire))
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_resized_window_keeps_its_surface_and_old_swapchains_are_forgotten() {
        let surfaces = Box::new(Surfaces::new());
        surfaces.keep(11, 1);
        surfaces.keep(12, 1);
        surfaces.keep(11, 2);
        assert_eq!([11, 12, 13].map(|swapchain| surfaces.of(swapchain)), [2, 1, 13]);
        for swapchain in 100..100 + MOST_SWAPCHAINS as u64 {
            surfaces.keep(swapchain, 3);
        }
        assert_eq!((surfaces.of(11), surfaces.of(355)), (11, 3));
    }

    #[test]
    fn what_shares_a_key_is_found_until_it_is_forgotten() {
        static TABLE: Table = Table::new();
        let mut dispatch = 0_u8;
        let mut device: [Pointer; 2] = [(&raw mut dispatch).cast(), null_mut()];
        let mut queue = device;
        let handle = (&raw mut device).cast();
        let none = null_mut();
        let kept = Kept {
            handle,
            look: 7 as Pointer,
            destroy: none,
            present: none,
            create_swapchain: none,
        };
        // SAFETY: both begin with a pointer, as handles do.
        unsafe {
            TABLE.keep(&kept);
            let found = TABLE.of((&raw mut queue).cast()).unwrap();
            assert_eq!((found.handle(), found.look()), (handle, 7 as Pointer));
            found.forget();
            assert!(TABLE.of(handle).is_none() && TABLE.of(null_mut()).is_none());
        }
    }
}
