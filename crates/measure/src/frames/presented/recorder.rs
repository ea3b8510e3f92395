//! The recorder's library and its Vulkan manifest, put where programs can load them from.

use crate::error::{During, MeasureError};
use honest_lap_present_abi::{FILE, LAYER};
use rustix::fs::{StatVfsMountFlags, statvfs};
use std::fs;
use std::os::unix::fs::symlink;
use std::path::{Path, PathBuf};

/// The library, as the build script made it.
const LIBRARY: &[u8] = include_bytes!(concat!(env!("OUT_DIR"), "/libhonest_lap_present.so"));
/// What it is called; a process that has loaded it shows this name.
pub(super) const LIBRARY_NAME: &str = "libhonest_lap_present.so";
const MANIFEST_NAME: &str = "honest_lap_present.json";
/// The same for 32-bit programs; where no compiler for them was at hand a library that does nothing: one that fits is there
/// for them all the same, so that no loader complains.
const NARROW_LIBRARY: &[u8] =
    include_bytes!(concat!(env!("OUT_DIR"), "/narrow/libhonest_lap_present.so"));
/// Whether 32-bit programs are recorded.
pub const RECORDS_NARROW: bool = cfg!(narrow_recorder);
/// What it is called: a process that has loaded one that records shows the name of the recorder.
const NARROW_NAME: &str =
    if RECORDS_NARROW { "narrow-libhonest_lap_present.so" } else { "nothing.so" };
/// A word that the GNU loader puts the machine's name in place of, by which it tells what fits; others take it as it is.
const MACHINE: &str = "$PLATFORM";
/// What it is called by 64-bit programs, and as it stands.
const WIDE: [&str; 5] = ["x86_64", "haswell", "xeon_phi", "aarch64", MACHINE];
/// What it is called by 32-bit programs.
const NARROW: [&str; 7] = ["i386", "i486", "i586", "i686", "v7l", "v8l", "armv7l"];
/// Names of the variables that load it.
const PRELOAD: &str = "LD_PRELOAD";
const LAYER_PATH: &str = "VK_ADD_LAYER_PATH";
const LAYERS: &str = "VK_INSTANCE_LAYERS";

/// The recorder, in place until it is dropped.
#[derive(Debug)]
pub(super) struct Recorder {
    dir: PathBuf,
}

impl Recorder {
    /// Puts it into `folder`, or where that has a name that loaders cannot read, or may not hold
    /// programs, into the folder for temporary files. `mark` is no other session's.
    pub(super) fn put(folder: &Path, mark: &str) -> Result<Self, MeasureError> {
        let temporary = std::env::temp_dir().join(format!("honest-lap-{mark}"));
        let usual = PathBuf::from("/tmp").join(format!("honest-lap-{mark}"));
        let mut tried = Vec::new();
        for dir in [folder.join("recorder"), temporary, usual] {
            match loadable(&dir) {
                Ok(()) => {
                    let recorder = Self { dir };
                    recorder.write()?;
                    return Ok(recorder);
                }
                Err(why) => tried.push(format!("{} {why}", dir.display())),
            }
        }
        Err(MeasureError::NoPlaceForRecorder { tried: tried.join("; ") })
    }

    fn write(&self) -> Result<(), MeasureError> {
        fs::create_dir_all(&self.dir).during("create", &self.dir)?;
        let library = self.dir.join(LIBRARY_NAME);
        fs::write(&library, LIBRARY).during("write", &library)?;
        let narrow = self.dir.join(NARROW_NAME);
        fs::write(&narrow, NARROW_LIBRARY).during("write", &narrow)?;
        let all = WIDE.iter().map(|name| (name, LIBRARY_NAME));
        for (machine, leads_to) in all.chain(NARROW.iter().map(|name| (name, NARROW_NAME))) {
            let folder = self.dir.join(machine);
            fs::create_dir_all(&folder).during("create", &folder)?;
            // The same file wherever it is found, so that it is loaded once.
            let link = folder.join(LIBRARY_NAME);
            symlink(format!("../{leads_to}"), &link).during("create", &link)?;
        }
        let manifest = self.dir.join(MANIFEST_NAME);
        fs::write(&manifest, manifest_text()).during("write", &manifest)
    }

    /// Returns the variables that load it into a program and tell it where to write; `given` says
    /// what the program's environment holds otherwise.
    pub(super) fn environment(
        &self,
        file: &str,
        given: impl Fn(&str) -> Option<String>,
    ) -> Vec<(String, String)> {
        let dir = self.dir.display();
        let ahead = |name: &str, value: String| {
            let value = match given(name).filter(|given| !given.is_empty()) {
                // Others that stand in front of functions stay, behind us.
                Some(given) => format!("{value}:{given}"),
                None => value,
            };
            (name.to_owned(), value)
        };
        vec![
            ahead(PRELOAD, format!("{dir}/{MACHINE}/{LIBRARY_NAME}")),
            ahead(LAYER_PATH, dir.to_string()),
            ahead(LAYERS, LAYER.to_owned()),
            (FILE.to_owned(), file.to_owned()),
        ]
    }
}

impl Drop for Recorder {
    fn drop(&mut self) {
        // What cannot be removed is a file that nothing loads any more.
        let _ = fs::remove_dir_all(&self.dir);
    }
}

/// Returns whether a library in `dir` can be named to a loader and loaded.
fn loadable(dir: &Path) -> Result<(), &'static str> {
    let text = dir.to_str().ok_or("is no text")?;
    // Loaders divide their lists there, and have no way to quote.
    if text.contains([' ', '\t', ':', ';', '$', '\n']) {
        return Err("has a blank, a colon or the like in its path");
    }
    let standing = dir.ancestors().find(|dir| dir.is_dir()).ok_or("is not there")?;
    match statvfs(standing) {
        Ok(found) if found.f_flag.contains(StatVfsMountFlags::NOEXEC) => {
            Err("lies where nothing may be executed")
        }
        _ => Ok(()),
    }
}

/// Returns the layer's manifest, as the loader reads it.
fn manifest_text() -> String {
    serde_json::json!({
        "file_format_version": "1.2.0",
        "layer": {
            "name": LAYER,
            "type": "GLOBAL",
            "library_path": format!("./{MACHINE}/{LIBRARY_NAME}"),
            "api_version": "1.3.0",
            "implementation_version": "1",
            "description": "Notes the moment of every presented frame"
        }
    })
    .to_string()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn it_stands_ahead_of_what_was_there_and_goes_without_a_trace() {
        let dir = tempfile::tempdir().unwrap();
        let recorder = Recorder::put(dir.path(), "m1").unwrap();
        let there = dir.path().join("recorder");
        assert_eq!(fs::read(there.join(LIBRARY_NAME)).unwrap(), LIBRARY);
        let given = |name: &str| (name == PRELOAD).then(|| "/lib/other.so".to_owned());
        let all = recorder.environment("/presents", given);
        let (name, value) = &all[0];
        assert_eq!(name, PRELOAD);
        assert_eq!(*value, format!("{}/$PLATFORM/{LIBRARY_NAME}:/lib/other.so", there.display()));
        assert_eq!(all[3], (FILE.to_owned(), "/presents".to_owned()));
        for machine in [WIDE[0], MACHINE] {
            let path = there.join(machine).join(LIBRARY_NAME);
            assert_eq!(fs::read(path).unwrap(), LIBRARY);
        }
        assert_eq!(fs::read(there.join("i686").join(LIBRARY_NAME)).unwrap(), NARROW_LIBRARY);
        drop(recorder);
        assert!(!there.exists());
    }

    #[test]
    fn a_folder_with_a_blank_in_its_name_is_gone_round() {
        let dir = tempfile::tempdir().unwrap();
        let blank = dir.path().join("next season");
        fs::create_dir(&blank).unwrap();
        let recorder = Recorder::put(&blank, "blank-test").unwrap();
        assert!(!recorder.dir.starts_with(&blank), "{recorder:?}");
        assert!(loadable(Path::new("/tmp/a:b")).is_err());
        let dir = recorder.dir.clone();
        drop(recorder);
        assert!(!dir.exists());
    }
}
