//! A study for tests of entry.

use crate::record::{
    Better, Find, Kind, Launch, ReadingRule, Rest, Rig, Source, Study, Task, Workload,
};
use crate::unit::{Decimals, Nanos};

pub(super) fn study() -> Study {
    let score = ReadingRule {
        name: "score".into(),
        unit: "points".into(),
        better: Better::More,
        source: Source::Output,
        find: Find::Eyes,
        decimals: Decimals::Shown,
        reports_time: false,
        optional: false,
    };
    let task = Task {
        kind: Kind::Task,
        command: None,
        by_hand: Some("watch".into()),
        readings: vec![score],
        ..Task::of(Launch::Direct(Vec::new()))
    };
    let workload = |name: &str, vary: Vec<(String, Vec<String>)>| Workload {
        name: name.into(),
        about: None,
        task: task.clone(),
        vary,
        laps: 3,
        warm_up: 0,
        rest: Rest::default(),
        limit: Nanos(1),
        versions: Vec::new(),
        modes: Vec::new(),
        same_pictures: Vec::new(),
        inputs: Vec::new(),
        keep: false,
        weight: 1.0,
        group: None,
        jobs_a_month: None,
        assume_cv: None,
        only: Vec::new(),
    };
    let encoders = vec!["hardware".to_owned(), "software".to_owned()];
    let workloads = vec![
        workload("reel", vec![("encoder".to_owned(), encoders)]),
        workload("still", Vec::new()),
    ];
    let rigs = ["heron", "wren"].map(|name| Rig { name: name.into(), ..Rig::default() });
    Study { margin: 0.02, workloads, rigs: rigs.to_vec(), ..Study::default() }
}
