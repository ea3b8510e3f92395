//! Linux: `/proc`, `/sys`, control groups, the child subreaper.

mod clock;
mod conditions;
mod machine;
mod memory;
mod process;
mod rig;
mod sensor;
mod stall;
mod start;
mod state;
mod terminal;

pub use clock::now;
pub(crate) use clock::{now_with_sleep, worked};
pub(crate) use conditions::{Look, sampled};
pub use machine::Machine;
pub(crate) use memory::{peak_bytes, reset_peak, shrink};
pub(crate) use process::{
    Group, GroupView, children, descendants, end_members, has_children, moved_by_children,
    place_of, process, processes, reap, reap_if_ended, reap_orphans, reap_orphans_but, send,
    signal_name, used_by_children, used_by_self,
};
pub use rig::read_rig;
pub(crate) use sensor::Sensors;
pub use sensor::{on_mains, sensor_names};
pub(crate) use start::{boot, environment_of, keep_orphans, own_program, own_session};
pub use state::read_state;
pub(crate) use terminal::Terminal;
