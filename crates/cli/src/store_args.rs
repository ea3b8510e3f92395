//! Which store is meant: as it is named, as the study says, or as the usual variables do.

use crate::error::{CmdError, Exit};
use crate::study_file::STUDY_FILE;
use honest_lap_store::{Address, PASSWORD_REMEDY, StoreError};

/// Where the lab's store is.
#[derive(clap::Args, Debug)]
pub struct StoreArgs {
    /// The lab's store, such as postgresql://lab@host/laps [default: the study's, else PGHOST, PGDATABASE …]
    #[arg(long, value_name = "ADDRESS")]
    pub store: Option<String>,
}

impl StoreArgs {
    /// Returns whether any store is named; `study` is what the study says.
    pub fn is_any(&self, study: Option<&str>) -> bool {
        self.store.as_deref().or(study).is_some()
            || usual("PGHOST").or(usual("PGDATABASE")).is_some()
    }

    /// Returns the address that is meant; `study` is what the study says.
    pub fn address(&self, study: Option<&str>) -> Result<Address, CmdError> {
        let said = match (self.store.as_deref(), study) {
            (Some(said), _) => said,
            (None, Some(said)) if Address::has_password(said) => {
                return Err(CmdError::request(
                    format!(
                        "{STUDY_FILE} holds the password of the store, and everyone reads that file"
                    ),
                    PASSWORD_REMEDY,
                ));
            }
            (None, Some(said)) => said,
            (None, None) if usual("PGHOST").or(usual("PGDATABASE")).is_some() => "",
            (None, None) => {
                return Err(CmdError::request(
                    "no store is named",
                    "add `store = \"postgresql://lab@host/laps\"` to [study], or name one: --store ADDRESS",
                ));
            }
        };
        Ok(Address::parse(said, usual)?)
    }
}

/// Returns the value of one of the usual variables, if it has one.
fn usual(name: &str) -> Option<String> {
    std::env::var(name).ok().filter(|value| !value.is_empty())
}

impl From<StoreError> for CmdError {
    fn from(err: StoreError) -> Self {
        let remedy = match &err {
            StoreError::Address(_) => "write it as postgresql://lab@host/laps",
            StoreError::Certificates { .. } => {
                "name a file of certificates in PEM: ?sslmode=verify-full&sslrootcert=FILE"
            }
            StoreError::Unreached(_) => {
                "is the server up, and may this login connect to that database?"
            }
            StoreError::NoStore { .. } => "whoever owns the database makes it: lap store init",
            StoreError::TooNew { .. } => "update lap on this machine",
            StoreError::TooOld { .. } => "a store is not brought up to a later format yet",
            StoreError::Refused { .. } => "nothing of it is there; what was sent before stays",
            StoreError::Failed { .. } => "what was sent stays; the same command goes on behind it",
            StoreError::Unfit { remedy, .. } => remedy,
            StoreError::Logbook(_) => "",
        };
        match err {
            StoreError::Logbook(err) => err.into(),
            StoreError::Unreached(_) | StoreError::Failed { .. } => {
                Self::caused(Exit::Measurement, &err, Some(remedy))
            }
            _ => Self::request(err.to_string(), remedy),
        }
    }
}
