//! The file that every process says a word in: that the recorder is loaded, and what went wrong
//! where a process has no file of its own.

use crate::sys::{self, KeepErrno};
use crate::text::{Text, variable};
use core::ffi::c_int;
use core::ptr::null_mut;
use core::sync::atomic::{AtomicPtr, Ordering::Relaxed};
use honest_lap_present_abi::{FOLDER, LOBBY, LOBBY_BYTES, LOBBY_MAGIC, Lobby};

static PAGE: AtomicPtr<Lobby> = AtomicPtr::new(null_mut());

/// Maps the lobby, where there is one, and says that the recorder is loaded.
pub(crate) fn enter() {
    let _keep = KeepErrno::new();
    let Some(page) = map() else { return };
    // SAFETY: the mapping is a whole page that begins with a lobby.
    let lobby = unsafe { &*page };
    if lobby.magic == LOBBY_MAGIC {
        lobby.loaded.fetch_add(1, Relaxed);
        PAGE.store(page, Relaxed);
    } else {
        // SAFETY: it is ours, and nothing refers to it.
        unsafe { sys::munmap(page.cast(), LOBBY_BYTES) };
    }
}

fn map() -> Option<*mut Lobby> {
    let folder = variable(FOLDER)?;
    let mut path = Text { bytes: [0; 4096], length: 0 };
    path.push(folder.to_bytes()).and_then(|()| path.push(b"/")).ok()?;
    path.push(LOBBY.as_bytes()).ok()?;
    let flags = sys::O_RDWR | sys::O_CLOEXEC | sys::O_NOFOLLOW;
    // SAFETY: the path ends in a zero.
    let fd = unsafe { sys::open(path.bytes.as_ptr().cast(), flags, 0) };
    if fd < 0 {
        return None;
    }
    // SAFETY: `fd` is ours; the reader made the file a page long before anything was started.
    let page = unsafe {
        let (flags, length) = (sys::MAP_SHARED, LOBBY_BYTES);
        let page = sys::mmap(null_mut(), length, sys::PROT_READ_WRITE, flags, fd, 0);
        sys::close(fd);
        page
    };
    (page != sys::MAP_FAILED).then_some(page.cast())
}

/// Counts a present that is recorded nowhere.
pub(crate) fn drop_one() {
    if let Some(lobby) = lobby() {
        lobby.dropped.fetch_add(1, Relaxed);
    }
}

/// Says why this process has no file of its own.
pub(crate) fn tell_trouble(number: c_int) {
    if let Some(lobby) = lobby() {
        lobby.trouble.store(number.unsigned_abs(), Relaxed);
    }
}

fn lobby() -> Option<&'static Lobby> {
    // SAFETY: a page that is not null is a mapping that begins with a lobby and stays.
    unsafe { PAGE.load(Relaxed).as_ref() }
}
