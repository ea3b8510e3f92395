//! What a rig that has a price, and no figures yet, would have to reach.

use crate::record::{Rig, Study};
use crate::unit::Amount;
use serde::Serialize;

/// What a rig that was not measured would have to reach at its price, as an index like those of the measured ones.
#[derive(Clone, Debug, PartialEq, Serialize)]
#[cfg_attr(test, derive(schemars::JsonSchema))]
pub struct Wanted {
    /// The rig.
    pub rig: String,
    /// Its price.
    pub price: Amount,
    /// What would be as much work for its price as the best of the others has.
    pub to_match: Option<f64>,
    /// The rig that has that.
    pub like: Option<String>,
    /// The most work of a rig that costs no more, and that rig: with less it is beaten on both.
    pub to_stand: Option<(f64, String)>,
}

/// A measured rig: its name, its price, and its work as a ratio to the baseline's.
pub(super) type Placed<'a> = (&'a str, Option<f64>, Option<f64>);

/// Returns what every rig of `study` with a price would have to reach that is none of the `measured`, cheapest first.
///
/// ```text
/// to match = price · max (index / price)        to stand = max index of those that cost as much or less
/// ```
/// * Units: ratios to the baseline's work.
pub(super) fn unmeasured(study: &Study, measured: &[Placed<'_>]) -> Vec<Wanted> {
    let placed: Vec<(&str, f64, f64)> =
        measured.iter().filter_map(|&(rig, price, work)| Some((rig, price?, work?))).collect();
    let wanted = |rig: &Rig| {
        let price = rig.price.clone().filter(|_| measured.iter().all(|of| of.0 != rig.name))?;
        let per_price = placed.iter().filter(|(_, costs, _)| *costs > 0.0);
        let best = per_price.max_by(|a, b| (a.2 / a.1).total_cmp(&(b.2 / b.1)));
        let cheaper = placed.iter().filter(|(_, costs, _)| *costs <= price.value);
        let most = cheaper.max_by(|a, b| a.2.total_cmp(&b.2));
        best.or(most)?;
        Some(Wanted {
            rig: rig.name.clone(),
            to_match: best.map(|(_, costs, work)| price.value * work / costs),
            like: best.map(|(rig, ..)| (*rig).to_owned()),
            to_stand: most.map(|(rig, _, work)| (*work, (*rig).to_owned())),
            price,
        })
    };
    let mut all: Vec<Wanted> = study.rigs.iter().filter_map(wanted).collect();
    all.sort_by(|a, b| a.price.value.total_cmp(&b.price.value));
    all
}
