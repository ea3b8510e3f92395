//! Values that a person reads off a screen, typed in lap by lap.

use super::screen::{From, Screen};
use crate::by_hand::HandLap;
use crate::error::CmdError;
use crate::study_file::OpenStudy;
use honest_lap_core::entry::{Entry, Grid, Wishes, read_sheet};
use honest_lap_core::unit::Nanos;
use honest_lap_logbook::Logbook;
use honest_lap_measure::Key;
use honest_lap_view::table::Role;

/// How often what was typed is shown again.
const REFRESH: Nanos = Nanos(500_000_000);
/// What deletes the last character.
const BACKSPACE: [u8; 2] = [8, 127];

/// Takes values until it is ended.
pub fn run(
    screen: &mut Screen<'_>,
    (keys, stop): From<'_>,
    open: &OpenStudy,
    logbook: &mut Logbook,
) -> Result<(), CmdError> {
    let measures = screen.workload.task.measures().into_iter().map(|measure| measure.name);
    let measures: Vec<String> = measures.collect();
    screen.say(
        Role::Quiet,
        &format!(
            "type {} and Enter, f for a try that failed, v voids the last, q ends",
            measures.join(" and ")
        ),
    );
    let mut typed = String::new();
    loop {
        screen.show(format!("{}: {typed}", measures.join(", ")));
        match keys.wait(REFRESH, stop) {
            Key::None => {}
            Key::Pressed(b'\n' | b'\r', _) if !typed.trim().is_empty() => {
                write(screen, &measures, &typed, open, logbook)?;
                typed.clear();
            }
            Key::Pressed(b'f', _) if typed.is_empty() => {
                write(screen, &measures, "failed", open, logbook)?;
            }
            Key::Pressed(b'v', _) if typed.is_empty() => {
                screen.void_last(logbook)?;
            }
            // Ctrl-D and Ctrl-C too, where the terminal hands them on.
            Key::Pressed(b'q' | 3 | 4, _) | Key::End => return Ok(()),
            Key::Pressed(key, _) if BACKSPACE.contains(&key) => drop(typed.pop()),
            Key::Pressed(key, _) if key.is_ascii_graphic() || key == b' ' => {
                typed.push(char::from(key));
            }
            Key::Pressed(..) => {}
        }
    }
}

/// Writes down what was typed as one lap, or says what is wrong with it.
fn write(
    screen: &mut Screen<'_>,
    measures: &[String],
    typed: &str,
    open: &OpenStudy,
    logbook: &mut Logbook,
) -> Result<(), CmdError> {
    let values: Vec<String> = match typed {
        "failed" => measures.iter().map(|_| typed.to_owned()).collect(),
        _ => typed.split_whitespace().map(str::to_owned).collect(),
    };
    if values.len() != measures.len() {
        let line =
            format!("not written down: there is to be a value of {}", measures.join(" and "));
        screen.say(Role::Worse, &line);
        return Ok(());
    }
    let wishes = Wishes {
        rig: Some(screen.rig.to_owned()),
        workload: Some(screen.workload.name.clone()),
        settings: screen.settings.iter().map(|(k, v)| (k.to_owned(), v.to_owned())).collect(),
        recorded: vec![screen.rig.to_owned()],
        ..Wishes::default()
    };
    let grid = Grid::new(vec![measures.to_vec(), values]);
    let entry: Entry = match read_sheet(&grid, &open.study, &wishes) {
        Ok(sheet) if sheet.entries.len() == 1 => sheet.entries.into_iter().next().expect("one"),
        Ok(_) => return Ok(()),
        Err(mistakes) => {
            let said = mistakes.first().map(|one| format!("{}; {}", one.problem, one.remedy));
            screen.say(Role::Worse, &format!("not written down: {}", said.unwrap_or_default()));
            return Ok(());
        }
    };
    let lap = HandLap::entered(&entry, &open.study, screen.ctx);
    let name = screen.write(&lap, logbook)?;
    screen.say(Role::Plain, &format!("{name}  {typed}"));
    screen.last = Some(name);
    Ok(())
}
