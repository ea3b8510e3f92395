//! Value: work for money and for energy, which rigs no other beats on both, and what an upgrade pays.

mod economy;
mod upgrade;

pub use economy::{Beside, Economy, Power, Standing, Step, ValueRow, economy};
pub use upgrade::{JobSaving, Upgrade, upgrade};
