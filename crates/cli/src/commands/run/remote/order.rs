//! The words that run on another machine what was asked for here.

use super::super::args::RunArgs;
use honest_lap_core::record::Workload;
use honest_lap_reach::Order;

/// Returns the order of a session `mark` on `rig`, of these workloads alone where some are given; `resumed` is the session
/// that goes on there, if one does.
pub fn order(
    args: &RunArgs,
    only: Option<&[Workload]>,
    (rig, mark): (&str, &str),
    resumed: Option<&str>,
) -> Order {
    let mut common: Vec<String> =
        ["run", "--study", Order::STUDY, "--rig", rig, "--sent", mark].map(str::to_owned).into();
    if args.rebuilt {
        common.push("--rebuilt".to_owned());
    }
    if args.unwatched {
        common.push("--unwatched".to_owned());
    }
    if args.wait {
        common.push("--wait".to_owned());
    }
    let mut resume = common.clone();
    resume.push("--resume".to_owned());
    let mut run = common;
    let mut say = |option: &str, value: Option<String>| {
        if let Some(value) = value {
            // With its value in one word, whatever that begins with.
            run.push(format!("{option}={value}"));
        }
    };
    say("--resume", resumed.map(str::to_owned));
    say("--laps", args.laps.map(|laps| laps.to_string()));
    for Workload { name, laps, .. } in only.unwrap_or_default() {
        say("--laps-of", Some(format!("{name}={laps}")));
    }
    say("--warm-up", args.warm_up.map(|laps| laps.to_string()));
    say("--until", args.until.map(|share| format!("{}%", share * 100.0)));
    say("--budget", args.budget.map(|budget| format!("{}ns", budget.0)));
    say("--seed", args.seed.map(|seed| seed.to_string()));
    say("--room", args.room.map(|room| format!("{room}C")));
    args.parts.iter().for_each(|(name, is)| say("--part", Some(format!("{name}={is}"))));
    say("--remark", args.remark.clone());
    if args.again {
        run.push("--again".to_owned());
    }
    let names = match only {
        Some(only) => only.iter().map(|workload| workload.name.clone()).collect(),
        None => args.workloads.clone(),
    };
    if !names.is_empty() {
        run.push("--".to_owned());
        run.extend(names);
    }
    Order { run, resume, mark: mark.to_owned(), beside: None }
}

#[cfg(test)]
mod tests {
    use super::*;
    use honest_lap_core::unit::Nanos;

    #[test]
    fn what_was_asked_for_here_is_asked_for_there() {
        let plain = RunArgs::as_rig("heron", &["dome-still"], 3);
        let args = RunArgs {
            until: Some(0.01),
            budget: Some(Nanos(90_000_000_000)),
            room: Some(-2.5),
            parts: vec![("memory".to_owned(), "64 GB".to_owned())],
            remark: Some("--help".to_owned()),
            laps: None,
            ..plain
        };
        let said = order(&args, None, ("heron", "m"), None);
        assert_eq!(
            said.run.join(" "),
            "run --study study --rig heron --sent m --until=1% --budget=90000000000ns --room=-2.5C \
             --part=memory=64 GB --remark=--help -- dome-still"
        );
        assert_eq!(said.resume.join(" "), "run --study study --rig heron --sent m --resume");
        let resumed = RunArgs { workloads: Vec::new(), laps: None, ..RunArgs::as_rig("x", &[], 1) };
        let said = order(&resumed, None, ("x", "m"), Some("x-3"));
        assert_eq!(said.run.join(" "), "run --study study --rig x --sent m --resume=x-3");
        let waits = order(&RunArgs { wait: true, ..resumed }, None, ("x", "m"), None);
        assert_eq!(waits.run.join(" "), "run --study study --rig x --sent m --wait");
        assert_eq!(waits.resume.join(" "), "run --study study --rig x --sent m --wait --resume");
    }
}
