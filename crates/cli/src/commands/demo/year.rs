//! `lap demo DIR --store ADDRESS`: a made-up year of twelve rigs, in a lab's store that is there already.

use super::recorded::record;
use crate::args::FormatArg;
use crate::ctx::Ctx;
use crate::error::{CmdError, Exit};
use crate::private_folder::PrivateFolder;
use crate::source::SourceArgs;
use crate::store_args::StoreArgs;
use crate::study_file::LOGBOOK_FILE;
use crate::working::Working;
use honest_lap_logbook::Logbook;
use honest_lap_stand_ins::recorded_year;
use honest_lap_store::{Address, Store};
use honest_lap_view::table::Role;
use honest_lap_view::words::count;
use std::path::Path;

const STUDY: &str = include_str!("../../../templates/harbour-year.toml");
/// Where the study's text names its store.
const NAMED: &str = "# store = \"postgresql://lab@host/laps\"";

pub fn run(dir: &Path, store: &str, ctx: &Ctx) -> Result<Exit, CmdError> {
    let address = StoreArgs { store: Some(store.to_owned()) }.address(None)?;
    // Reached before anything is made here.
    let working = Working::on("asking the store");
    let (mut reached, made) = Store::open_or_make(&address)?;
    drop(working);
    let hidden = Address::has_password(store) || store.contains(['"', '\\', '\n']);
    let text = match hidden {
        true => STUDY.to_owned(),
        false => STUDY.replace(NAMED, &format!("store    = \"{store}\"")),
    };
    let open = super::begin(dir, &text, ctx)?;
    let folder = PrivateFolder::new()?;
    let mut logbook = Logbook::create_or_open(&folder.path().join(LOGBOOK_FILE))?;
    let working = Working::on("making up a year of laps");
    let sessions = recorded_year::sessions();
    for session in &sessions {
        record(&open, &mut logbook, session)?;
    }
    drop(working);
    let working = Working::on("sending them");
    let agreed = reached.agree(&logbook)?;
    let sent = reached.send(&logbook, &agreed, &mut |_| {})?;
    drop(working);
    let said = if made { "made a store" } else { "found a store" };
    let what = match sent.laps {
        0 => "it has the made-up year already".to_owned(),
        laps => format!(
            "sent {} in {}: a made-up year of twelve rigs",
            count(laps, "lap"),
            count(sent.sessions, "session")
        ),
    };
    let line = format!("{said} ({}); {what}", address.shown());
    ctx.ui.say(Role::Heading, &line);
    ctx.ui.say(Role::Plain, "");
    let source = SourceArgs::of(store);
    ctx.ui.print(&super::super::compare::everything_of(&source, &open, ctx)?, FormatArg::Text)?;
    ctx.ui.say(Role::Plain, "");
    ctx.ui.say(Role::Heading, &format!("To try next: cd {}", dir.display()));
    // A study names no store whose address holds a password.
    let (judged, joined) = if hidden { ("=ADDRESS", " --store ADDRESS") } else { ("", "") };
    for (command, what) in [
        (format!("compare dome-still --with threads=2 --store{judged}"), "one table, twelve rigs"),
        (format!("doubts --store{judged}"), "what may mislead"),
        (format!("sync{joined}"), "take all of it home"),
    ] {
        ctx.ui.say(Role::Plain, &format!("  lap {command:48} {what}"));
    }
    Ok(Exit::Done)
}
