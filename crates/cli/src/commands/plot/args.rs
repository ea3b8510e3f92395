//! What `lap plot` may be asked for.

use crate::change::ChangeArgs;
use crate::choice::ChoiceArgs;
use crate::commands::compare::{across, setting};
use crate::error::CmdError;
use honest_lap_core::analysis::Across;
use honest_lap_draw::Drawing;
use honest_lap_view::figure::Over;
use std::path::PathBuf;

/// Draw figures: sorted bars, laps as they were run, frame times, the index, a change
#[derive(clap::Args, Debug)]
#[command(
    after_help = "Examples:\n  lap plot                                   bars of every workload, as SVG\n  \
                        lap plot catalogue-build --out build.png   those of one, as PNG\n  \
                        lap plot dome-still --with threads=2 --across rigs --out still.svg\n  \
                        lap plot dome-still --figure laps          every lap in order, and what the machine did\n  \
                        lap plot --figure overview                 all workloads and rigs in one grid\n  lap plot --figure overall --dark           the index with its parts, on a dark ground\n  \
                        lap plot --across threads                  what a setting gains on every rig\n  \
                        lap plot --figure sweep --across threads   the rate over a setting, and the paper peaks\n  \
                        lap plot sky-layers --figure loads         what holds at which load, and the edge\n  \
                        lap plot night-shift --figure rate         the rate over hours, and what the machine did\n  \
                        lap plot heron-1.3 --figure conditions     what the machine did over one lap\n  \
                        lap plot --figure worth --over power       work over power, the unbeaten rigs joined\n  \
                        lap plot --before heron-1 --after heron-2  what a change brought\n  \
                        lap plot fly-through --figure passes       frame times over the pass\n  \
                        lap plot heron kestrel --figure passes --out two.svg    two rigs side by side\n  \
                        lap plot fly-through --figure tail         how slow the slowest frames are"
)]
pub struct PlotArgs {
    /// Workloads and rigs; of passes also sessions and laps; of conditions laps. Everything if left out
    #[arg(value_name = "NAME")]
    pub(super) names: Vec<String>,
    /// What is drawn [default: bars; of a change, change; across a setting, gain]
    #[arg(long, value_enum, value_name = "FIGURE")]
    pub(super) figure: Option<Figure>,
    /// Bars of rigs, or of variants on each rig [default: both]; or what a setting gains on every rig
    #[arg(long, value_name = "rigs|variants|SETTING", value_parser = across)]
    pub(super) across: Option<Across>,
    /// Only variants with this setting, such as threads=2
    #[arg(long = "with", value_name = "SETTING=VALUE", value_parser = setting)]
    pub(super) with: Vec<(String, String)>,
    /// Draw this measure only, such as time or a score's name [default: all that are compared]
    #[arg(long, value_name = "MEASURE")]
    pub(super) measure: Vec<String>,
    #[command(flatten)]
    pub(super) change: ChangeArgs,
    #[command(flatten)]
    pub(super) choice: ChoiceArgs,
    /// What work is held against
    #[arg(long, value_enum, value_name = "WHAT", default_value_t = OverArg::Price)]
    pub(super) over: OverArg,
    /// Draw on a dark ground
    #[arg(long)]
    pub(super) dark: bool,
    /// The file to write, .svg or .png, where there is one figure [default: NAME-FIGURE.svg]
    #[arg(long, value_name = "FILE")]
    pub(super) out: Option<PathBuf>,
}

/// What work is held against.
#[derive(clap::ValueEnum, Clone, Copy, Debug, PartialEq, Eq)]
pub enum OverArg {
    /// What a rig costs
    Price,
    /// What it draws while it works, in the mean
    Power,
}

impl OverArg {
    pub(super) fn over(self) -> Over {
        match self {
            Self::Price => Over::Price,
            Self::Power => Over::Power,
        }
    }
}

/// A figure.
#[derive(clap::ValueEnum, Debug, Clone, Copy, PartialEq, Eq)]
pub(super) enum Figure {
    /// Sorted bars of rigs with their intervals, ties and doubts; variants rig by rig
    Bars,
    /// Laps in the order in which they were run, and what the machine did meanwhile
    Laps,
    /// All workloads and rigs in one grid
    Overview,
    /// The index of every rig, with what enters it
    Overall,
    /// Before and after a change
    Change,
    /// What a setting gains on every rig
    Gain,
    /// The rate over a numeric setting, and what rigs could do at most on paper
    Sweep,
    /// The share of laps that held at each load, and the edge
    Loads,
    /// The rate of endurance laps over their time, and what the machine did meanwhile
    Rate,
    /// One lap: every core, and what the machine's sensors told, over its time, with its parts and marks
    Conditions,
    /// Work over price or power, with the rigs not beaten on both
    Worth,
    /// Frame times over the pass, passes under one another, two rigs side by side
    Passes,
    /// Frame time over the share of frames that are slower
    Tail,
}

impl Figure {
    pub(super) fn word(self) -> &'static str {
        match self {
            Self::Bars => "bars",
            Self::Laps => "laps",
            Self::Overview => "overview",
            Self::Overall => "overall",
            Self::Change => "change",
            Self::Gain => "gain",
            Self::Sweep => "sweep",
            Self::Loads => "loads",
            Self::Rate => "rate",
            Self::Conditions => "conditions",
            Self::Worth => "worth",
            Self::Passes => "passes",
            Self::Tail => "tail",
        }
    }
}

impl PlotArgs {
    /// Refuses what `figure` has no part of: it would be ignored without a word.
    pub(super) fn honoured_by(&self, figure: Figure) -> Result<(), CmdError> {
        let by_measure = !matches!(
            figure,
            Figure::Passes
                | Figure::Tail
                | Figure::Loads
                | Figure::Rate
                | Figure::Sweep
                | Figure::Conditions
        );
        let by_direction =
            matches!(figure, Figure::Bars | Figure::Overview | Figure::Gain | Figure::Sweep);
        let by_variant = !matches!(figure, Figure::Rate | Figure::Sweep | Figure::Conditions);
        let by_choice = !matches!(figure, Figure::Passes | Figure::Tail | Figure::Conditions);
        let given = [
            ("--session, --group or --variant", self.choice.is_given() && !by_choice),
            ("--measure", !self.measure.is_empty() && !by_measure),
            ("--across", self.across.is_some() && !by_direction),
            ("--with", !self.with.is_empty() && !by_variant),
            ("--over", self.over != OverArg::Price && figure != Figure::Worth),
        ];
        match given.into_iter().find(|(_, ignored)| *ignored) {
            None => Ok(()),
            Some((option, _)) => Err(CmdError::request(
                format!("{option} says nothing to the figure `{}`", figure.word()),
                "leave one of them out; lap plot --help lists the figures",
            )),
        }
    }
}

/// A figure with the name that its file goes by.
pub(super) type Named = (String, Drawing);

/// How wide a figure is, in its own units.
pub(super) const WIDTH: f64 = 1280.0;
