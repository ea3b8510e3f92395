//! What goes to other machines, and the way there.

use crate::ctx::Ctx;
use crate::error::CmdError;
use crate::study_file::{LOGBOOK_FILE, OpenStudy, STUDY_FILE};
use honest_lap_core::record::Workload;
use honest_lap_measure::{sha256_of, starter};
use honest_lap_reach::{Program, named_files};
use std::path::{Path, PathBuf};

/// Returns the command line that reaches a rig, if the study has one.
pub fn reach(open: &OpenStudy, rig: &str) -> Option<String> {
    open.study.rigs.iter().find(|known| known.name == rig)?.reach.clone()
}

/// Returns the programs that could be sent: this one first.
pub fn programs(binaries: &[PathBuf], ctx: &Ctx) -> Result<Vec<Program>, CmdError> {
    let own = ctx.tool()?;
    let mut programs = Vec::new();
    for path in [own].into_iter().chain(binaries.iter().map(|path| ctx.folder.join(path))) {
        let sum_of = |path: &Path| sha256_of(path).map_err(|err| CmdError::io("read", path, &err));
        let program = Program::read(&path, sum_of(&path)?)?.ok_or_else(|| {
            CmdError::request(
                format!("{} is no program that another machine could run", path.display()),
                "name a `lap` that was built for that machine's processor",
            )
        })?;
        let starter = path.with_file_name(starter::NAME);
        let beside = match starter.exists() {
            true => Some((starter.clone(), sum_of(&starter)?)),
            false => None,
        };
        programs.push(Program { beside, ..program });
    }
    // The file named later is the one that was asked for by name.
    programs.reverse();
    Ok(programs)
}

/// Returns the files of the study's folder that go along, seen from there.
pub fn files_to_send(workloads: &[Workload], study: &Path) -> Vec<PathBuf> {
    let ours = |path: &Path| {
        let first = path.components().next().map(|part| part.as_os_str().to_string_lossy());
        first.is_some_and(|name| {
            let own = [".lap", "kept", STUDY_FILE].contains(&&*name);
            own || name.starts_with(LOGBOOK_FILE)
        })
    };
    let mut files = vec![PathBuf::from(STUDY_FILE)];
    files.extend(named_files(workloads, study, &ours));
    files
}
