//! A search for a load: the tool names one, a person runs it and says what came of it.

use super::screen::{From, Screen};
use crate::error::CmdError;
use crate::hand_search::HandSearch;
use crate::study_file::OpenStudy;
use honest_lap_core::capacity::SearchLap;
use honest_lap_core::record::LoadOutcome;
use honest_lap_core::unit::Nanos;
use honest_lap_logbook::Logbook;
use honest_lap_measure::Key;
use honest_lap_view::table::Role;

/// How often the load is shown again.
const REFRESH: Nanos = Nanos(500_000_000);

/// Names loads until the edge is known, or it is ended.
pub fn run(
    screen: &mut Screen<'_>,
    (keys, stop): From<'_>,
    open: &OpenStudy,
    logbook: &mut Logbook,
) -> Result<(), CmdError> {
    let mut search = HandSearch::of(screen.workload, screen.settings.clone())?;
    search.resume(open, logbook, (screen.rig, None), screen.ctx)?;
    screen.say(
        Role::Quiet,
        "h it held, s it worked with breaks, b it broke, v voids the last, q ends",
    );
    while let Some(place) = search.next() {
        let load = search.named(place);
        let came = match keys.wait(REFRESH, stop) {
            Key::None => {
                screen.show(format!("try {load}"));
                continue;
            }
            Key::Pressed(b'h', _) => LoadOutcome::Held,
            Key::Pressed(b's', _) => LoadOutcome::Strained,
            Key::Pressed(b'b', _) => LoadOutcome::Broke,
            Key::Pressed(b'v', _) => {
                if screen.void_last(logbook)? {
                    search.tried.pop();
                }
                continue;
            }
            // Ctrl-D and Ctrl-C too, where the terminal hands them on.
            Key::Pressed(b'q' | 3 | 4, _) | Key::End => return Ok(()),
            Key::Pressed(..) => continue,
        };
        let lap = search.lap(place, came, screen.ctx);
        let name = screen.write(&lap, logbook)?;
        screen.say(Role::Plain, &format!("{name}  {load} {}", came.word()));
        screen.last = Some(name);
        search.tried.push(SearchLap { at: place, came });
    }
    let next = format!("the edge is known: lap compare {}", screen.workload.name);
    screen.say(Role::Quiet, &next);
    Ok(())
}
