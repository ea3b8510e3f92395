//! The `[rig.NAME]` tables.

use crate::section::{Mistakes, Section, Value};
use honest_lap_core::study::{Rig, StatedPower};
use honest_lap_core::unit::{Amount, parse_amount};

const KEYS: [&str; 6] = ["about", "price", "model", "parts", "power", "unsupported"];
const POWER_KEYS: [&str; 3] = ["mean", "peak", "idle"];

pub(crate) fn rig<'i>(mistakes: &Mistakes, name: &str, value: &Value<'i>) -> Option<Rig> {
    let section = Section::open(mistakes, format!("rig \"{name}\""), value, &KEYS)?;
    let texts = |key: &str| {
        let text = |(name, _, value): (&str, _, &Value<'_>)| {
            Some((name.to_owned(), section.text_of(name, value)?.to_owned()))
        };
        section.entries(key).filter_map(text).collect()
    };
    Some(Rig {
        name: name.to_owned(),
        about: section.text("about").map(str::to_owned),
        price: section.quantity("price", parse_amount),
        model: section.text("model").map(str::to_owned),
        parts: texts("parts"),
        unsupported: texts("unsupported"),
        power: section
            .get("power")
            .and_then(|value| {
                let what = format!("`power` of rig \"{name}\"");
                Section::open(mistakes, what, value, &POWER_KEYS)
            })
            .map(|section| power(&section))
            .unwrap_or_default(),
    })
}

fn power(section: &Section) -> StatedPower {
    let watts = |key| {
        let amount: Amount = section.quantity(key, parse_amount)?;
        if amount.unit != "W" {
            let span = section.get(key).map_or(0..0, |value| value.span());
            let problem = format!("`{key}` is in {}, and power is in W", amount.unit);
            section.mistakes.add(span, problem, "write it in watts, such as \"85 W\"");
            return None;
        }
        Some(amount.value)
    };
    StatedPower { mean: watts("mean"), peak: watts("peak"), idle: watts("idle") }
}
