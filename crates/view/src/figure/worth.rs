//! Work over price or power, as the figure wants it.

use crate::chart::{Stands, Takes, Worth, WorthFigure};
use honest_lap_core::record::Study;
use honest_lap_core::value::{Beside, Economy, Standing, ValueRow};

/// What work is held against.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Over {
    /// What a rig costs
    Price,
    /// What it draws while it works, in the mean
    Power,
}

/// Returns the figure of `found`; `None` where fewer than two rigs can be placed.
pub fn worth(study: &Study, found: &Economy, over: Over) -> Option<WorthFigure> {
    let is_base = |row: &ValueRow| row.work == Beside::Baseline;
    let baseline = found.rows.iter().find(|row| is_base(row))?.rig.clone();
    let placed = |row: &ValueRow| {
        let standing = match over {
            Over::Price => &row.standing,
            Over::Power => &row.standing_by_power,
        };
        let stands = match standing {
            Standing::Edge => Stands::Edge,
            Standing::Open(_) => Stands::Open,
            Standing::Beaten(_) => Stands::Beaten,
            Standing::Unknown => return None,
        };
        let (work, ends) = match &row.work {
            Beside::Stands(difference) => {
                let interval = difference.interval?;
                (difference.speed?, Some((interval.low, interval.high)))
            }
            Beside::Baseline => (1.0, None),
            Beside::Unsaid(_) => return None,
        };
        let takes = match over {
            Over::Price if row.owned => 0.0,
            Over::Price => row.price.as_ref()?.value,
            Over::Power => row.power.mean?,
        };
        Some(Worth { rig: row.rig.clone(), takes, work, ends, stands })
    };
    let rigs: Vec<Worth> = found.rows.iter().filter_map(placed).collect();
    if rigs.len() < 2 || (over == Over::Price && found.units_differ) {
        return None;
    }
    let edge: Vec<&str> =
        rigs.iter().filter(|rig| rig.stands == Stands::Edge).map(|rig| rig.rig.as_str()).collect();
    let (takes, of, does) = match over {
        Over::Price => {
            let money = found.rows.iter().find_map(|row| Some(row.price.as_ref()?.unit.clone()))?;
            (Takes::Price(money), "price", "costs")
        }
        Over::Power => (Takes::Power, "power", "draws"),
    };
    let title = study.title.as_deref().unwrap_or("The study");
    let finding = match edge.as_slice() {
        [] => format!("Of no rig is it sure that no other {does} as little and does as much"),
        some => format!("No other rig {does} as little and does as much: {}", some.join(", ")),
    };
    Some(WorthFigure { title: format!("{title}: work over {of}"), finding, takes, baseline, rigs })
}
