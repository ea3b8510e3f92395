//! Several rigs at once, from the first call to what their laps say.

use super::super::result::print_result;
use super::rig::{Prepared, Rig};
use super::screen::Screen;
use super::seat::{Seat, Sent};
use crate::args::FormatArg;
use crate::ctx::Ctx;
use crate::error::{CmdError, Exit};
use crate::joining::new_keys;
use crate::stop_signals::stop_on_signals;
use crate::study_file::OpenStudy;
use honest_lap_view::table::Role;

/// Drives the rigs until all are over, and prints what their laps say.
pub fn drive(
    prepared: Vec<Prepared>,
    sent: &Sent,
    open: &OpenStudy,
    format: FormatArg,
    ctx: &Ctx,
) -> Result<Exit, CmdError> {
    let stop = stop_on_signals()?;
    let logbook = open.logbook_to_write(ctx)?;
    let known = logbook.signers()?;
    let rigs: Vec<Rig> = prepared.into_iter().map(Rig::new).collect();
    for rig in &rigs {
        rig.files.note(&rig.away)?;
    }
    let names = rigs.iter().map(|rig| rig.away.rig.clone()).collect();
    let screen = Screen::new(names, ctx);
    let mut seat = Seat { rigs, screen, logbook, sent, open, ctx, asked: 0 };
    for group in groups(&seat.rigs) {
        seat.drive_group(&group, &stop)?;
    }
    let Seat { rigs, screen, logbook, asked, .. } = seat;
    drop(screen);
    let mut new = logbook.signers()?;
    new.retain(|key, _| !known.contains_key(key));
    new_keys(&new, open, ctx)?;
    let marked = rigs.iter().map(|rig| logbook.session_marked(&rig.away.order.mark));
    let marked = marked.collect::<Result<Vec<_>, _>>()?;
    let mut names = Vec::new();
    for session in marked.into_iter().flatten() {
        if !logbook.laps_of(&session.name)?.is_empty() {
            names.push(session.name);
        }
    }
    if !names.is_empty() {
        print_result(&names, &logbook, &open.study, format, ctx)?;
        ctx.ui.say(Role::Quiet, "next: lap compare");
    }
    let worst = rigs.iter().map(|rig| rig.exit).max_by_key(|exit| *exit as u8);
    Ok(if asked > 0 { Exit::Measurement } else { worst.unwrap_or(Exit::Done) })
}

/// Returns which rigs are run at once: all that may be, then each that is run apart.
///
/// What is already running there is only listened to, whoever else is.
fn groups(rigs: &[Rig]) -> Vec<Vec<usize>> {
    let alone = |rig: &Rig| rig.away.apart && (!rig.away.arrived || rig.away.cut);
    let (apart, together): (Vec<usize>, Vec<usize>) =
        (0..rigs.len()).partition(|&at| alone(&rigs[at]));
    let mut groups: Vec<Vec<usize>> =
        [together].into_iter().filter(|all| !all.is_empty()).collect();
    groups.extend(apart.into_iter().map(|rig| vec![rig]));
    groups
}
