//! What was seen of the machine while a lap ran.

use super::Field;
use super::cells::{size, time};
use crate::number::{percent, significant};
use crate::table::{Cell, Column, Show, Value};
use honest_lap_core::record::{MeterSum, QuantitySummary, Sampled, TreeKept, TreeMemory};
use honest_lap_core::unit::display_size;

/// Returns what was seen while the lap ran; what the machine does not show is left to programs.
pub(super) fn sampled(seen: &Sampled) -> Vec<Field> {
    let number = |value: Option<f64>, unit: &str| {
        Cell::or_missing(value, |v| Cell::number(v, with_unit(v, unit)))
    };
    let text = |text: &Option<String>| Cell::or_missing(text.clone(), Cell::text);
    let went = |course: Option<QuantitySummary>, unit: &str| {
        Cell::or_missing(course, |c| {
            let way = format!(
                "{} → {}, at most {}",
                with_unit(c.first, unit),
                with_unit(c.last, unit),
                with_unit(c.most, unit)
            );
            Cell::number(c.mean, way)
        })
    };
    let share = |value: f64| percent(value);
    let mut fields = vec![
        (
            Column::text("tree_peak_bytes", "memory of its tree"),
            Cell::or_missing(seen.tree_peak_bytes, |bytes| {
                let size = display_size(bytes);
                let shown = match seen.tree_peak_by {
                    Some(TreeMemory::ControlGroup) => {
                        format!("at least {size}, shared pages counted once")
                    }
                    Some(TreeMemory::ResidentSets) => {
                        format!("at least {size}, shared pages counted for each process")
                    }
                    None => format!("at least {size}"),
                };
                Cell::whole(bytes).shown(shown)
            }),
        ),
        (
            Column::text("tree", "processes held by"),
            Cell::or_missing(seen.tree, |tree| {
                Cell::text(match tree {
                    TreeKept::ControlGroup => "a control group",
                    TreeKept::Parentage => "parentage; no control group could be made",
                })
            }),
        ),
        (
            Column::text("cores_busy", "cores busy"),
            Cell::or_missing(seen.cores_busy, |n| Cell::number(n, significant(n, 3))),
        ),
        (
            Column::text("busiest_core", "busiest core"),
            Cell::or_missing(seen.busiest_core, |use_of| Cell::number(use_of, share(use_of))),
        ),
        (Column::text("clock_mhz", "clock of the cores"), went(seen.clock_mhz, "MHz")),
        (Column::text("temperature_c", "hottest sensor"), went(seen.temperature_c, "°C")),
        (Column::text("fan_rpm", "fastest fan"), went(seen.fan_rpm, "rpm")),
        (Column::text("power_w", "power"), went(seen.power_w, "W")),
        (Column::text("energy_j", "energy"), number(seen.energy_j, "J")),
        (
            Column::text("on_mains", "power source"),
            Cell::or_missing(seen.on_mains, |mains| {
                Cell::flag(mains).shown(if mains { "mains" } else { "battery" })
            }),
        ),
        (
            Column::text("battery", "battery"),
            Cell::or_missing(seen.battery, |c| {
                Cell::number(c.mean, format!("{} → {}", share(c.first), share(c.last)))
            }),
        ),
        (
            Column::text("battery_energy_j", "taken from the battery"),
            number(seen.battery_energy_j, "J"),
        ),
        (
            Column::text("brightness", "screen brightness"),
            Cell::or_missing(seen.brightness, |of| Cell::number(of, share(of))),
        ),
        (
            Column::text("graphics_use", "graphics use"),
            Cell::or_missing(seen.graphics_use, |c| Cell::number(c.mean, share(c.mean))),
        ),
        (
            Column::text("graphics_memory_bytes", "graphics memory"),
            size(seen.graphics_memory_bytes.map(|c| c.most.max(0.0) as u64)),
        ),
        (
            Column::text("graphics_clock_mhz", "graphics clock"),
            went(seen.graphics_clock_mhz, "MHz"),
        ),
        (Column::text("swapped_bytes", "swapped"), size(seen.swapped_bytes)),
        (
            Column::text("memory_available_least_bytes", "least memory free"),
            size(seen.memory_available_least_bytes),
        ),
        (
            Column::text("stalled_processor_ns", "waited for a processor"),
            time(seen.stalled_processor),
        ),
        (Column::text("stalled_memory_ns", "waited for memory"), time(seen.stalled_memory)),
        (Column::text("stalled_disk_ns", "waited for a disk"), time(seen.stalled_disk)),
        (Column::text("governor", "governor"), text(&seen.governor)),
        (Column::text("power_profile", "power profile"), text(&seen.power_profile)),
        (
            Column::text("samples", "samples"),
            Cell::or_missing(seen.samples, |n| Cell::whole(u64::from(n))),
        ),
        (
            Column::text("meters", "outside meters"),
            Cell::list(seen.meters.iter().map(meter).collect()),
        ),
    ];
    let absent: Vec<String> = fields
        .iter()
        .filter(|(column, cell)| {
            cell.value == Value::Missing
                && !["samples", "tree", "tree_peak_bytes"].contains(&&*column.key)
        })
        .map(|(column, _)| column.title.clone())
        .collect();
    for (column, cell) in &mut fields {
        let nothing = cell.value == Value::Missing || cell.value == Value::List(Vec::new());
        if nothing {
            column.show = Show::Machines;
        }
    }
    // One line instead of one for each: absent is told, and is no 0.
    let absent = absent.join(", ");
    let mut told = Column::text("absent", "not shown by this machine").people();
    if seen.samples.is_none() || absent.is_empty() {
        told.show = Show::Machines;
    }
    fields.push((told, Cell::text(absent)));
    fields
}

fn meter(sum: &MeterSum) -> String {
    let (mean, most) =
        (with_unit(sum.course.mean, &sum.unit), with_unit(sum.course.most, &sum.unit));
    format!("{}: {mean} in the mean, at most {most}", sum.name)
}

fn with_unit(value: f64, unit: &str) -> String {
    format!(
        "{} {unit}",
        if value.abs() >= 1000.0 { format!("{value:.0}") } else { significant(value, 3) }
    )
}
