//! `lap sync`: joins this study's logbook and the lab's store.

use super::run::collect;
use crate::args::Cli;
use crate::ctx::Ctx;
use crate::error::{CmdError, Exit};
use crate::joining::{JoinArgs, join, merged_words, new_keys};
use crate::private_folder::PrivateFolder;
use crate::store_args::StoreArgs;
use crate::study_file::{LOGBOOK_FILE, read_study};
use crate::working::Working;
use honest_lap_core::record::SessionName;
use honest_lap_logbook::{Logbook, Merged};
use honest_lap_store::{Address, Agreed, Depth, Step, Store, Synced};
use honest_lap_view::table::Role;
use honest_lap_view::words::{count, listed_in_short};
use indicatif::{ProgressBar, ProgressStyle};

/// Join this logbook and the lab's store: each takes what it lacks; again changes nothing
#[derive(clap::Args, Debug)]
#[command(
    after_help = "Examples:\n  lap sync                                         the store that the study names\n  \
                        lap sync --store postgresql://heron@host/laps    another one\n  \
                        lap sync --preview                               what would go and come; nothing does\n\n\
                        Every session is sealed, and the store checks each seal itself. What differs under one\n\
                        session is refused on both sides and named. Whatever ends it, the next call goes on."
)]
pub struct SyncArgs {
    #[command(flatten)]
    store: StoreArgs,
    #[command(flatten)]
    join: JoinArgs,
    /// Say what would be sent and fetched, and do neither
    #[arg(long)]
    preview: bool,
}

/// Sessions that are fetched into one file, which is checked and joined before the next.
const MOST_SESSIONS: usize = 1_000;

pub fn run(args: &SyncArgs, cli: &Cli, ctx: &Ctx) -> Result<Exit, CmdError> {
    let open = read_study(cli, ctx)?;
    // What rigs still have of this study comes home first, and then goes on to the store.
    let collected = if args.preview { None } else { collect(&open, ctx)? };
    if let Some(exit) = collected.filter(|_| !args.store.is_any(open.study.store.as_deref())) {
        return Ok(exit);
    }
    let address = args.store.address(open.study.store.as_deref())?;
    let working = Working::on("asking the store");
    let (mut store, made) = match args.preview {
        true => (Store::open(&address)?, false),
        false => Store::open_or_make(&address)?,
    };
    let mut logbook = match args.preview {
        true => Logbook::open(&open.logbook())?,
        false => open.logbook_to_write(ctx)?,
    };
    let agreed = store.agree(&logbook)?;
    drop(working);
    if made {
        ctx.ui.say(Role::Plain, &format!("made a store: {}", address.shown()));
    }
    if args.preview {
        preview(&agreed, &logbook, ctx)?;
        return Ok(said_apart(&agreed, ctx));
    }
    let bar = bar();
    let sent = store.send(&logbook, &agreed, &mut |step| show(&bar, step));
    bar.finish_and_clear();
    ctx.ui.say(Role::Plain, &format!("sent: {}", sent_words(&sent?)));
    let known = logbook.signers()?;
    let fetched = fetch(args, (&address, &mut store), &mut logbook, &agreed, ctx)?;
    ctx.ui.say(Role::Plain, &format!("fetched: {}", merged_words(&fetched)));
    let mut new = logbook.signers()?;
    new.retain(|key, _| !known.contains_key(key));
    new_keys(&new, &open, ctx)?;
    // What a machine is called from now on was said just now, and is everyone's.
    let again = store.agree(&logbook)?;
    let called = Agreed { remarks_to_send: again.remarks_to_send, ..Agreed::default() };
    store.send(&logbook, &called, &mut |_| {})?;
    Ok(said_apart(&agreed, ctx))
}

fn bar() -> ProgressBar {
    let bar = ProgressBar::new(0);
    let look = ProgressStyle::with_template("{msg} {human_pos} of {human_len} · {elapsed}");
    bar.set_style(look.expect("the template above is well formed"));
    bar
}

fn show(bar: &ProgressBar, step: Step) {
    let (what, done, of) = match step {
        Step::Sent(done, of) => ("sending: lap", done, of),
        Step::Fetched(done, of) => ("fetching: session", done, of),
    };
    bar.set_message(what);
    bar.set_length(of as u64);
    bar.set_position(done as u64);
}

/// Fetches what is not here, some sessions at a time; each time what came is checked like any stranger's logbook.
fn fetch(
    args: &SyncArgs,
    (address, store): (&Address, &mut Store),
    logbook: &mut Logbook,
    agreed: &Agreed,
    ctx: &Ctx,
) -> Result<Merged, CmdError> {
    let mut all = Merged::default();
    if agreed.fetches_nothing() {
        return Ok(all);
    }
    let shown = format!("the store ({})", address.shown());
    let mut parts: Vec<&[String]> = agreed.to_fetch.chunks(MOST_SESSIONS).collect();
    if parts.is_empty() {
        // Remarks alone.
        parts.push(&[]);
    }
    for marks in parts {
        let folder = PrivateFolder::new()?;
        let file = folder.path().join(LOGBOOK_FILE);
        let bar = bar();
        let came = store.fetch(marks, Depth::Whole, &file, &mut |step| show(&bar, step));
        bar.finish_and_clear();
        came?;
        let working = Working::on("checking what came");
        let merged = join(&args.join, (&file, &shown), folder.path(), logbook, false, ctx)?;
        drop(working);
        all.sessions += merged.sessions;
        all.laps += merged.laps;
        all.remarks += merged.remarks;
    }
    Ok(all)
}

fn preview(agreed: &Agreed, logbook: &Logbook, ctx: &Ctx) -> Result<(), CmdError> {
    let mut laps = 0;
    for part in &agreed.to_send {
        laps += logbook.laps_above(&part.mark, part.from.saturating_sub(1))?.len();
    }
    let sessions = agreed.to_send.iter().filter(|part| part.from == 0).count();
    let sent = Synced { sessions, laps, remarks: agreed.remarks_to_send.len() };
    ctx.ui.say(Role::Plain, &format!("would be sent: {}", sent_words(&sent)));
    let fetched = match (agreed.to_fetch.len(), agreed.remarks_to_fetch) {
        (0, 0) => "nothing new".to_owned(),
        (sessions, 0) => count(sessions, "session"),
        (0, remarks) => count(remarks, "remark"),
        (sessions, remarks) => {
            format!("{}, {}", count(sessions, "session"), count(remarks, "remark"))
        }
    };
    ctx.ui.say(Role::Plain, &format!("would be fetched: {fetched}"));
    ctx.ui.say(Role::Quiet, "nothing was recorded");
    Ok(())
}

fn sent_words(sent: &Synced) -> String {
    let Synced { sessions, laps, remarks } = *sent;
    merged_words(&Merged { sessions, laps, remarks })
}

/// Says what neither went nor came, and why; returns the exit status.
fn said_apart(agreed: &Agreed, ctx: &Ctx) -> Exit {
    let names = |sessions: &[SessionName]| {
        let names: Vec<String> = sessions.iter().map(ToString::to_string).collect();
        listed_in_short(&names)
    };
    let say = |label: &str, text: String| ctx.ui.say_labelled(label, Role::Open, &text);
    for (session, number) in &agreed.parted {
        let what = format!(
            "{session} went on in two ways behind its lap {number}: neither side was touched"
        );
        ctx.ui.say_labelled("refused", Role::Failed, &what);
    }
    if !agreed.unchecked.is_empty() {
        say(
            "not sent",
            format!(
                "{}: sealed by a version before 0.2, which the store cannot check",
                names(&agreed.unchecked)
            ),
        );
    }
    if !agreed.forbidden.is_empty() {
        say(
            "not sent",
            format!("{}: this login may not write sessions of that rig", names(&agreed.forbidden)),
        );
    }
    if agreed.remarks_forbidden > 0 {
        let what =
            format!("{}: this login may not add them", count(agreed.remarks_forbidden, "remark"));
        say("not sent", what);
    }
    let apart = agreed.parted.len() + agreed.unchecked.len() + agreed.forbidden.len();
    if apart + agreed.remarks_forbidden > 0 { Exit::No } else { Exit::Done }
}
