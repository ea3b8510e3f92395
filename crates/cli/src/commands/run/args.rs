//! The options of `lap run`.

use crate::args::{FormatArg, OutputArgs};
use crate::lock::IfTaken;
use honest_lap_core::record::{Goal, plain_line};
use honest_lap_core::unit::{Nanos, parse_celsius, parse_share, parse_span};
use std::path::PathBuf;

/// Run laps: warm-ups, then rounds in which the variants take turns
#[derive(clap::Args, Debug)]
#[command(
    after_help = "Examples:\n  lap run                         every workload, as the study says\n  lap run --preview               only say what would be run\n  \
                        lap run dome-still --laps 10    ten counted laps of each variant of one workload\n  lap run --rig heron             say which rig this machine is\n  \
                        lap run --rig heron,wren        run these rigs from here: the study says how to reach them\n  \
                        lap run --until 1%              end early once every figure is known to 1 %\n  lap run --budget 2h             run what is least certain, for two hours\n  \
                        lap run --retest                run what would resolve the doubts about this rig\n  \
                        lap run --resume                go on where an interrupted run stood\n  \
                        lap run --wait                  begin once the session that has this machine has ended"
)]
pub struct RunArgs {
    /// Workloads to run; all of them if left out
    #[arg(value_name = "WORKLOAD")]
    pub(super) workloads: Vec<String>,
    /// The rig that this machine is, remembered for it [default: the one it was]; or rigs, with commas, that the study says
    /// how to reach: the laps are then run there
    #[arg(long, value_name = "NAME")]
    pub(super) rig: Option<String>,
    /// Run on this machine, though the study says how to reach the rig
    #[arg(long, requires = "rig")]
    pub(super) here: bool,
    /// A `lap` for rigs with another processor than this machine's; may be given several times
    #[arg(long, value_name = "FILE", requires = "rig")]
    pub(super) binary: Vec<PathBuf>,
    /// The mark of the session, where it was ordered from another machine
    #[arg(long, value_name = "MARK", value_parser = mark, hide = true)]
    pub(super) sent: Option<String>,
    /// Keep the rig's name although its system was set up anew
    #[arg(long, requires = "rig")]
    pub(super) rebuilt: bool,
    /// Counted laps of each variant [default: the study's; with --until, 30 at most]
    #[arg(long, value_name = "N", value_parser = clap::value_parser!(u32).range(1..=10_000))]
    pub(super) laps: Option<u32>,
    /// Warm-up laps of each variant [default: the study's]
    #[arg(long, value_name = "N", value_parser = clap::value_parser!(u32).range(0..=1_000))]
    pub(super) warm_up: Option<u32>,
    /// The same of one workload alone, where its session was ordered from another machine
    #[arg(long, value_name = "WORKLOAD=N", value_parser = laps_of, requires = "sent", hide = true)]
    pub(super) laps_of: Vec<(String, u32)>,
    /// End a workload at one of three announced looks once all its figures are to this precision
    #[arg(long, value_name = "SHARE", value_parser = precision)]
    pub(super) until: Option<f64>,
    /// Spend this much time, on whatever is least certain
    #[arg(long, value_name = "TIME", value_parser = budget, conflicts_with_all = ["until", "laps"])]
    pub(super) budget: Option<Nanos>,
    /// Go on with an interrupted session where it stood [default: the last one of this rig]
    #[arg(
        long,
        value_name = "SESSION",
        num_args = 0..=1,
        default_missing_value = "",
        conflicts_with_all = ["workloads", "laps", "warm_up", "until", "budget", "seed"]
    )]
    pub(super) resume: Option<String>,
    /// Run failed laps of the session again too; they stay on record
    #[arg(long, requires = "resume")]
    pub(super) again: bool,
    /// Run exactly the laps that would resolve the rig's doubts and open comparisons; of each rig that --rig names
    #[arg(long, conflicts_with_all = ["laps", "until", "budget", "resume"])]
    pub(super) retest: bool,
    /// The seed of the order, to repeat one [default: a new one]
    #[arg(long, value_name = "N")]
    pub(super) seed: Option<u64>,
    /// Room temperature, such as 21.5C, recorded with the session
    #[arg(long, value_name = "TEMPERATURE", value_parser = room)]
    pub(super) room: Option<f64>,
    /// What a part of the rig is in this session, such as memory="64 GB"; again for another
    #[arg(long = "part", value_name = "NAME=WHAT", value_parser = part)]
    pub(super) parts: Vec<(String, String)>,
    /// A remark, recorded with the session
    #[arg(long, value_name = "TEXT")]
    pub(super) remark: Option<String>,
    /// Read the machine's files below this folder instead of /, as of a simulated machine
    #[arg(long, value_name = "DIR")]
    pub(super) machine_root: Option<PathBuf>,
    /// Do not watch the machine while laps run
    #[arg(long)]
    pub(super) unwatched: bool,
    /// Wait where another session has the machine, and begin when that has ended
    #[arg(long, conflicts_with = "preview")]
    pub(super) wait: bool,
    /// Say what would be run, in which order, and how long it should take; run nothing
    #[arg(long)]
    pub(super) preview: bool,
    /// Whether a line a workload is said in place of a line a lap: the demo is not about single laps.
    #[arg(skip)]
    pub(super) brief: bool,
    #[command(flatten)]
    pub(super) output: OutputArgs,
}

fn precision(text: &str) -> Result<f64, String> {
    match parse_share(text) {
        Ok(share) if share > 0.0 && share < 1.0 => Ok(share),
        Ok(_) => Err("a precision lies above 0 % and below 100 %".to_owned()),
        Err(err) => Err(format!("{err}; {}", err.remedy)),
    }
}

fn budget(text: &str) -> Result<Nanos, String> {
    match parse_span(text) {
        Ok(Nanos(0)) => Err("that is no time at all".to_owned()),
        Ok(span) => Ok(span),
        Err(err) => Err(format!("{err}; {}", err.remedy)),
    }
}

fn mark(text: &str) -> Result<String, String> {
    let is_mark = text.len() == 32 && text.bytes().all(|byte| byte.is_ascii_hexdigit());
    if is_mark { Ok(text.to_owned()) } else { Err("it is no session's mark".to_owned()) }
}

fn laps_of(text: &str) -> Result<(String, u32), String> {
    let told = text.rsplit_once('=').and_then(|(name, laps)| Some((name, laps.parse().ok()?)));
    match told {
        Some((name, laps @ 1..)) => Ok((name.to_owned(), laps)),
        _ => Err("write the workload and how many laps: dome-still=5".to_owned()),
    }
}

fn room(text: &str) -> Result<f64, String> {
    parse_celsius(text).map_err(|err| format!("{err}; {}", err.remedy))
}

fn part(text: &str) -> Result<(String, String), String> {
    let told = text.split_once('=').map(|(name, is)| (name.trim(), is.trim()));
    match told.filter(|(name, is)| !name.is_empty() && !is.is_empty()) {
        Some((name, is)) => Ok((plain_line(name), plain_line(is))),
        None => Err("write the part and what it is: memory=\"64 GB\"".to_owned()),
    }
}

impl RunArgs {
    /// Returns the arguments with which the demo runs this machine.
    pub fn as_rig(rig: &str, workloads: &[&str], laps: u32) -> Self {
        Self {
            workloads: workloads.iter().map(|name| (*name).to_owned()).collect(),
            rig: Some(rig.to_owned()),
            here: true,
            binary: Vec::new(),
            sent: None,
            rebuilt: false,
            laps: Some(laps),
            laps_of: Vec::new(),
            warm_up: None,
            until: None,
            budget: None,
            resume: None,
            again: false,
            retest: false,
            seed: None,
            room: None,
            parts: Vec::new(),
            remark: None,
            machine_root: None,
            unwatched: false,
            wait: false,
            preview: false,
            brief: true,
            output: OutputArgs { format: FormatArg::Text },
        }
    }

    /// Returns them with another machine's sensors, and what is to be said of the session.
    pub fn on(self, machine: PathBuf, remark: &str) -> Self {
        Self { machine_root: Some(machine), remark: Some(remark.to_owned()), ..self }
    }

    /// Returns what is done where another session has the machine.
    pub(super) fn if_taken(&self) -> IfTaken {
        if self.wait { IfTaken::Wait } else { IfTaken::Refuse }
    }

    /// Returns how many laps of a workload are asked for by its name.
    pub(super) fn laps_of(&self, workload: &str) -> Option<u32> {
        self.laps_of.iter().find(|(name, _)| name == workload).map(|(_, laps)| *laps)
    }

    pub(super) fn goal(&self) -> Goal {
        match (self.until, self.budget) {
            (Some(target), _) => Goal::Until(target),
            (_, Some(budget)) => Goal::Budget(budget),
            _ => Goal::All,
        }
    }
}
