//! `lap trim`: leaves stretches out of the figures of passes; the frames stay as they are.

use crate::args::Cli;
use crate::ctx::Ctx;
use crate::cutting::CutArgs;
use crate::error::{CmdError, Exit};
use crate::study_file::read_study;
use honest_lap_core::record::{Cut, Digest, LapName};
use honest_lap_logbook::Logbook;
use honest_lap_view::number::fixed;
use honest_lap_view::table::Role;

/// Leave loading screens, menus and pauses out of the figures of passes; their frames are kept
#[derive(clap::Args, Debug)]
#[command(
    after_help = "Examples:\n  lap trim wren-1.1 --from 4.2s              leave out the beginning\n  \
                        lap trim wren-1.1 wren-1.2 --from rings    from the mark `rings` on\n  \
                        lap trim wren-1.1 --without 20s..24.5s     leave out a loading screen\n  \
                        lap trim wren-1.1 --whole                  count all of it again"
)]
pub struct TrimArgs {
    /// The passes, such as wren-1.2
    #[arg(required = true, value_name = "LAP")]
    laps: Vec<String>,
    #[command(flatten)]
    cut: CutArgs,
    /// Leave nothing out any more
    #[arg(long, conflicts_with_all = ["from", "to", "without"])]
    whole: bool,
}

pub fn run(args: &TrimArgs, cli: &Cli, ctx: &Ctx) -> Result<Exit, CmdError> {
    if args.cut.is_empty() && !args.whole {
        return Err(CmdError::request(
            "nothing says what to leave out",
            "--from 4.2s, --to 1:02, --without 20s..24s; or --whole, to leave out nothing",
        ));
    }
    let open = read_study(cli, ctx)?;
    let mut logbook = open.logbook_to_add_to(ctx)?;
    // Every pass is cut before any of it is written.
    let mut cuts = Vec::new();
    for text in &args.laps {
        cuts.push((text, checked(text, args, &logbook)?));
    }
    for (text, (name, digest)) in cuts {
        logbook.append_cut(&name, &digest, &ctx.now(), &ctx.mark()?)?;
        let sums = &digest.sums;
        let left = format!(
            "{} frames in {} s, {} fps",
            sums.frames,
            fixed(sums.time.seconds(), 1),
            fixed(sums.rate, 1)
        );
        let cut = match digest.cut.is_empty() {
            true => "nothing is left out".to_owned(),
            false => format!("cut: {}", digest.cut),
        };
        ctx.ui.say(Role::Plain, &format!("{text}: {cut}; counted are {left}"));
    }
    Ok(Exit::Done)
}

fn checked(text: &str, args: &TrimArgs, logbook: &Logbook) -> Result<(LapName, Digest), CmdError> {
    let help = "`lap frames` lists every pass";
    let missing = || CmdError::request(format!("there is no pass called `{text}`"), help);
    let name = LapName::parse(text).ok_or_else(missing)?;
    let recorded = logbook.pass(&name)?.ok_or_else(missing)?;
    let cut = match args.whole {
        true => Cut::default(),
        false => args.cut.cut(&recorded.pass, &recorded.about.marks, text)?,
    };
    let against = recorded.about.digest.against;
    let digest = Digest::of(&recorded.pass, &cut, against).ok_or_else(|| {
        CmdError::request(format!("{text}: nothing would be left of it"), "leave out less")
    })?;
    Ok((name, digest))
}
