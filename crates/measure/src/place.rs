//! Where laps are run: the study's folder, the tool itself, and what the tool keeps there.

use crate::error::{During, MeasureError};
use crate::whole_file::write_for_now;
use honest_lap_core::record::LapName;
use std::path::{Path, PathBuf};

/// The folders of a study, as text that a command line can carry.
#[derive(Clone, Debug)]
pub struct Place {
    study: String,
    tool: String,
}

impl Place {
    /// Returns the place of the study in `study`, run by the program `tool`.
    pub fn new(study: &Path, tool: &Path) -> Result<Self, MeasureError> {
        Ok(Self { study: text(study)?, tool: text(tool)? })
    }

    /// Returns the study's folder.
    pub fn study(&self) -> &str {
        &self.study
    }

    /// Returns the tool itself.
    pub(crate) fn tool(&self) -> &str {
        &self.tool
    }

    /// Returns the folder that is `lap`'s own; one that is kept stands where it can be found.
    pub(crate) fn lap_dir(&self, lap: &LapName, keep: bool) -> String {
        let parent = if keep { "kept" } else { ".lap/laps" };
        format!("{}/{parent}/{lap}", self.study)
    }

    /// Returns where a stream called `name` is written down as it comes in.
    pub(crate) fn spool(&self, name: &str) -> Result<String, MeasureError> {
        let folder = format!("{}/.lap/laps/spool", self.study);
        let path = Path::new(&folder);
        std::fs::create_dir_all(path).during("create", path)?;
        Ok(format!("{folder}/{name}"))
    }

    /// Returns where the frames that `lap` presents are noted.
    pub(crate) fn capture(&self, lap: &LapName) -> PathBuf {
        Path::new(&self.study).join(format!(".lap/laps/presented-{lap}"))
    }

    /// Returns the file that marks are written to while a lap's frames are noted.
    pub(crate) fn marks(&self) -> PathBuf {
        Path::new(&self.study).join(".lap/laps/marks")
    }

    /// Returns where the tool notes which file the logbook is.
    pub fn home(&self) -> PathBuf {
        Path::new(&self.study).join(".lap/home")
    }

    /// Returns where the tool notes what is under way.
    pub fn under_way(&self) -> PathBuf {
        Path::new(&self.study).join(".lap/under-way.json")
    }

    /// Returns where a starter notes which process it is.
    pub(crate) fn starter(&self) -> PathBuf {
        Path::new(&self.study).join(".lap/starter.json")
    }

    /// Returns the folder of what is under way on other machines.
    pub fn remote(&self) -> PathBuf {
        Path::new(&self.study).join(".lap/remote")
    }

    /// Returns the file whose lock says that a session is running here.
    pub fn lock(&self) -> PathBuf {
        Path::new(&self.study).join(".lap/lock")
    }

    /// Makes the folder for all of this, telling version control to pass it over.
    pub fn prepare(&self) -> Result<(), MeasureError> {
        let dir = Path::new(&self.study).join(".lap");
        // Laps' folders are removed below it: in a study that came from elsewhere a link would lead that astray.
        if dir.symlink_metadata().is_ok_and(|meta| meta.is_symlink()) {
            return Err(MeasureError::Link { path: dir });
        }
        std::fs::create_dir_all(&dir).during("create", &dir)?;
        let ignored = dir.join(".gitignore");
        write_for_now(&ignored, b"*\n").during("write", &ignored)
    }

    /// Removes the folders that a lap left when the tool was ended.
    pub fn clear(&self) {
        // A folder that cannot be removed is in nobody's way; the next lap makes its own.
        let _ = std::fs::remove_dir_all(Path::new(&self.study).join(".lap/laps"));
    }
}

fn text(path: &Path) -> Result<String, MeasureError> {
    path.to_str()
        .map(str::to_owned)
        .ok_or_else(|| MeasureError::PathNotText { path: path.to_owned() })
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_link_leads_nothing_out_of_the_study() {
        let (study, elsewhere) = (tempfile::tempdir().unwrap(), tempfile::tempdir().unwrap());
        std::fs::create_dir(elsewhere.path().join("laps")).unwrap();
        let link = |from: &Path, to: &Path| std::os::unix::fs::symlink(to, from).unwrap();
        link(&study.path().join(".lap"), elsewhere.path());
        let place = Place::new(study.path(), Path::new("lap")).unwrap();
        assert!(matches!(place.prepare(), Err(MeasureError::Link { .. })));
        assert!(elsewhere.path().join("laps").is_dir());
        std::fs::remove_file(study.path().join(".lap")).unwrap();
        std::fs::create_dir(study.path().join(".lap")).unwrap();
        let theirs = elsewhere.path().join("letter");
        std::fs::write(&theirs, "dear").unwrap();
        link(&study.path().join(".lap/.gitignore"), &theirs);
        place.prepare().unwrap();
        assert_eq!(std::fs::read_to_string(&theirs).unwrap(), "dear");
        assert_eq!(std::fs::read_to_string(study.path().join(".lap/.gitignore")).unwrap(), "*\n");
    }
}
