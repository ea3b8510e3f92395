//! What would resolve a finding, with the command that does.

use honest_lap_core::finding::{Doubt, Finding, Remedy};
use honest_lap_core::frame::LOW_1;
use honest_lap_core::lab::What;

/// Returns what would resolve it, in words that end without a full stop.
pub fn to_resolve(finding: &Finding) -> String {
    let workload = finding.workload.as_str();
    let again = run_again(finding);
    let by_hand = matches!(finding.remedy, Remedy::EnterAgain { .. } | Remedy::ImportAgain { .. });
    let lap = || finding.laps.first().map(ToString::to_string).unwrap_or_default();
    match &finding.doubt {
        Doubt::TooFewLaps { .. }
        | Doubt::OlderProgram { .. }
        | Doubt::RigChanged { .. }
        | Doubt::TooOld { .. }
        | Doubt::Missing { .. } => again,
        Doubt::FirstLap { .. } if by_hand => format!("do it once before you time it; {again}"),
        Doubt::FirstLap { .. } => format!("{again} --warm-up 1; or fills_cache = true"),
        Doubt::OddLap { .. } => format!(
            "look at it: lap show {0}; {again}; only where its cause is known: lap set-aside {0} --why \"…\"",
            lap()
        ),
        Doubt::TwoGroups { .. } if by_hand => {
            format!("find what was another in the slow laps; {again}")
        }
        Doubt::TwoGroups { .. } => format!(
            "find what was another in the slow laps: lap plot {} --figure conditions; {again}",
            lap()
        ),
        Doubt::NotSteady { .. } if by_hand => format!("warm up, rest between laps; {again}"),
        Doubt::NotSteady { .. } => format!("{again} --warm-up 3, with a rest between laps"),
        Doubt::SessionsDisagree { session, .. } => {
            format!("look what was another then: lap show {session}; {again}")
        }
        Doubt::LessWork { .. } => format!(
            "look at both: lap show {}; if less was done, state how much a lap does, work = \"…\" in study.toml, and rates are compared",
            lap()
        ),
        Doubt::OtherSize { .. } | Doubt::OtherContent { .. } | Doubt::OtherPicture { .. } => {
            format!(
                "compare them: lap show {}; then make settings and versions agree: lap run {workload}",
                lap()
            )
        }
        Doubt::MachineBusy { .. } => format!("end what else runs (lap rig check), then {again}"),
        // How a machine goes over hours is what an endurance lap is to show: no rest resolves that.
        Doubt::Throttled { settled: true, .. } => format!(
            "look when it fell: lap plot {workload} --figure rate; cool the machine better, then {again}"
        ),
        Doubt::Throttled { .. } => format!("rest = {{ until_below = \"55 °C\" }}, then {again}"),
        Doubt::NeverSettled { .. } | Doubt::StillFalling { .. } => {
            format!("let it last longer in study.toml: lasts; then {again}")
        }
        Doubt::Swapped { .. } => {
            format!("free memory, or say that this rig has too little; {again}")
        }
        Doubt::Slept { .. } => format!("keep it awake; {again}"),
        Doubt::MeterSilent { meters } => {
            format!("try the command of [meter.{}] alone, then {again}", meters[0])
        }
        Doubt::LeftOvers { .. } => format!("have the command wait for its own programs; {again}"),
        Doubt::OwnTime { .. } => format!(
            "find what its report leaves out; splits say which part is meant; then lap run {workload}"
        ),
        Doubt::Capped { .. } => format!(
            "run {workload} with the display's sync and every limit of the rate switched off; or compare busy \
             times: lap frames {workload}"
        ),
        Doubt::AverageHides { .. } => format!(
            "look at the frames: lap plot {workload}; a loading screen is left out by lap trim; otherwise lap run \
             {workload}"
        ),
        Doubt::AveragesHide { .. } => format!(
            "compare what was felt: lap compare {workload} --measure \"{LOW_1}\"; lap plot {workload}"
        ),
        Doubt::OtherVersion { .. } => {
            format!("run all of them with one version: lap run {workload}")
        }
        Doubt::OtherSetting { what: What::Part { .. }, .. } => format!(
            "compare the sessions of each apart: lap compare {workload} --session …, or --before … --after …; {again}"
        ),
        Doubt::OtherSetting { settings, .. } if settings.iter().all(|on| on.line.is_none()) => {
            format!("look what the lap says, and correct `modes` in study.toml: lap show {}", lap())
        }
        Doubt::OtherSetting { .. } => format!("set the program alike everywhere, then {again}"),
        Doubt::ReadCoarsely { .. } => format!(
            "read it more finely, or time longer work: lap clock {workload}; lap enter {workload}"
        ),
        Doubt::SlippedDigit { .. } | Doubt::DoesNotFit { .. } => format!(
            "look it up; if it was mistyped: lap set-aside {} --why \"mistyped\", and enter it again",
            lap()
        ),
        Doubt::SessionsExchanged { session, with } => format!(
            "look both up; if their rows were exchanged: lap set-aside {session} {with} --why \"exchanged\", and enter them again"
        ),
        Doubt::Repeated { session, .. } => format!(
            "look it up; if it was typed twice: lap set-aside {session} --why \"typed twice\""
        ),
        Doubt::MostlyWaiting { .. } => {
            format!("find what it waits for (network, disk, a limit of its rate), then {again}")
        }
        Doubt::NothingToChoose { .. } => {
            format!("give {workload} more to do, or lift what limits it, until the rigs can differ")
        }
        Doubt::UpsideDown { behind, .. } => format!(
            "look for a setting, a driver, a cap or heat on {behind}: lap show {behind}-1; then {again}"
        ),
        Doubt::OddOneOut { rig, .. } => format!(
            "find out why {rig} is so different there: lap show {rig}-1; publish the index with and without it: \
             lap compare --overall"
        ),
        Doubt::TwoThingsChanged { .. } => {
            "measure a rig in which only one of them differs".to_owned()
        }
        Doubt::OneOfAKind { model, .. } => {
            format!(
                "write \"this {model}\", or measure a second one: [rig.NAME] model = \"{model}\""
            )
        }
        Doubt::OutOfOrder { .. } => format!("look at that lap: lap show; then {again}"),
    }
}

/// Returns the commands that run the workload again where that is wanted, or enter it again where people do it.
fn run_again(finding: &Finding) -> String {
    let workload = &finding.workload;
    let again = |rig: &String| match finding.remedy {
        Remedy::EnterAgain { .. } => format!("lap enter {workload} --rig {rig}"),
        Remedy::ImportAgain { .. } => format!("lap import FILE… --rig {rig} --workload {workload}"),
        _ => format!("on {rig}: lap run {workload}"),
    };
    finding.remedy.rigs().iter().map(again).collect::<Vec<_>>().join("; ")
}
