//! What is seen while other machines run laps: their lines as they come, and at a terminal a live line for each below.

use crate::background::Background;
use crate::ctx::Ctx;
use honest_lap_core::plan::Expected;
use honest_lap_core::record::plain_line;
use honest_lap_core::unit::display_size;
use honest_lap_measure::UnderWay;
use honest_lap_view::table::Role;
use honest_lap_view::words::{lap_of, left_words};
use indicatif::{MultiProgress, ProgressBar, ProgressStyle};
use std::time::Duration;

/// The live lines look again this often.
const TICK: Duration = Duration::from_secs(1);

/// Shows runs on several machines.
pub struct Screen<'a> {
    ctx: &'a Ctx,
    all: MultiProgress,
    bars: Vec<ProgressBar>,
    rigs: Vec<String>,
    width: usize,
    _ticking: Background,
}

impl<'a> Screen<'a> {
    pub fn new(rigs: Vec<String>, ctx: &'a Ctx) -> Self {
        let all = MultiProgress::new();
        let width = rigs.iter().map(String::len).max().unwrap_or(0);
        let look = ProgressStyle::with_template("{prefix} {msg}").expect("it is well formed");
        let bars: Vec<ProgressBar> = rigs
            .iter()
            .map(|rig| {
                let bar = all.add(ProgressBar::new_spinner().with_style(look.clone()));
                bar.set_prefix(format!("{rig:width$}"));
                bar
            })
            .collect();
        let ticked = bars.clone();
        let ticking = Background::begin("live-lines", move |until| {
            while until.goes_on_after(TICK) {
                ticked.iter().filter(|bar| !bar.is_finished()).for_each(ProgressBar::tick);
            }
        });
        Self { ctx, all, bars, rigs, width, _ticking: ticking }
    }

    /// Shows on the rig's live line what goes on there.
    pub fn show(&self, rig: usize, words: &str) {
        self.bars[rig].set_message(plain_line(words));
    }

    pub fn sending(&self, rig: usize, sent: u64, of: u64) {
        self.show(rig, &format!("sending {} of {}", display_size(sent), display_size(of)));
    }

    pub fn under_way(&self, rig: usize, lap: &UnderWay) {
        let kind = if lap.warm_up { ", warm-up" } else { "" };
        let what = lap_of(&lap.workload, &lap.settings);
        let left = left_words(Expected { time: lap.left, unknown: lap.unknown });
        self.show(rig, &format!("lap {} of {} · {what}{kind} · {left} left", lap.place, lap.total));
    }

    /// Says a line of the rig's.
    pub fn say(&self, rig: usize, role: Role, line: &str) {
        let width = self.width;
        self.all.suspend(|| self.ctx.ui.say(role, &format!("{:width$}  {line}", self.rigs[rig])));
    }

    /// Says something of the rig, labelled.
    pub fn say_labelled(&self, rig: usize, label: &str, role: Role, text: &str) {
        let line = format!("{}: {text}", self.rigs[rig]);
        self.all.suspend(|| self.ctx.ui.say_labelled(label, role, &line));
    }

    /// Says something of all of them.
    pub fn say_of_all(&self, label: &str, role: Role, text: &str) {
        self.all.suspend(|| self.ctx.ui.say_labelled(label, role, text));
    }

    /// Does what prints by itself while the live lines are away.
    pub fn aside<T>(&self, work: impl FnOnce() -> T) -> T {
        self.all.suspend(work)
    }

    /// Takes the rig's live line away.
    pub fn over(&self, rig: usize) {
        self.bars[rig].finish_and_clear();
    }
}
