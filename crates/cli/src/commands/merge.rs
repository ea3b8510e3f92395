//! `lap merge`: joins the logbooks of other rigs into this study's.

use crate::args::Cli;
use crate::ctx::Ctx;
use crate::error::{CmdError, Exit};
use crate::joining::{JoinArgs, join, merged_words, new_keys};
use crate::private_folder::PrivateFolder;
use crate::study_file::{LOGBOOK_FILE, read_study};
use crate::working::Working;
use honest_lap_logbook::Merged;
use honest_lap_view::table::Role;
use std::path::PathBuf;

/// Join the logbooks of other rigs into this study's; nothing is lost and importing again changes nothing
#[derive(clap::Args, Debug)]
#[command(
    after_help = "Examples:\n  lap merge ../from-wren/logbook.db            a logbook that was brought home\n  \
                        lap merge /media/stick/*/logbook.db          several at once\n  \
                        lap merge ../other --call heron=heron-b      its heron is another machine than ours\n  \
                        lap merge ../other --same heron              its heron is ours, set up anew\n  \
                        lap merge ../other --preview                 what would come in; nothing does"
)]
pub struct MergeArgs {
    /// Logbooks, or folders that hold one
    #[arg(required = true, value_name = "FILE")]
    files: Vec<PathBuf>,
    #[command(flatten)]
    join: JoinArgs,
    /// Say what would come in, and import nothing
    #[arg(long)]
    preview: bool,
}

pub fn run(args: &MergeArgs, cli: &Cli, ctx: &Ctx) -> Result<Exit, CmdError> {
    let open = read_study(cli, ctx)?;
    if args.preview && !open.logbook().exists() {
        return Err(CmdError::request(
            "there is no logbook yet: everything would come in",
            "lap merge FILE takes it in; `lap verify` there says what it holds",
        ));
    }
    let mut logbook = open.logbook_to_write(ctx)?;
    let mut all = Merged::default();
    let known = logbook.signers()?;
    for file in &args.files {
        let path = ctx.folder.join(file);
        let path = if path.is_dir() { path.join(LOGBOOK_FILE) } else { path };
        if !path.exists() {
            return Err(CmdError::request(
                format!("there is no logbook at {}", path.display()),
                "name the file that was brought home, or the folder that holds it",
            ));
        }
        let shown = path.display().to_string();
        let working = Working::on(&format!("checking and joining {shown}"));
        let folder = PrivateFolder::new()?;
        let merged =
            join(&args.join, (&path, &shown), folder.path(), &mut logbook, args.preview, ctx)?;
        drop(working);
        let shown = file.display();
        ctx.ui.say(Role::Plain, &format!("{shown}: {}", merged_words(&merged)));
        all.sessions += merged.sessions;
        all.laps += merged.laps;
        all.remarks += merged.remarks;
    }
    if args.files.len() > 1 {
        ctx.ui.say(Role::Plain, &format!("in all: {}", merged_words(&all)));
    }
    if !args.preview {
        let mut new = logbook.signers()?;
        new.retain(|key, _| !known.contains_key(key));
        new_keys(&new, &open, ctx)?;
    }
    let next = if args.preview { "nothing was recorded" } else { "next: lap compare" };
    ctx.ui.say(Role::Quiet, next);
    Ok(Exit::Done)
}
