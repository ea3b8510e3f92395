//! What may go wrong between a logbook and a store.

use honest_lap_logbook::LogbookError;
use postgres::error::SqlState;

/// Why a store was not reached, or refused.
#[derive(Debug, thiserror::Error)]
pub enum StoreError {
    /// The words that say where it is are none.
    #[error("`{0}` does not say where a store is")]
    Address(String),
    /// The certificates that its server is to be held to cannot be had.
    #[error("the certificates for an encrypted connection cannot be used: {problem}")]
    Certificates {
        /// Why.
        problem: String,
    },
    /// Nobody answers there, or not to this login.
    #[error("cannot reach the store")]
    Unreached(#[source] postgres::Error),
    /// There is none in that database.
    #[error("there is no store in that database, and `{role}` may not make one")]
    NoStore {
        /// Who asked.
        role: String,
    },
    /// It was made by a later version.
    #[error("the store is of format {found}, and this version knows formats up to {known}")]
    TooNew {
        /// Its format.
        found: u32,
        /// The newest that is known here.
        known: u32,
    },
    /// It is of an older format than records that are to be sent.
    #[error("the store is of format {found}, and this version writes format {known}")]
    TooOld {
        /// Its format.
        found: u32,
        /// The one that is written here.
        known: u32,
    },
    /// The database refused what was asked: a rule, or a right that is not given.
    #[error("the store refused {doing}: {why}")]
    Refused {
        /// What was asked of it.
        doing: String,
        /// Its words.
        why: String,
    },
    /// The connection ended, or the database failed.
    #[error("the store failed while {doing}")]
    Failed {
        /// What was asked of it.
        doing: String,
        /// How.
        #[source]
        source: postgres::Error,
    },
    /// The server, or the login, is not such as is needed.
    #[error("{problem}")]
    Unfit {
        /// What it is not.
        problem: String,
        /// What to do about it.
        remedy: String,
    },
    /// The logbook.
    #[error(transparent)]
    Logbook(#[from] LogbookError),
}

impl StoreError {
    /// Returns an error of the database while it was asked to do something, in words.
    pub(crate) fn of(doing: impl Into<String>) -> impl FnOnce(postgres::Error) -> Self {
        let doing = doing.into();
        move |source| match source.as_db_error() {
            Some(told) if is_refusal(told.code()) => {
                Self::Refused { doing, why: told.message().to_owned() }
            }
            _ => Self::Failed { doing, source },
        }
    }
}

fn is_refusal(code: &SqlState) -> bool {
    // Classes: 22 and 23, values and constraints; 42, rights; 44, a policy.
    ["22", "23", "42", "44"].iter().any(|class| code.code().starts_with(class))
}
