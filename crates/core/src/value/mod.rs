//! Value: work for money and for energy, which rigs no other beats on both, and what an upgrade pays.

mod economy;
mod upgrade;
mod wanted;

pub use economy::{Beside, Economy, Power, Standing, Step, ValueRow, economy};
pub use upgrade::{JobSaving, Upgrade, upgrade};
pub use wanted::Wanted;
