//! Where laps are read: this study's logbook, or the lab's store.

use crate::ctx::Ctx;
use crate::error::CmdError;
use crate::lab::read_lab_with;
use crate::private_folder::PrivateFolder;
use crate::store_args::StoreArgs;
use crate::study_file::{LOGBOOK_FILE, OpenStudy};
use crate::working::Working;
use honest_lap_core::lab::Lab;
use honest_lap_core::record::Study;
use honest_lap_logbook::{AlikeLaps, Logbook};
use honest_lap_store::{Depth, Store};
use std::ops::Deref;
use std::path::{Path, PathBuf};

/// Whether the lab's store is read rather than this study's logbook.
#[derive(clap::Args, Debug, Default)]
pub struct SourceArgs {
    /// Read the lab's store instead of this logbook: the study's, or that of an address
    #[arg(long = "store", value_name = "ADDRESS", num_args = 0..=1, require_equals = true, default_missing_value = "")]
    store: Option<String>,
}

/// An open logbook, which is this study's or of what the store has; what was fetched is gone when it is dropped.
pub struct Source {
    logbook: Logbook,
    path: PathBuf,
    _fetched: Option<PrivateFolder>,
}

impl Source {
    /// Returns the file that is read.
    pub fn path(&self) -> &Path {
        &self.path
    }
}

impl Deref for Source {
    type Target = Logbook;

    fn deref(&self) -> &Logbook {
        &self.logbook
    }
}

impl SourceArgs {
    /// Returns the store at an address.
    pub fn of(store: &str) -> Self {
        Self { store: Some(store.to_owned()) }
    }

    /// Returns whether the store is read.
    pub fn is_store(&self) -> bool {
        self.store.is_some()
    }

    /// Returns what another command must be told to read the same, ahead of it a blank; nothing of this study's logbook.
    pub fn reads(&self, study: &Study) -> String {
        match self.store.as_deref() {
            None => String::new(),
            said if said == study.store.as_deref() || said == Some("") => " --store".to_owned(),
            // Of its own: in full it would fill a line for each command, and may hold a password.
            Some(_) => " --store=…".to_owned(),
        }
    }

    /// Opens what is to be read, with everything of each lap.
    pub fn open(&self, open: &OpenStudy) -> Result<Source, CmdError> {
        self.open_to(open, Depth::Whole).map(|(source, _)| source)
    }

    /// Reads the lab that figures are made of, and opens what else is read beside it.
    pub fn lab(
        &self,
        open: &OpenStudy,
        study: &Study,
        ctx: &Ctx,
    ) -> Result<(Lab, Source), CmdError> {
        let (source, alike) = self.open_to(open, Depth::Figures)?;
        Ok((read_lab_with(study, &source, alike, ctx)?, source))
    }

    /// Opens what is to be read; of a store as much of each lap as `depth` says, and beside it laps that are like one in it.
    fn open_to(&self, open: &OpenStudy, depth: Depth) -> Result<(Source, AlikeLaps), CmdError> {
        if !self.is_store() {
            let path = open.logbook();
            if let (false, Some(_)) = (path.exists(), &open.study.store) {
                return Err(CmdError::request(
                    format!("there is no logbook at {}", path.display()),
                    "`--store` reads the lab's store; `lap sync` fetches what it has",
                ));
            }
            let logbook = Logbook::open(&path)?;
            return Ok((Source { logbook, path, _fetched: None }, AlikeLaps::new()));
        }
        let mut store = self.reach(open)?;
        let _working = Working::on("reading the store");
        let folder = PrivateFolder::new()?;
        let path = folder.path().join(LOGBOOK_FILE);
        let marks = store.marks()?;
        let alike = store.fetch(&marks, depth, &path, &mut |_| {})?;
        let logbook = Logbook::open(&path)?;
        Ok((Source { logbook, path, _fetched: Some(folder) }, alike))
    }

    /// Reaches the store that is meant.
    pub fn reach(&self, open: &OpenStudy) -> Result<Store, CmdError> {
        let named = self.store.clone().filter(|said| !said.is_empty());
        let address = StoreArgs { store: named }.address(open.study.store.as_deref())?;
        Ok(Store::open(&address)?)
    }
}
