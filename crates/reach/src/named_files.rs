//! Which files of a study's folder its workloads name: those go along to another machine.

use honest_lap_core::record::{Launch, Settings, Source, Template, Workload};
use std::collections::BTreeSet;
use std::path::{Component, Path, PathBuf};

/// Returns the files and folders below `study`, seen from there, that the workloads name: their inputs, the files in which their
/// programs keep how they are set, and every word of a command, an environment or a standard input that is the path of something
/// there. `is_ours` tells what the tool itself
/// keeps in the folder, which stays.
pub fn named_files(
    workloads: &[Workload],
    study: &Path,
    is_ours: &dyn Fn(&Path) -> bool,
) -> Vec<PathBuf> {
    let mut found = BTreeSet::new();
    for workload in workloads {
        for settings in workload.variants() {
            for (word, folder) in words(workload) {
                let word = filled(word, &settings, study);
                let folder = folder.map(|folder| filled(folder, &settings, study));
                let from = folder.map_or_else(|| study.to_owned(), |folder| study.join(folder));
                for path in paths_in(&word) {
                    found.extend(below(&from.join(path), study));
                }
                // What a command names may also stand beside the study, wherever it runs.
                found.extend(
                    paths_in(&word).iter().filter_map(|path| below(&study.join(path), study)),
                );
            }
        }
    }
    let whole = |path: &PathBuf| path.as_os_str().is_empty();
    if found.iter().any(whole) {
        // The folder itself is named: everything in it goes.
        let entries = std::fs::read_dir(study).into_iter().flatten().flatten();
        found = entries.map(|entry| PathBuf::from(entry.file_name())).collect();
    }
    let inside = |path: &PathBuf| {
        let above = |other: &PathBuf| path != other && path.starts_with(other);
        found.iter().any(above)
    };
    let of_its_own = found.iter().filter(|path| !is_ours(path) && !inside(path));
    of_its_own.cloned().collect()
}

/// Returns every text of a workload that may name a file, each with the folder that it is seen from.
fn words(workload: &Workload) -> Vec<(&Template, Option<&Template>)> {
    let task = &workload.task;
    let folder = task.folder.as_ref();
    let checks = task.produces.iter().filter_map(|product| product.check.as_ref());
    let launches: Vec<&Launch> = task
        .command
        .iter()
        .chain(&task.before)
        .chain(&task.after)
        .chain(checks)
        .chain(workload.versions.iter().map(|(_, launch)| launch))
        .collect();
    let of_launches = launches.into_iter().flat_map(Launch::templates);
    let others = task.environment.iter().map(|(_, value)| value).chain(&task.stdin);
    let modes = workload.modes.iter().filter_map(|rule| match &rule.source {
        Source::File(file) => Some(file),
        Source::Output | Source::Errors => None,
    });
    let seen_from_folder = of_launches.chain(others).map(|text| (text, folder));
    let seen_from_study = workload.inputs.iter().chain(modes).map(|text| (text, None));
    seen_from_folder.chain(seen_from_study).collect()
}

/// Fills a text with the study's folder and a variant's settings; what else it holds is of one lap and names no file yet.
fn filled(text: &Template, settings: &Settings, study: &Path) -> String {
    let study = study.to_string_lossy().into_owned();
    let value = |name: &str| match name {
        "study_dir" => Some(study.clone()),
        _ => Some(settings.get(name).unwrap_or("\0").to_owned()),
    };
    text.fill_each(|_, name| value(name)).unwrap_or_default()
}

/// Returns what may be paths in a text: itself, its words as a shell has them, and what stands behind `=`, `:` or `@` in one.
fn paths_in(text: &str) -> Vec<String> {
    let mut paths = vec![text.to_owned()];
    paths.extend(shlex::split(text).unwrap_or_default());
    let parts: Vec<String> = paths
        .iter()
        .flat_map(|word| word.split(['=', ':', '@', ';', '<', '>', '&', '|', '(', ')']))
        .map(|part| part.trim().to_owned())
        .collect();
    paths.extend(parts);
    paths.retain(|path| !path.is_empty() && !path.contains('\0'));
    paths.sort();
    paths.dedup();
    paths
}

/// Returns `path` as seen from the folder `study`, if it is there, below it or the folder itself, and no link leads out.
fn below(path: &Path, study: &Path) -> Option<PathBuf> {
    let study = study.canonicalize().ok()?;
    let real = path.canonicalize().ok()?;
    let inside = real.strip_prefix(&study).ok()?;
    let plain = inside.components().all(|part| matches!(part, Component::Normal(_)));
    plain.then(|| inside.to_owned())
}

#[cfg(test)]
mod tests {
    use super::*;
    use honest_lap_core::record::{Find, ModeRule, Task};
    use honest_lap_core::unit::Nanos;

    fn template(text: &str) -> Template {
        Template::parse(text).unwrap()
    }

    fn workload(command: Launch, inputs: &[&str]) -> Workload {
        Workload {
            name: "still".to_owned(),
            about: None,
            task: Task::of(command),
            vary: vec![("scene".to_owned(), vec!["dome".to_owned(), "rings".to_owned()])],
            laps: 1,
            warm_up: 0,
            rest: honest_lap_core::record::Rest::of(Nanos(0)),
            limit: Nanos::from_seconds(1),
            versions: Vec::new(),
            modes: Vec::new(),
            same_pictures: Vec::new(),
            inputs: inputs.iter().map(|text| template(text)).collect(),
            keep: false,
            weight: 1.0,
            group: None,
            jobs_a_month: None,
            assume_cv: None,
            only: Vec::new(),
        }
    }

    fn folder(files: &[&str]) -> tempfile::TempDir {
        let dir = tempfile::tempdir().unwrap();
        for file in files {
            let path = dir.path().join(file);
            std::fs::create_dir_all(path.parent().unwrap()).unwrap();
            std::fs::write(path, "x").unwrap();
        }
        dir
    }

    fn named(workload: &Workload, study: &Path) -> Vec<String> {
        let ours = |path: &Path| path == Path::new("logbook.db");
        let files = named_files(std::slice::from_ref(workload), study, &ours);
        files.iter().map(|path| path.display().to_string()).collect()
    }

    const FILES: [&str; 6] =
        ["render.sh", "dome.scene", "rings.scene", "sky/a.txt", "logbook.db", "other.txt"];

    #[test]
    fn commands_and_inputs_name_what_goes_along() {
        let dir = folder(&FILES);
        let shell = Launch::Shell(template("sh ./render.sh --scene={scene}.scene > {lap_dir}/out"));
        let of_shell = workload(shell, &["{study_dir}/sky/a.txt"]);
        assert_eq!(
            named(&of_shell, dir.path()),
            ["dome.scene", "render.sh", "rings.scene", "sky/a.txt"]
        );
        let direct = Launch::Direct(vec![template("{study_dir}/render.sh"), template("sky")]);
        assert_eq!(named(&workload(direct, &["sky/a.txt"]), dir.path()), ["render.sh", "sky"]);
    }

    #[test]
    fn a_file_that_says_how_the_program_is_set_goes_along() {
        let dir = folder(&["render.ini", "dome.ini", "other.ini"]);
        let rule = |file: &str| ModeRule {
            name: "device".to_owned(),
            source: Source::File(template(file)),
            find: Find::After("Device".to_owned()),
        };
        let command = Launch::Direct(vec![template("render")]);
        let files = ["render.ini", "{scene}.ini", "~/.config/render.ini"];
        let modes = files.map(rule).into();
        let of_modes = Workload { modes, ..workload(command, &[]) };
        assert_eq!(named(&of_modes, dir.path()), ["dome.ini", "render.ini"]);
    }

    #[test]
    fn the_folder_itself_is_everything_in_it_but_what_is_the_tools_own() {
        let dir = folder(&FILES);
        let all = workload(Launch::Direct(vec![template("ls"), template("{study_dir}")]), &[]);
        assert_eq!(
            named(&all, dir.path()),
            ["dome.scene", "other.txt", "render.sh", "rings.scene", "sky"]
        );
    }

    #[test]
    fn nothing_outside_the_study_goes() {
        let (dir, outside) = (folder(&FILES), folder(&["letter"]));
        std::os::unix::fs::symlink(outside.path().join("letter"), dir.path().join("link")).unwrap();
        let letter = outside.path().join("letter").display().to_string();
        let words = ["cat", "link", &letter, "../letter", "/etc/passwd", "missing"];
        let command = Launch::Direct(words.iter().map(|word| template(word)).collect());
        assert_eq!(named(&workload(command, &[]), dir.path()).len(), 0);
    }
}
