//! What could distort a measurement now, and what to do about it.

use crate::unit::{Nanos, display_size, display_span};

/// The state of a machine as found; `None` is 'not known'.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct MachineState {
    /// Whether it runs on mains.
    pub on_mains: Option<bool>,
    /// Charge of its battery, as a share.
    pub charge: Option<f64>,
    /// How its processor's clock is governed.
    pub governor: Option<String>,
    /// Its power profile.
    pub power_profile: Option<String>,
    /// Its hardware threads.
    pub threads: Option<u32>,
    /// How many of them others kept busy while it was watched.
    pub busy: Option<f64>,
    /// The programs that did, the busiest first.
    pub busy_with: Vec<String>,
    /// The share of time that a hypervisor gave to others.
    pub stolen: Option<f64>,
    /// Whether it is a virtual machine.
    pub is_virtual: Option<bool>,
    /// What the hottest sensor shows, in °C.
    pub hottest_c: Option<f64>,
    /// Its memory, in bytes.
    pub memory_bytes: Option<u64>,
    /// The memory that can still be had, in bytes.
    pub memory_available_bytes: Option<u64>,
    /// Swap in use, in bytes.
    pub swap_used_bytes: Option<u64>,
    /// Space left where the study is, in bytes.
    pub disk_free_bytes: Option<u64>,
    /// What the kernel takes its time from.
    pub clock_source: Option<String>,
    /// How far the steered clock runs from the raw one, in millionths.
    pub clock_off_ppm: Option<f64>,
    /// How long it was watched.
    pub watched: Nanos,
}

/// Something that could distort a lap.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Obstacle {
    /// Its name.
    pub name: &'static str,
    /// What was seen.
    pub evidence: String,
    /// What to do.
    pub remedy: &'static str,
}

/// Hardware threads that others may keep busy before it shows in a lap.
const QUIET_THREADS: f64 = 0.1;
/// The share of stolen time that shows in a lap.
const STOLEN: f64 = 0.005;
/// Hotter than this before it has begun, a processor has little room left.
const HOT_C: f64 = 75.0;
const LITTLE_DISK: u64 = 1 << 30;
const LITTLE_MEMORY: f64 = 0.1;
const MUCH_SWAP: u64 = 256 << 20;
/// A clock that is steered harder than this makes a lap a ten-thousandth longer or shorter.
const STEERED_PPM: f64 = 100.0;
/// Clock sources that are slow to read or coarse.
const POOR_SOURCES: [&str; 4] = ["acpi_pm", "hpet", "jiffies", "refined-jiffies"];

/// Returns what could distort a lap in this state, gravest first.
pub fn obstacles(state: &MachineState) -> Vec<Obstacle> {
    let all = [
        on_battery(state),
        saving_power(state),
        busy(state),
        stolen(state),
        hot(state),
        memory(state),
        swapping(state),
        disk(state),
        clock(state),
        is_virtual(state),
    ];
    all.into_iter().flatten().collect()
}

fn obstacle(name: &'static str, evidence: String, remedy: &'static str) -> Option<Obstacle> {
    Some(Obstacle { name, evidence, remedy })
}

fn on_battery(state: &MachineState) -> Option<Obstacle> {
    (state.on_mains == Some(false)).then_some(())?;
    let charge = state.charge.map(|share| format!(", charged to {:.0} %", share * 100.0));
    let evidence = format!("it runs on its battery{}", charge.unwrap_or_default());
    obstacle("on battery", evidence, "plug it in: most machines slow down on a battery")
}

fn saving_power(state: &MachineState) -> Option<Obstacle> {
    let saving = |word: &&String| {
        ["powersave", "low-power", "quiet", "cool", "conservative"].contains(&word.as_str())
    };
    let governor = state.governor.as_ref().filter(saving).map(|g| format!("governor `{g}`"));
    let profile = state.power_profile.as_ref().filter(saving).map(|p| format!("profile `{p}`"));
    let seen: Vec<String> = governor.into_iter().chain(profile).collect();
    (!seen.is_empty()).then_some(())?;
    let remedy = "choose the power plan that the work is really done under, and say so in the rig";
    obstacle("saving power", seen.join(", "), remedy)
}

fn busy(state: &MachineState) -> Option<Obstacle> {
    let busy = state.busy.filter(|&busy| busy > QUIET_THREADS)?;
    let of = state.threads.map(|threads| format!(" of {threads}")).unwrap_or_default();
    let with = match state.busy_with.as_slice() {
        [] => String::new(),
        names => format!(", mostly {}", names.join(", ")),
    };
    let watched = display_span(state.watched);
    let evidence = format!("{busy:.1}{of} hardware threads were busy for {watched}{with}");
    obstacle("machine busy", evidence, "end what runs, or wait until it is done")
}

fn stolen(state: &MachineState) -> Option<Obstacle> {
    let stolen = state.stolen.filter(|&share| share > STOLEN)?;
    let evidence = format!("its host gave {:.1} % of its time to others", stolen * 100.0);
    obstacle("time stolen", evidence, "measure where nothing else runs on the host")
}

fn hot(state: &MachineState) -> Option<Obstacle> {
    let hottest = state.hottest_c.filter(|&c| c > HOT_C)?;
    let remedy = "let it cool; rest = { until_below = \"55 °C\" } does so between laps";
    obstacle("hot", format!("its hottest sensor shows {hottest:.0} °C"), remedy)
}

fn memory(state: &MachineState) -> Option<Obstacle> {
    let (all, free) = state.memory_bytes.zip(state.memory_available_bytes)?;
    ((free as f64) < all as f64 * LITTLE_MEMORY).then_some(())?;
    let evidence = format!("{} of {} are left", display_size(free), display_size(all));
    obstacle("little memory", evidence, "end what holds it, or laps will swap")
}

fn swapping(state: &MachineState) -> Option<Obstacle> {
    let used = state.swap_used_bytes.filter(|&bytes| bytes > MUCH_SWAP)?;
    let evidence = format!("{} are swapped out", display_size(used));
    obstacle("memory swapped out", evidence, "end what is not needed; swap is read back slowly")
}

fn disk(state: &MachineState) -> Option<Obstacle> {
    let free = state.disk_free_bytes.filter(|&bytes| bytes < LITTLE_DISK)?;
    let evidence = format!("{} are left where the study is", display_size(free));
    obstacle("little disk space", evidence, "free some: laps that fill a disk fail late")
}

fn clock(state: &MachineState) -> Option<Obstacle> {
    let poor = state.clock_source.as_ref().filter(|s| POOR_SOURCES.contains(&s.as_str()));
    let off = state.clock_off_ppm.filter(|ppm| ppm.abs() > STEERED_PPM);
    let source = poor.map(|source| format!("the kernel takes its time from `{source}`"));
    let steered = off.map(|ppm| format!("the clock is being steered by {ppm:.0} millionths"));
    let seen: Vec<String> = source.into_iter().chain(steered).collect();
    (!seen.is_empty()).then_some(())?;
    let remedy = "wait until the time is set, or let the kernel use the processor's own counter";
    obstacle("clock not steady", seen.join("; "), remedy)
}

fn is_virtual(state: &MachineState) -> Option<Obstacle> {
    (state.is_virtual == Some(true)).then_some(())?;
    let evidence = "a hypervisor runs below it, and its other guests cannot be seen from here";
    let remedy = "measure on the machine itself, or say on the page that it is a virtual one";
    obstacle("virtual machine", evidence.to_owned(), remedy)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn an_unknown_state_accuses_nobody() {
        assert_eq!(obstacles(&MachineState::default()), []);
        let fine = MachineState {
            on_mains: Some(true),
            governor: Some("performance".into()),
            power_profile: Some("balanced".into()),
            busy: Some(0.02),
            stolen: Some(0.0),
            is_virtual: Some(false),
            hottest_c: Some(48.0),
            memory_bytes: Some(16 << 30),
            memory_available_bytes: Some(12 << 30),
            swap_used_bytes: Some(0),
            disk_free_bytes: Some(100 << 30),
            clock_source: Some("tsc".into()),
            clock_off_ppm: Some(12.0),
            ..MachineState::default()
        };
        assert_eq!(obstacles(&fine), []);
    }

    #[test]
    fn every_trouble_is_told_with_its_evidence() {
        let bad = MachineState {
            on_mains: Some(false),
            charge: Some(0.41),
            governor: Some("powersave".into()),
            power_profile: Some("quiet".into()),
            threads: Some(8),
            busy: Some(2.34),
            busy_with: vec!["indexer".into()],
            stolen: Some(0.031),
            is_virtual: Some(true),
            hottest_c: Some(91.0),
            memory_bytes: Some(16 << 30),
            memory_available_bytes: Some(1 << 30),
            swap_used_bytes: Some(2 << 30),
            disk_free_bytes: Some(1 << 20),
            clock_source: Some("acpi_pm".into()),
            clock_off_ppm: Some(-480.0),
            watched: Nanos::from_seconds(1),
        };
        let found = obstacles(&bad);
        let names: Vec<&str> = found.iter().map(|obstacle| obstacle.name).collect();
        assert_eq!(
            names,
            [
                "on battery",
                "saving power",
                "machine busy",
                "time stolen",
                "hot",
                "little memory",
                "memory swapped out",
                "little disk space",
                "clock not steady",
                "virtual machine"
            ]
        );
        assert_eq!(found[0].evidence, "it runs on its battery, charged to 41 %");
        assert_eq!(
            found[2].evidence,
            "2.3 of 8 hardware threads were busy for 1 s, mostly indexer"
        );
    }
}
