//! The columns of a comparison.

use super::scale::{RateScale, Scale};
use crate::table::{Column, Show};
use honest_lap_core::record::{Measure, TIME};

pub(super) fn columns(
    across_rigs: bool,
    ranked: bool,
    measure: &Measure,
    scale: &Scale,
    rate: Option<&RateScale>,
    peaked: bool,
) -> Vec<Column> {
    let figure = |key, title: &str| match scale.symbol.is_empty() {
        true => Column::figure(key, title),
        false => Column::figure(key, title).unit(&scale.symbol),
    };
    let rate_unit = rate.map_or_else(String::new, |rate| rate.symbol.clone());
    let has_rate = rate.is_some();
    let mut variant = Column::text("variant", "variant");
    let mut rank = Column::text("rank_best", "rank");
    if !ranked {
        rank.show = Show::Machines;
    }
    let mut rate = Column::figure("rate_per_s", "rate").unit(rate_unit).spare(2);
    if across_rigs {
        variant = Column::machine("variant");
    }
    if !has_rate {
        rate = Column::machine("rate_per_s");
    }
    let mut of_peak = Column::figure("share_of_peak", "of peak").spare(1);
    if !peaked {
        of_peak = Column::machine("share_of_peak");
    }
    let mut saved = Column::figure("time_saved", "time").spare(1);
    if !measure.is_time() {
        saved = Column::machine("time_saved");
    }
    let (typical, ratio) = match (measure.name == TIME, measure.is_time()) {
        (true, _) | (false, true) => ("typical", "speed"),
        (false, false) => ("typical", "ratio"),
    };
    vec![
        Column::machine("workload"),
        rank,
        Column::machine("rank_worst"),
        Column::text("rig", "rig"),
        variant,
        Column::machine("measure"),
        Column::machine("unit"),
        Column::machine("better"),
        figure("typical", typical),
        Column::text("interval", "95 % CI").people().spare(4),
        Column::machine("typical_low"),
        Column::machine("typical_high"),
        rate,
        of_peak,
        Column::machine("work_unit"),
        Column::figure("cv", "CV").spare(2),
        Column::text("laps", "laps").people().spare(3),
        Column::machine("laps_counted"),
        Column::machine("laps_not_counted"),
        Column::machine("not_counted_because"),
        Column::machine("sessions"),
        Column::machine("mean"),
        Column::machine("median"),
        Column::machine("median_low"),
        Column::machine("median_high"),
        Column::machine("min"),
        Column::machine("max"),
        Column::machine("is_baseline"),
        Column::figure("ratio", ratio),
        Column::text("ratio_interval", "95 % CI").people(),
        Column::machine("ratio_low"),
        Column::machine("ratio_high"),
        saved,
        Column::text("verdict", "verdict").wrap(24),
        Column::machine("ground"),
        Column::machine("would_resolve"),
        Column::machine("doubts"),
        Column::machine("day_spread"),
        Column::machine("differs"),
        Column::machine("difference"),
        Column::machine("difference_low"),
        Column::machine("difference_high"),
        Column::machine("limited_by"),
        Column::machine("by_rate"),
        Column::machine("source"),
        Column::machine("step"),
    ]
}
