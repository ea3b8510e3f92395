//! `lap help`: commands, pages of the guide, and keys of a study.

use crate::args::Cli;
use crate::ctx::Ctx;
use crate::error::{CmdError, Exit};
use honest_lap_study::keys::pages_of;
use honest_lap_view::guide::{PAGES, Page, in_terminal};
use std::fmt::Write;

/// Print a page of the guide, what a command takes, or what a key of a study is for
#[derive(clap::Args, Debug)]
#[command(
    after_help = "Examples:\n  lap help                     commands, and the pages of the guide\n  lap help games               a page of the guide\n  \
                        lap help compare             a command, as lap compare --help\n  lap help store init\n  \
                        lap help produces            a key of study.toml\n  lap help rig.power           where several tables have such a key"
)]
pub struct HelpArgs {
    /// A page of the guide, a command, or a key of a study
    #[arg(value_name = "TOPIC")]
    topic: Vec<String>,
}

pub fn run(args: &HelpArgs, cli: &Cli, ctx: &Ctx) -> Result<Exit, CmdError> {
    let topic = args.topic.join(" ");
    let width = ctx.ui.width();
    let text = if topic.is_empty() {
        format!("{}\n{}", command_help(cli, &[]).unwrap_or_default(), contents())
    } else if let Some(help) = command_help(cli, &args.topic) {
        help
    } else if let Some(page) = page_of(&topic) {
        in_terminal(page.text, width)
    } else {
        let pages = pages_of(&topic);
        if pages.is_empty() {
            return Err(unknown(&topic, cli));
        }
        let pages: Vec<String> = pages.iter().map(|page| in_terminal(page, width)).collect();
        pages.join("\n")
    };
    ctx.ui.print_styled(&text)?;
    Ok(Exit::Done)
}

/// Returns what `--help` of a command says; `None` where there is no such command.
fn command_help(cli: &Cli, names: &[String]) -> Option<String> {
    let whole = (cli.definition)();
    let is_one = names.iter().try_fold(&whole, |command, name| command.find_subcommand(name));
    is_one.filter(|command| !command.is_hide_set())?;
    let words = ["lap"].into_iter().chain(names.iter().map(String::as_str)).chain(["--help"]);
    let help = whole.clone().try_get_matches_from(words).err()?;
    Some(help.render().ansi().to_string())
}

/// Returns the page of the guide on `topic`, also by a word that its name begins with where no other does.
fn page_of(topic: &str) -> Option<&'static Page> {
    let topic = topic.to_lowercase().replace(' ', "-");
    let mut begins = PAGES.iter().filter(|page| page.topic.starts_with(&topic));
    let only = begins.next().filter(|_| begins.next().is_none());
    PAGES.iter().find(|page| page.topic == topic).or(only)
}

/// Returns the pages of the guide, a line each.
fn contents() -> String {
    let mut text = "The guide, page by page (lap help PAGE):\n".to_owned();
    for page in PAGES {
        let _ = writeln!(text, "  {:<28}{}", page.topic, page.title());
    }
    text + "\nKeys of study.toml: lap help KEY, such as lap help produces\n"
}

fn unknown(topic: &str, cli: &Cli) -> CmdError {
    let whole = (cli.definition)();
    let commands = whole.get_subcommands().filter(|command| !command.is_hide_set());
    let known = commands.map(clap::Command::get_name).chain(PAGES.iter().map(|page| page.topic));
    let near = known
        .map(|name| (strsim::jaro_winkler(name, topic), name))
        .filter(|(alike, _)| *alike > 0.8)
        .max_by(|a, b| a.0.total_cmp(&b.0));
    CmdError::request(
        format!("there is no help on `{topic}`"),
        match near {
            Some((_, name)) => format!("did you mean `lap help {name}`?"),
            None => "`lap help` lists commands and pages".to_owned(),
        },
    )
}
