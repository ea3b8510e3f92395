//! `lap rig`: the machine as found and its sensors; `lap rig check`: what could distort a lap.

use crate::table::{Cell, Column, Group, Layout, Role, Sheet};
use crate::words::count;
use honest_lap_core::plan::{MachineState, Obstacle};
use honest_lap_core::record::{Quantity, RigFound};
use honest_lap_core::unit::{display_size, display_span};
use std::collections::BTreeMap;

/// Every quantity that a machine might show, in the order shown.
const QUANTITIES: [Quantity; 17] = [
    Quantity::CoreUse,
    Quantity::CoreClock,
    Quantity::MemoryAvailable,
    Quantity::SwapUsed,
    Quantity::Swapped,
    Quantity::ProcessorStall,
    Quantity::MemoryStall,
    Quantity::DiskStall,
    Quantity::Temperature,
    Quantity::Fan,
    Quantity::Power,
    Quantity::Energy,
    Quantity::Charge,
    Quantity::BatteryPower,
    Quantity::GraphicsUse,
    Quantity::GraphicsMemory,
    Quantity::GraphicsClock,
];

/// Returns the sheet of a machine, the public key that its sessions are signed with, and its sensors.
pub fn rig(found: &RigFound, key: Option<&str>, sensors: &[(Quantity, String)]) -> Sheet {
    let text = |text: &Option<String>| Cell::or_missing(text.clone(), Cell::text);
    let number = |n: Option<u32>| Cell::or_missing(n, |n| Cell::whole(u64::from(n)));
    let mut fields = vec![
        (Column::text("processor", "processor"), text(&found.processor)),
        (Column::text("cores", "cores"), number(found.cores)),
        (Column::text("threads", "hardware threads"), number(found.threads)),
        (
            Column::text("memory_bytes", "memory"),
            Cell::or_missing(found.memory_bytes, |bytes| {
                Cell::whole(bytes).shown(display_size(bytes))
            }),
        ),
        (Column::text("system", "system"), text(&found.system)),
        (Column::text("kernel", "kernel"), text(&found.kernel)),
        (Column::text("governor", "governor"), text(&found.governor)),
        (Column::text("machine", "fingerprint"), text(&found.machine)),
        (Column::text("key", "key"), Cell::or_missing(key, Cell::text)),
    ];
    let mut by_quantity: BTreeMap<Quantity, Vec<&str>> = BTreeMap::new();
    for (quantity, which) in sensors {
        by_quantity.entry(*quantity).or_default().push(which);
    }
    let shown = |which: &Vec<&str>| match which.as_slice() {
        [""] => String::new(),
        some if some.len() <= 4 => format!(" ({})", some.join(", ")),
        many => format!(" ({} of them)", many.len()),
    };
    let (present, absent): (Vec<Quantity>, Vec<Quantity>) =
        QUANTITIES.into_iter().partition(|quantity| by_quantity.contains_key(quantity));
    let sensed =
        |quantity: &Quantity| format!("{}{}", quantity.words().0, shown(&by_quantity[quantity]));
    let words = |all: &[Quantity]| all.iter().map(|q| q.words().0.to_owned()).collect::<Vec<_>>();
    fields.push((
        Column::text("sensors", "watched while laps run"),
        Cell::list(words(&present))
            .shown(present.iter().map(sensed).collect::<Vec<_>>().join(", ")),
    ));
    fields.push((
        Column::text("absent", "not shown by this machine"),
        Cell::list(words(&absent)).shown(words(&absent).join(", ")),
    ));
    let (columns, cells): (Vec<Column>, Vec<Cell>) = fields.into_iter().unzip();
    record("honest-lap/rig", "This machine", columns, cells)
}

fn record(schema: &'static str, title: &str, columns: Vec<Column>, cells: Vec<Cell>) -> Sheet {
    Sheet {
        schema,
        version: 1,
        title: Some(title.to_owned()),
        lead: Vec::new(),
        groups: vec![Group {
            heading: None,
            lead: Vec::new(),
            columns,
            rows: vec![cells],
            layout: Layout::Record,
            drawing: Vec::new(),
            notes: Vec::new(),
        }],
        notes: vec!["What could distort a measurement now: lap rig check".to_owned()],
    }
}

/// Returns the sheet of what could distort a lap; `holder` is who runs a session right now.
pub fn check(found: &[Obstacle], holder: Option<&str>, state: &MachineState) -> Sheet {
    let watched = display_span(state.watched);
    let mut rows: Vec<[String; 3]> = found
        .iter()
        .map(|o| [o.name.to_owned(), o.evidence.clone(), o.remedy.to_owned()])
        .collect();
    if let Some(holder) = holder {
        let remedy = "wait until it has ended: two sessions at once would time each other";
        rows.insert(0, ["another session".to_owned(), holder.to_owned(), remedy.to_owned()]);
    }
    let lead = match rows.len() {
        0 => format!("Nothing that could distort a lap was seen in {watched}."),
        n => format!("{} could distort a lap, seen in {watched}.", count(n, "thing")),
    };
    let unknown = unknown(state);
    let note = format!("Not known on this machine: {}.", unknown.join(", "));
    Sheet {
        schema: "honest-lap/rig-check",
        version: 1,
        title: None,
        lead: vec![lead],
        groups: vec![Group {
            heading: None,
            lead: Vec::new(),
            columns: vec![
                Column::text("obstacle", "what"),
                Column::text("evidence", "seen").wrap(30),
                Column::text("remedy", "what to do").wrap(26),
            ],
            rows: rows
                .into_iter()
                .map(|[name, evidence, remedy]| {
                    vec![
                        Cell::text(name).role(Role::Open),
                        Cell::text(evidence),
                        Cell::text(remedy),
                    ]
                })
                .collect(),
            layout: Layout::Table,
            drawing: Vec::new(),
            notes: Vec::new(),
        }],
        notes: if unknown.is_empty() { Vec::new() } else { vec![note] },
    }
}

/// Returns what could not be looked at: it may spoil laps and nobody would know.
fn unknown(state: &MachineState) -> Vec<&'static str> {
    let known = [
        ("power source", state.on_mains.is_some()),
        ("governor", state.governor.is_some()),
        ("power profile", state.power_profile.is_some()),
        ("temperature", state.hottest_c.is_some()),
        ("processor use", state.busy.is_some()),
        ("clock source", state.clock_source.is_some()),
    ];
    known.into_iter().filter(|(_, known)| !known).map(|(name, _)| name).collect()
}
