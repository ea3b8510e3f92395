//! What is sent to another machine: the tool, the study with the files it names, what is known of the rig, and the order.

use crate::error::ReachError;
use crate::program::Program;
use serde::{Deserialize, Serialize};
use std::fs::File;
use std::io::Write;
use std::path::{Path, PathBuf};

/// What is to be done there, and what is to be there for it.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub struct Order {
    /// The words behind `lap` that run the laps.
    pub run: Vec<String>,
    /// The words that go on with that run where it was cut off.
    pub resume: Vec<String>,
    /// The mark of its session.
    pub mark: String,
    /// The file name and the SHA-256 of a program that lies beside the tool.
    pub beside: Option<(String, String)>,
}

impl Order {
    /// The file that it is in, the last of a parcel: where it is, everything is.
    pub const FILE: &str = "order.json";
    /// The folder that the study is in.
    pub const STUDY: &str = "study";
    /// The file that says that the run was begun.
    pub const BEGUN: &str = "begun";
    /// The program.
    pub const PROGRAM: &str = "lap";
}

/// What goes into the archive that is sent.
#[derive(Clone, Copy, Debug)]
pub struct Parcel<'a> {
    /// The tool, for that machine.
    pub program: &'a Program,
    /// The study's folder here.
    pub study: &'a Path,
    /// The files in it that go along, seen from it.
    pub files: &'a [PathBuf],
    /// A logbook of what is known of the rig, and the name that it has there.
    pub known: Option<(&'a Path, &'a str)>,
    /// What is to be done.
    pub order: &'a Order,
}

/// A parcel in a file.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Packed {
    /// The file.
    pub path: PathBuf,
    /// Its size in bytes.
    pub bytes: u64,
    /// The SHA-256 of the tool in it.
    pub sha256: String,
}

impl Parcel<'_> {
    /// Writes the archive at `path`.
    pub fn pack(&self, path: &Path) -> Result<Packed, ReachError> {
        let file = File::create(path).map_err(ReachError::io("create", path))?;
        let mut archive = tar::Builder::new(std::io::BufWriter::new(file));
        let from = |source: &Path| ReachError::io("pack", source);
        let program = &self.program.path;
        archive.append_path_with_name(program, Order::PROGRAM).map_err(from(program))?;
        let mut order = self.order.clone();
        if let Some((path, sha256)) = &self.program.beside {
            let name = path.file_name().unwrap_or_default().to_string_lossy().into_owned();
            archive.append_path_with_name(path, &name).map_err(from(path))?;
            order.beside = Some((name, sha256.clone()));
        }
        for name in self.files {
            let source = self.study.join(name);
            let to = Path::new(Order::STUDY).join(name);
            let packed = match source.is_dir() {
                true => archive.append_dir_all(to, &source),
                false => archive.append_path_with_name(&source, to),
            };
            packed.map_err(from(&source))?;
        }
        if let Some((source, name)) = self.known {
            let to = Path::new(Order::STUDY).join(name);
            archive.append_path_with_name(source, to).map_err(from(source))?;
        }
        let written = ReachError::io("write", path);
        let order = serde_json::to_vec(&order).map_err(std::io::Error::from);
        let ended = order.and_then(|order| {
            let mut header = tar::Header::new_gnu();
            header.set_size(order.len() as u64);
            header.set_mode(0o600);
            archive.append_data(&mut header, Order::FILE, &order[..])?;
            let mut file = archive.into_inner()?;
            file.flush()?;
            Ok(file.get_ref().metadata()?.len())
        });
        let bytes = ended.map_err(written)?;
        Ok(Packed { path: path.to_owned(), bytes, sha256: self.program.sha256.clone() })
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_parcel_holds_the_study_and_the_order_comes_last() {
        let dir = tempfile::tempdir().unwrap();
        let at = |name: &str| dir.path().join(name);
        std::fs::create_dir(at("sky")).unwrap();
        std::fs::write(at("sky/a.txt"), "a").unwrap();
        std::fs::write(at("study.toml"), "[study]").unwrap();
        std::fs::write(at("known.db"), "known").unwrap();
        let program = Program {
            path: at("study.toml"),
            machine: "x86_64",
            sha256: "ab".to_owned(),
            beside: Some((at("lap-starter"), "cd".to_owned())),
        };
        let order = Order {
            run: vec!["run".to_owned()],
            resume: Vec::new(),
            mark: "m".to_owned(),
            beside: None,
        };
        std::fs::write(at("lap-starter"), "small").unwrap();
        let files = [PathBuf::from("study.toml"), PathBuf::from("sky")];
        let known = at("known.db");
        let parcel = Parcel {
            program: &program,
            study: dir.path(),
            files: &files,
            known: Some((&known, "logbook.db")),
            order: &order,
        };
        let packed = parcel.pack(&at("parcel.tar")).unwrap();
        assert_eq!((packed.bytes % 512, &packed.sha256[..]), (0, "ab"));
        let mut archive = tar::Archive::new(File::open(&packed.path).unwrap());
        let names = archive
            .entries()
            .unwrap()
            .map(|entry| entry.unwrap().path().unwrap().display().to_string());
        let names: Vec<String> = names.filter(|name| !name.ends_with('/')).collect();
        let wanted = [
            "lap",
            "lap-starter",
            "study/study.toml",
            "study/sky/a.txt",
            "study/logbook.db",
            "order.json",
        ];
        assert_eq!(names, wanted);
        let mut archive = tar::Archive::new(File::open(&packed.path).unwrap());
        let mut last = archive.entries().unwrap().map(Result::unwrap);
        let last = last.find(|entry| entry.path().unwrap() == Path::new(Order::FILE)).unwrap();
        let said: Order = serde_json::from_reader(last).unwrap();
        let beside = Some(("lap-starter".to_owned(), "cd".to_owned()));
        assert_eq!(said, Order { beside, ..order.clone() });
        let missing = Parcel { files: &[PathBuf::from("none")], ..parcel };
        assert!(matches!(missing.pack(&at("other.tar")), Err(ReachError::Io { .. })));
    }
}
