//! Everything that is of one system: a port fills one folder beside `linux`.
//!
//! | what for | seam |
//! |---|---|
//! | start | [`own_program`], [`own_session`], [`keep_orphans`], [`Terminal`] |
//! | wait | [`now`], [`now_with_sleep`], [`worked`], [`reap`] |
//! | tree | [`children`], [`descendants`], [`Group`], [`environment_of`], [`boot`] |
//! | end | [`send`], [`Group`] (kills all of it at once), [`end_members`], [`reap_orphans`], [`has_children`] |
//! | usage | [`used_by_children`], [`used_by_self`], [`moved_by_children`], [`peak_bytes`], [`GroupView`] |
//! | sensors | [`Machine`], [`Sensors`], [`Look`], [`read_rig`], [`read_state`] |
//!
//! What a system does not show is absent, never 0. `stub` is a system that shows nothing: it is compiled by
//! `cargo check -p honest-lap-measure --features stub-system`, so that the seam stays whole.

#[cfg(all(target_os = "linux", not(feature = "stub-system")))]
mod linux;
#[cfg(all(target_os = "linux", not(feature = "stub-system")))]
use linux as system;
#[cfg(any(not(target_os = "linux"), feature = "stub-system"))]
mod stub;
#[cfg(any(not(target_os = "linux"), feature = "stub-system"))]
use stub as system;
mod told;

pub(crate) use system::{
    Group, GroupView, Look, Sensors, Terminal, boot, children, descendants, end_members,
    environment_of, has_children, keep_orphans, moved_by_children, now_with_sleep, own_program,
    own_session, peak_bytes, place_of, process, processes, reap, reap_if_ended, reap_orphans,
    reap_orphans_but, reset_peak, sampled, send, shrink, signal_name, used_by_children,
    used_by_self, worked,
};
pub use system::{Machine, now, on_mains, read_rig, read_state, sensor_names};
pub(crate) use told::{Process, Used};
