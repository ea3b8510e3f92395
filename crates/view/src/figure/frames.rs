//! Figures of passes.

use crate::chart::{POINTS, PassPanel, PassesFigure, SLICES, Slice, TailCurve, TailFigure};
use crate::number::fixed;
use crate::sheet::{FramedWorkload, ShownPass};
use honest_lap_core::frame::{self, Column, envelope, hitches};
use honest_lap_core::record::Display;

/// Returns the frame times of passes, each a panel.
pub fn passes(workload: &FramedWorkload) -> PassesFigure {
    // Of many, each is drawn in fewer slices; none of them loses a peak by it.
    let slices = if workload.passes.len() > MANY { SLICES / 2 } else { SLICES };
    PassesFigure {
        title: workload.name.clone(),
        finding: finding(workload),
        display: display(workload),
        panels: by_rig(workload).into_iter().map(|pass| panel(pass, slices)).collect(),
    }
}

/// More passes than this are looked over rather than looked at.
const MANY: usize = 12;

/// Returns the distribution of frame times, a curve a pass.
pub fn tail(workload: &FramedWorkload) -> TailFigure {
    let curve = |pass: &ShownPass| {
        let counted = pass.digest.cut.applied(&pass.recorded.pass);
        let points = frame::tail(&counted.shown, POINTS);
        TailCurve {
            rig: pass.lap.session.rig.clone(),
            points: points.iter().map(|point| (point.share, point.time * 1e3)).collect(),
        }
    };
    TailFigure {
        title: format!("{}: how slow the slowest frames are", workload.name),
        finding: finding(workload),
        display: display(workload),
        curves: by_rig(workload).into_iter().map(curve).collect(),
    }
}

/// Returns the passes with those of one rig together, in the order of the rigs' first passes.
fn by_rig(workload: &FramedWorkload) -> Vec<&ShownPass> {
    let rig = |pass: &&ShownPass| pass.lap.session.rig.clone();
    let mut passes: Vec<&ShownPass> = workload.passes.iter().collect();
    let mut order: Vec<String> = passes.iter().map(rig).collect();
    let mut seen = std::collections::BTreeSet::new();
    order.retain(|name| seen.insert(name.clone()));
    passes.sort_by_key(|pass| order.iter().position(|name| *name == pass.lap.session.rig));
    passes
}

fn display(workload: &FramedWorkload) -> Option<(f64, f64)> {
    let against = || workload.passes.iter().map(|pass| pass.digest.against);
    // What is played says by when a frame is wanted; a display only what it could show.
    let source = against().find_map(|against| against.plays_at).map(|hz| Display { hz });
    let display = source.or_else(|| against().find_map(|against| against.display));
    display.map(|display| (display.hz, display.budget_ns() / 1e6))
}

/// Returns what the passes come to, for those who cannot see the figure.
fn finding(workload: &FramedWorkload) -> String {
    let words = |pass: &ShownPass| format!("{}: {}", pass.lap, says(pass));
    workload.passes.iter().map(words).collect::<Vec<_>>().join("; ")
}

/// Returns what each pass comes to, in the order in which they are held.
pub fn says_of(workload: &FramedWorkload) -> Vec<String> {
    workload.passes.iter().map(says).collect()
}

fn says(pass: &ShownPass) -> String {
    let sums = &pass.digest.sums;
    let low = match sums.low_1 {
        Some(low) => format!("low 1% {} fps", fixed(low, 1)),
        None => "low 1% refused".to_owned(),
    };
    let hitches = match sums.hitches {
        1 => "1 hitch".to_owned(),
        n => format!("{n} hitches"),
    };
    let mut said = vec![format!("{} fps", fixed(sums.rate, 1)), low, hitches];
    said.extend(pass.digest.cap.map(|cap| format!("capped at {} Hz", cap.hz)));
    if !pass.digest.cut.is_empty() {
        said.push(format!("cut: {}", pass.digest.cut));
    }
    if pass.set_aside {
        said.push("set aside".to_owned());
    } else if pass.warm_up {
        said.push("warm-up".to_owned());
    }
    said.join(" · ")
}

fn panel(pass: &ShownPass, slices: usize) -> PassPanel {
    let shown = &pass.recorded.pass.shown;
    let whole: u64 = shown.iter().sum();
    let slice = |column: Column| Slice {
        least: column.least * 1e3,
        most: column.most * 1e3,
        mean: column.mean * 1e3,
    };
    let seconds = |ns: u64| ns as f64 / 1e9;
    let begins = |moment: &mut u64, frame: &u64| {
        let begin = *moment;
        *moment += frame;
        Some(begin)
    };
    let moments: Vec<u64> = shown.iter().scan(0, begins).collect();
    let cut = &pass.digest.cut;
    let counted = |at: &u64| !cut.leaves_out(honest_lap_core::unit::Nanos(*at));
    let hitches = hitches(shown).into_iter().map(|hitch| moments[hitch.frame]);
    PassPanel {
        rig: pass.lap.session.rig.clone(),
        name: pass.lap.to_string(),
        says: says(pass),
        seconds: seconds(whole),
        slices: envelope(shown, slices.min(shown.len() * 2))
            .into_iter()
            .map(|c| c.map(slice))
            .collect(),
        hitches: hitches.filter(counted).map(seconds).collect(),
        cut: cut
            .stretches()
            .iter()
            .map(|s| (seconds(s.from.0), seconds(s.to.0.min(whole))))
            .collect(),
    }
}
