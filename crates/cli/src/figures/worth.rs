//! Work over price, as the figure wants it.

use honest_lap_core::study::Study;
use honest_lap_core::value::{Economy, Standing, ValueRow};
use honest_lap_draw::chart::{Stands, Worth, WorthFigure};

/// Returns the figure of `found`; `None` where fewer than two rigs can be placed.
pub fn worth(study: &Study, found: &Economy) -> Option<WorthFigure> {
    let is_base = |row: &ValueRow| row.work.as_ref().is_err_and(|why| why == "baseline");
    let baseline = found.rows.iter().find(|row| is_base(row))?.rig.clone();
    let placed = |row: &ValueRow| {
        let stands = match row.standing {
            Standing::Edge => Stands::Edge,
            Standing::Open(_) => Stands::Open,
            Standing::Beaten(_) => Stands::Beaten,
            Standing::Unknown => return None,
        };
        let (work, ends) = match &row.work {
            Ok(difference) => {
                let interval = difference.interval?;
                (difference.speed?, Some((interval.low, interval.high)))
            }
            Err(_) if is_base(row) => (1.0, None),
            Err(_) => return None,
        };
        let price = row.price.as_ref()?.value;
        Some(Worth { rig: row.rig.clone(), price, work, ends, stands })
    };
    let rigs: Vec<Worth> = found.rows.iter().filter_map(placed).collect();
    if rigs.len() < 2 || found.units_differ {
        return None;
    }
    let edge: Vec<&str> =
        rigs.iter().filter(|rig| rig.stands == Stands::Edge).map(|rig| rig.rig.as_str()).collect();
    let money = found.rows.iter().find_map(|row| Some(row.price.as_ref()?.unit.clone()))?;
    Some(WorthFigure {
        title: format!("{}: work over price", study.title.as_deref().unwrap_or("The study")),
        finding: format!("No other rig costs as little and does as much: {}", edge.join(", ")),
        money,
        baseline,
        rigs,
    })
}
