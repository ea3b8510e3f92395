//! What the programs of a workload say of their own version.

use crate::error::MeasureError;
use crate::fill::Values;
use crate::place::Place;
use crate::product::sha256_until;
use crate::starter::{self, Order, Report, Spools};
use crate::stop::Stop;
use honest_lap_core::lab::INPUT;
use honest_lap_core::record::{Settings, Template, VersionLine, Workload, plain_lines};
use honest_lap_core::unit::Nanos;
use std::path::Path;

/// A program that takes longer than this to say its version says none.
const LIMIT: Nanos = Nanos::from_seconds(20);
/// Characters kept of a version line.
const MOST_CHARS: usize = 200;

/// Runs every version command of `workload` and returns the first line each printed.
pub fn read_versions(
    workload: &Workload,
    place: &Place,
    mark: &str,
    stop: &Stop,
) -> Result<Vec<VersionLine>, MeasureError> {
    let settings = Settings::default();
    let values = Values::of(place, &settings);
    let mut lines = Vec::new();
    for (label, launch) in &workload.versions {
        let line = match values.command(launch) {
            Ok(command) => {
                let order = Order {
                    command,
                    folder: place.study().to_owned(),
                    environment: Vec::new(),
                    stdin: None,
                    limit: LIMIT,
                    spools: Spools::default(),
                    noted: None,
                    terminal: false,
                    watched: false,
                };
                first_line(&starter::run(&order, mark, stop)?)
            }
            Err(_) => None,
        };
        lines.push(VersionLine { workload: workload.name.clone(), label: label.clone(), line });
    }
    lines.extend(workload.inputs.iter().map(|file| input(workload, file, &values, stop)));
    Ok(lines)
}

/// Returns the line that tells which file an input was: its checksum, if it could be read.
fn input(workload: &Workload, file: &Template, values: &Values<'_>, stop: &Stop) -> VersionLine {
    let filled = values.text(file).unwrap_or_default();
    let path = Path::new(values.place.study()).join(filled);
    let line = sha256_until(&path, stop).ok().map(|sum| format!("SHA-256 {sum}"));
    // By its name alone: the study may lie elsewhere on another rig.
    let name = path.file_name().unwrap_or_default().to_string_lossy().into_owned();
    VersionLine { workload: workload.name.clone(), label: format!("{INPUT}{name}"), line }
}

fn first_line(report: &Report) -> Option<String> {
    let Report::Ended(ended) = report else { return None };
    if ended.exit_code != Some(0) {
        return None;
    }
    [&ended.stdout, &ended.stderr]
        .into_iter()
        .flat_map(|stream| plain_lines(&stream.head))
        .map(|line| line.trim().chars().take(MOST_CHARS).collect::<String>())
        .find(|line| !line.is_empty())
}
