//! A keyboard stopwatch.

use super::screen::{From, Screen};
use crate::by_hand::HandLap;
use crate::error::CmdError;
use honest_lap_core::entry::{Clocked, Press, REACTION_STEP, Stopwatch, Told};
use honest_lap_core::record::{Better, Reading, SECONDS, Workload};
use honest_lap_core::unit::{Nanos, Stamp, display_span};
use honest_lap_logbook::Logbook;
use honest_lap_measure::Key;
use honest_lap_view::table::Role;
use honest_lap_view::words::time_read;

/// How often the running time is shown.
const REFRESH: Nanos = Nanos(100_000_000);

/// Times laps until it is ended; one under way then is given up, and on record as such.
pub fn run(
    screen: &mut Screen<'_>,
    (keys, stop): From<'_>,
    logbook: &mut Logbook,
) -> Result<(), CmdError> {
    let step = display_span(REACTION_STEP);
    screen.say(
        Role::Quiet,
        &format!("blank starts and stops, s splits, f failed, v voids, q ends; known to {step}"),
    );
    let mut watch = Stopwatch::default();
    loop {
        let (press, at) = match keys.wait(REFRESH, stop) {
            Key::None => {
                show(screen, watch.running(honest_lap_measure::now()));
                continue;
            }
            Key::Pressed(b' ' | b'\n' | b'\r', at) => (Press::Go, at),
            Key::Pressed(b's', at) => (Press::Split, at),
            Key::Pressed(b'v', at) => (Press::Void, at),
            Key::Pressed(b'f', at) => (Press::Failed, at),
            // Ctrl-D and Ctrl-C too, where the terminal hands them on.
            Key::Pressed(b'q' | 3 | 4, at) => return give_up(screen, &mut watch, at, logbook),
            Key::Pressed(..) => continue,
            Key::End => return give_up(screen, &mut watch, honest_lap_measure::now(), logbook),
        };
        let said = watch.press(press, at);
        told(screen, &said, logbook)?;
    }
}

fn shown(time: Nanos) -> String {
    time_read(time, Some(REACTION_STEP))
}

fn show(screen: &Screen<'_>, running: Option<Nanos>) {
    let seconds = running.map(|span| format!("{:.1} s", span.seconds()));
    screen.show(seconds.unwrap_or_else(|| "ready".to_owned()));
}

/// Gives up the lap under way, if there is one.
fn give_up(
    screen: &mut Screen<'_>,
    watch: &mut Stopwatch,
    at: Stamp,
    logbook: &mut Logbook,
) -> Result<(), CmdError> {
    if watch.running(at).is_some() {
        let said = watch.press(Press::Void, at);
        told(screen, &said, logbook)?;
    }
    Ok(())
}

fn told(screen: &mut Screen<'_>, told: &Told, logbook: &mut Logbook) -> Result<(), CmdError> {
    match told {
        Told::Started | Told::Nothing => {}
        Told::Split(part) => {
            screen.say(Role::Quiet, &format!("  split after {}", shown(*part)));
        }
        Told::Stopped(clocked) => {
            let readings = parts(screen.workload, clocked);
            let time = Some((clocked.time, REACTION_STEP));
            let lap = HandLap::read(screen.workload, screen.settings, time, readings, screen.ctx);
            let name = screen.write(&lap, logbook)?;
            screen.say(Role::Plain, &format!("{name}  {}", shown(clocked.time)));
            screen.last = Some(name);
        }
        Told::GivenUp(time) => {
            let lap = HandLap::given_up(screen.workload, screen.settings, *time, screen.ctx);
            let name = screen.write(&lap, logbook)?;
            screen.say(Role::Open, &format!("{name}  given up"));
        }
        Told::Failed(time) => {
            let lap = HandLap::failed(screen.workload, screen.settings, *time, screen.ctx);
            let name = screen.write(&lap, logbook)?;
            screen.say(Role::Worse, &format!("{name}  failed"));
        }
        Told::VoidLast => {
            screen.void_last(logbook)?;
        }
    }
    Ok(())
}

/// Returns the parts of a lap as readings: by the study's names, or numbered.
fn parts(workload: &Workload, clocked: &Clocked) -> Vec<Reading> {
    let named = workload.task.splits.as_ref().map(|splits| splits.parts.as_slice());
    let name = |place: usize| match named {
        Some(parts) if parts.len() == clocked.parts.len() => parts[place].part.clone(),
        _ => format!("part-{}", place + 1),
    };
    let reading = |(place, time): (usize, &Nanos)| Reading {
        name: name(place),
        unit: SECONDS.to_owned(),
        better: Better::Less,
        value: Some(time.seconds()),
        step: Some(REACTION_STEP.seconds()),
        seen: String::new(),
        reports_time: false,
    };
    clocked.parts.iter().enumerate().map(reading).collect()
}
