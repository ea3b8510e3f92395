//! What a repetition of a task counts as, and the unit of its rates.

use crate::record::{Settings, Task};

/// What a repetition of a task does, and the unit of rates of it.
pub(super) struct Amounts {
    pub(super) unit: String,
    pub(super) of_repeat: f64,
}

/// Returns what a repetition of `task` counts as: its stated work, or 60, so that rates are repetitions a minute.
pub(super) fn amounts(task: &Task, settings: &Settings) -> Amounts {
    let unit = rate_unit(task);
    match task.work.as_ref().and_then(|work| work.of(settings)) {
        Some(work) if !task.kind.draws() => Amounts { unit, of_repeat: work.value },
        _ => Amounts { unit, of_repeat: 60.0 },
    }
}

/// Returns the unit of the rates of `task`.
pub fn rate_unit(task: &Task) -> String {
    match &task.work {
        _ if task.kind.draws() => "fps".to_owned(),
        Some(work) => format!("{}/s", work.unit()),
        None => "a minute".to_owned(),
    }
}
