//! What `lap enter` says of a table: mistakes with their cells, and how the rest was understood.

use super::{EnterArgs, place as place_of};
use crate::ctx::Ctx;
use crate::error::CmdError;
use honest_lap_core::entry::{Mistake, Sheet, Understood};
use honest_lap_core::unit::display_span;
use honest_lap_view::table::Role;
use honest_lap_view::words::count;

/// Mistakes and ways of reading that are told one by one; more of them are counted.
const MOST_TOLD: usize = 12;

/// Returns the error of everything that is wrong.
pub(super) fn mistaken(mistakes: &[Mistake], args: &EnterArgs) -> CmdError {
    let told = |mistake: &Mistake| {
        let also = match mistake.also {
            0 => String::new(),
            also => format!("; {} below it alike", count(also, "cell")),
        };
        format!("{}: {}{also}", place_of(args, mistake.place), mistake.problem)
    };
    match mistakes {
        [only] => CmdError::request(format!("{}; nothing was recorded", told(only)), &only.remedy),
        several => {
            let all = several.iter().map(|m| m.also + 1).sum();
            let problem = format!("{}; nothing was recorded", count(all, "mistake"));
            let mut lines = Vec::new();
            for mistake in several.iter().take(MOST_TOLD) {
                lines.push(format!("  {}", told(mistake)));
                lines.push(format!("      {}", mistake.remedy));
            }
            if several.len() > MOST_TOLD {
                lines.push(format!("  and {} more", several.len() - MOST_TOLD));
            }
            CmdError::several(
                problem,
                lines,
                "nothing of the table is recorded until all of it can be read; --preview tries it",
            )
        }
    }
}

/// Says how what could be meant otherwise was understood, and what was left out.
pub(super) fn understood(sheet: &Sheet, args: &EnterArgs, ctx: &Ctx) {
    let say = |line: &str| ctx.ui.say(Role::Quiet, line);
    for one in sheet.understood.iter().take(MOST_TOLD) {
        let Understood { place, seen, time } = one;
        let span = display_span(*time);
        match args.table {
            Some(_) => say(&format!("{place}: {seen} is read as {span}")),
            None => say(&format!("{seen} is read as {span}")),
        }
    }
    if !sheet.left_out.is_empty() {
        say(&format!("not read: {}", sheet.left_out.join(", ")));
    }
    if !sheet.sums.is_empty() {
        say(&format!("not read, worked out from others: {}", sheet.sums.join(", ")));
    }
    if sheet.nothing > 0 {
        say(&format!("{} without a result", count(sheet.nothing, "cell")));
    }
}
