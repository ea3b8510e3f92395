//! The `[rig.NAME]` tables.

use crate::section::{Mistakes, Section, Value};
use honest_lap_core::study::Rig;
use honest_lap_core::unit::parse_amount;

const KEYS: [&str; 2] = ["about", "price"];

pub(crate) fn rig<'i>(mistakes: &Mistakes, name: &str, value: &Value<'i>) -> Option<Rig> {
    let section = Section::open(mistakes, format!("rig \"{name}\""), value, &KEYS)?;
    Some(Rig {
        name: name.to_owned(),
        about: section.text("about").map(str::to_owned),
        price: section.quantity("price", parse_amount),
    })
}
