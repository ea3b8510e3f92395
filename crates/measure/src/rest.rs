//! The rest between two laps: a time, or until the machine has cooled.

use crate::error::MeasureError;
use crate::event::Event;
use crate::os::{Machine, Sensors};
use crate::stop::Stop;
use honest_lap_core::record::{Quantity, Rest};
use honest_lap_core::unit::Nanos;

/// How often a machine that cools is looked at.
const LOOK_AGAIN: Nanos = Nanos::from_seconds(1);

/// How a rest ended.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Rested {
    /// It was long enough.
    Enough,
    /// The longest wait was over, and the machine no cooler than this, in °C.
    StillWarm,
    /// Somebody asked for the end.
    Asked,
}

/// Rests as `rest` says, telling what it waits for.
pub(crate) fn rest(
    rest: Rest,
    machine: &Machine,
    stop: &Stop,
    tell: &mut dyn FnMut(Event<'_>) -> Result<(), MeasureError>,
) -> Result<Rested, MeasureError> {
    if rest.time.0 > 0 {
        tell(Event::Resting(rest.time))?;
        if stop.wait(rest.time) {
            return Ok(Rested::Asked);
        }
    }
    let Some(wanted) = rest.below_c else { return Ok(Rested::Enough) };
    let mut sensors = Sensors::open(machine);
    let begun = crate::now();
    loop {
        let Some(hottest) = hottest(&mut sensors) else {
            tell(Event::NoTemperature)?;
            return Ok(Rested::Enough);
        };
        let waited = crate::now().since(begun).unwrap_or_default();
        if hottest <= wanted {
            return Ok(Rested::Enough);
        }
        if waited >= rest.at_most {
            tell(Event::StillWarm { hottest, wanted, waited })?;
            return Ok(Rested::StillWarm);
        }
        tell(Event::Cooling { hottest, wanted })?;
        if stop.wait(LOOK_AGAIN) {
            return Ok(Rested::Asked);
        }
    }
}

/// Returns what the hottest sensor shows, in °C; `None` where there is none.
fn hottest(sensors: &mut Sensors) -> Option<f64> {
    let heats: Vec<bool> =
        sensors.channels().map(|channel| channel.quantity == Quantity::Temperature).collect();
    let mut row = Vec::with_capacity(heats.len());
    sensors.read(0.0, &mut row);
    let shown = row.into_iter().zip(heats).filter(|(_, heat)| *heat).filter_map(|(value, _)| value);
    shown.reduce(f64::max)
}

#[cfg(test)]
mod tests {
    use super::*;

    fn rested(temperature: Option<&str>, rest_for: Rest) -> (Rested, Vec<String>) {
        let root = tempfile::tempdir().unwrap();
        if let Some(text) = temperature {
            let zone = root.path().join("sys/class/thermal/thermal_zone0");
            std::fs::create_dir_all(&zone).unwrap();
            std::fs::write(zone.join("temp"), text).unwrap();
        }
        let (machine, stop) = (Machine::below(root.path()), Stop::never().unwrap());
        let mut told = Vec::new();
        let said = rest(rest_for, &machine, &stop, &mut |event| {
            told.push(format!("{event:?}"));
            Ok(())
        });
        (said.unwrap(), told)
    }

    #[test]
    fn a_machine_that_is_cool_enough_waits_for_nothing() {
        let rest = Rest { time: Nanos(0), below_c: Some(55.0), at_most: Nanos(0) };
        assert_eq!(rested(Some("54000\n"), rest), (Rested::Enough, Vec::new()));
        let (said, told) = rested(Some("71000\n"), rest);
        assert_eq!(said, Rested::StillWarm);
        assert!(told[0].contains("hottest: 71.0"), "{told:?}");
        let (said, told) = rested(None, rest);
        assert_eq!((said, told), (Rested::Enough, vec!["NoTemperature".to_owned()]));
    }
}
