//! `lap store`: the lab's store itself, and who may do what in it.

use crate::args::Cli;
use crate::ctx::Ctx;
use crate::error::{CmdError, Exit};
use crate::store_args::StoreArgs;
use crate::study_file::read_study;
use honest_lap_store::{Access, Address, Store};
use honest_lap_view::table::Role;

/// Make the lab's store, and say who may do what in it
#[derive(clap::Args, Debug)]
#[command(
    after_help = "Examples:\n  lap store init --store postgresql://keeper@host/laps    in an empty database\n  \
                        lap store allow heron --rig heron          heron's login sends its sessions\n  \
                        lap store allow ada --any-rig --remarks    Ada sends all, and remarks\n  \
                        lap store allow press --reads              reads, and nothing else\n  \
                        lap store                                  who may do what"
)]
pub struct StoreCommandArgs {
    #[command(subcommand)]
    what: Option<What>,
    #[command(flatten)]
    store: StoreArgs,
}

#[derive(clap::Subcommand, Debug)]
enum What {
    /// Make the store in an empty database, and the groups that logins are put into
    Init(InitArgs),
    /// Let a login of the server send sessions, add remarks, or read
    Allow(AllowArgs),
}

#[derive(clap::Args, Debug)]
struct InitArgs {
    #[command(flatten)]
    store: StoreArgs,
}

#[derive(clap::Args, Debug)]
struct AllowArgs {
    /// The login, a role of the server
    #[arg(value_name = "LOGIN")]
    login: String,
    /// It may send sessions of this rig, and no other unless named too
    #[arg(long = "rig", value_name = "RIG")]
    rigs: Vec<String>,
    /// It may send sessions of every rig
    #[arg(long)]
    any_rig: bool,
    /// It may add remarks: notes, laps set aside
    #[arg(long)]
    remarks: bool,
    /// It may read, and nothing else
    #[arg(long, conflicts_with_all = ["rigs", "any_rig", "remarks"])]
    reads: bool,
    #[command(flatten)]
    store: StoreArgs,
}

pub fn run(args: &StoreCommandArgs, cli: &Cli, ctx: &Ctx) -> Result<Exit, CmdError> {
    match &args.what {
        Some(What::Init(of)) => init(&address(&[&of.store, &args.store], cli, ctx)?, ctx),
        Some(What::Allow(of)) => allow(of, &address(&[&of.store, &args.store], cli, ctx)?, ctx),
        None => show(&address(&[&args.store], cli, ctx)?, ctx),
    }
}

/// Returns the store that is meant: a store can be made, and looked at, where there is no study.
fn address(said: &[&StoreArgs], cli: &Cli, ctx: &Ctx) -> Result<Address, CmdError> {
    if let Some(named) = said.iter().find(|args| args.store.is_some()) {
        return named.address(None);
    }
    let study = read_study(cli, ctx).ok().and_then(|open| open.study.store);
    StoreArgs { store: None }.address(study.as_deref())
}

fn init(address: &Address, ctx: &Ctx) -> Result<Exit, CmdError> {
    let (mut store, made) = Store::open_or_make(address)?;
    store.make_groups()?;
    let shown = address.shown();
    let said = match made {
        true => format!("made a store: {shown}"),
        false => format!("a store was there: {shown}"),
    };
    ctx.ui.say(Role::Plain, &said);
    ctx.ui.say(Role::Quiet, "next: lap store allow LOGIN --rig RIG, then lap sync there");
    Ok(Exit::Done)
}

fn allow(args: &AllowArgs, address: &Address, ctx: &Ctx) -> Result<Exit, CmdError> {
    if args.rigs.is_empty() && !args.any_rig && !args.remarks && !args.reads {
        return Err(CmdError::request(
            format!("nothing is said that {} may do", args.login),
            "say it: --rig RIG, --any-rig, --remarks, or --reads",
        ));
    }
    let mut rigs = args.rigs.clone();
    if args.any_rig {
        rigs = vec!["*".to_owned()];
    }
    let access = Access { role: args.login.clone(), rigs, remarks: args.remarks };
    let mut store = Store::open(address)?;
    store.allow(&access)?;
    ctx.ui.say(Role::Plain, &format!("{} {}", access.role, may(&access)));
    Ok(Exit::Done)
}

fn show(address: &Address, ctx: &Ctx) -> Result<Exit, CmdError> {
    let mut store = Store::open(address)?;
    let all = store.accesses()?;
    ctx.ui.say(Role::Quiet, &address.shown());
    let width = all.iter().map(|access| access.role.len()).max().unwrap_or(0);
    for access in &all {
        ctx.ui.say(Role::Plain, &format!("{:width$}  {}", access.role, may(access)));
    }
    ctx.ui.say(Role::Quiet, "every login that was allowed anything reads; others are not let in");
    Ok(Exit::Done)
}

fn may(access: &Access) -> String {
    let sends = match access.rigs.as_slice() {
        [] => None,
        rigs if rigs.iter().any(|rig| rig == "*") => Some("sends sessions of every rig".to_owned()),
        rigs => Some(format!("sends sessions of {}", rigs.join(", "))),
    };
    let remarks = access.remarks.then(|| "adds remarks".to_owned());
    let all: Vec<String> = sends.into_iter().chain(remarks).chain(["reads".to_owned()]).collect();
    all.join(", ")
}
