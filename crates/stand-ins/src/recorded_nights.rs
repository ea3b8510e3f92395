//! The made-up nights of the lab: stills one after the other, at the pace of a clock that falls in the heat.

use crate::machine::{NIGHT_MINUTES, State, night};
use crate::recorded_lap::RecordedLap;
use honest_lap_core::record::{Quantity, Repeat, Settings, Trace, Traces};
use honest_lap_core::stat::SplitMix;
use honest_lap_core::unit::Nanos;

/// How long a night's lap lasts here, and the time between looks at the machine, in seconds.
const NIGHT: f64 = 8.0;
const NIGHT_LOOKS: f64 = 0.1;

/// Returns a night that a rig is said to have worked through: two hours of it in eight seconds.
///
/// A still takes it `cool` seconds until its clock falls by `fall`; a day is `between` off, by the luck of `seed`.
pub(crate) fn worked_night((cool, fall): (f64, f64), between: f64, seed: u64) -> RecordedLap {
    let mut noise = SplitMix::new(seed);
    let luck = (noise.normal() * between).exp();
    let state = |at: f64| night(at * NIGHT_MINUTES, fall);
    let nanos = |seconds: f64| Nanos((seconds * 1e9) as u64);
    let (mut at, mut repeats) = (0.0, Vec::new());
    while at < NIGHT {
        let slower = state(0.0).clock_mhz / state(at).clock_mhz;
        let took = cool * luck * slower * (noise.normal() * 0.012).exp();
        repeats.push(Repeat { began: nanos(at), took: nanos(took) });
        at += took + 0.004;
    }
    let looks: Vec<f64> =
        (0..=(NIGHT / NIGHT_LOOKS) as u32).map(|n| f64::from(n) * NIGHT_LOOKS).collect();
    let channel = |quantity, which: &str, of: fn(&State) -> f64| Trace {
        quantity,
        which: which.to_owned(),
        unit: String::new(),
        values: looks.iter().map(|&at| Some((of(&state(at)) * 10.0).round() / 10.0)).collect(),
    };
    let channels = vec![
        channel(Quantity::CoreClock, "0", |state| state.clock_mhz),
        channel(Quantity::Temperature, "package", |state| state.temperature_c),
        channel(Quantity::Fan, "fan1", |state| state.fan_rpm),
        channel(Quantity::Power, "package", |state| state.power_w),
    ];
    let at_ms = looks.iter().map(|at| (at * 1e3).round() as u64).collect();
    RecordedLap {
        traces: Traces { at_ms, channels },
        repeats,
        ..RecordedLap::done("night-shift", Settings::default(), nanos(at))
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_night_slows_down_with_its_clock_and_is_the_same_every_time() {
        let lap = worked_night((0.1, 0.25), 0.0, 3);
        assert_eq!(format!("{lap:?}"), format!("{:?}", worked_night((0.1, 0.25), 0.0, 3)));
        let took = |repeat: Option<&Repeat>| repeat.map_or(0.0, |repeat| repeat.took.seconds());
        let (first, last) = (took(lap.repeats.first()), took(lap.repeats.last()));
        assert!((first - 0.1).abs() < 0.006 && (last - 0.1 / 0.75).abs() < 0.008, "{first} {last}");
        assert_eq!((lap.traces.at_ms.len(), lap.traces.channels.len()), (81, 4));
    }
}
