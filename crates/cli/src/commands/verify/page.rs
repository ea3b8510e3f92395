//! A published page held against the logbook that it carries.

use crate::commands::report::made_again;
use crate::ctx::Ctx;
use crate::error::CmdError;
use crate::study_file::{LOGBOOK_FILE, OpenStudy, STUDY_FILE};
use honest_lap_view::page::form::Evidence;
use std::path::Path;
use tempfile::TempDir;

/// No page is larger than this.
const MOST_PAGE_BYTES: u64 = 1 << 30;

/// A page that was taken apart: its study and logbook in a folder of their own.
pub struct TakenApart {
    pub open: OpenStudy,
    text: String,
    evidence: Evidence,
    /// Removed when this is dropped.
    _folder: TempDir,
}

/// Whether a page is what its logbook makes.
#[derive(Debug, PartialEq, Eq)]
pub enum Follows {
    /// Every figure and word of it.
    Whole,
    /// Not from this line on.
    NotFrom(usize),
    /// Another version made it, and only that can tell.
    OtherVersion(String),
}

/// Takes a page apart; whatever is odd about it is an answer to the user.
pub fn take_apart(path: &Path) -> Result<TakenApart, CmdError> {
    let io = |err: &std::io::Error| CmdError::io("read", path, err);
    let size = std::fs::metadata(path).map_err(|err| io(&err))?.len();
    let refuse = |problem: &str, help: &str| {
        CmdError::request(format!("{} {problem}", path.display()), help.to_owned())
    };
    if size > MOST_PAGE_BYTES {
        return Err(refuse("is larger than a page can be", "check that it is the right file"));
    }
    let bytes = std::fs::read(path).map_err(|err| io(&err))?;
    let text = String::from_utf8(bytes)
        .map_err(|_| refuse("is no page of ours: it is not text", "name a page of lap report"))?;
    let carries = Evidence::read(&text);
    let Some((evidence, study_text)) = carries else {
        return Err(refuse(
            "carries no logbook, so nothing proves it",
            "ask for a page that lap report made without --anonymous",
        ));
    };
    let logbook = evidence.unpacked().ok_or_else(|| {
        refuse(
            "carries a damaged logbook, so nothing proves it",
            "ask for another copy of the page",
        )
    })?;
    let folder =
        tempfile::tempdir().map_err(|err| CmdError::io("create", "a folder".as_ref(), &err))?;
    for (name, bytes) in [(LOGBOOK_FILE, logbook.as_slice()), (STUDY_FILE, study_text.as_bytes())] {
        let path = folder.path().join(name);
        std::fs::write(&path, bytes).map_err(|err| CmdError::io("write", &path, &err))?;
    }
    let study = honest_lap_study::read(&study_text).map_err(|mistakes| {
        refuse(
            &format!("carries a study with {} mistakes, so nothing proves it", mistakes.len()),
            "ask for another copy of the page",
        )
    })?;
    let open = OpenStudy { folder: folder.path().to_owned(), study };
    Ok(TakenApart { open, text, evidence, _folder: folder })
}

/// Makes the page anew and holds it against what was published.
pub fn follows(page: &TakenApart, ctx: &Ctx) -> Result<Follows, CmdError> {
    let made = &page.evidence.made;
    if made.version != env!("CARGO_PKG_VERSION") {
        return Ok(Follows::OtherVersion(made.version.clone()));
    }
    // A moment that is none was not written by us.
    let Some(then) = ctx.at(&made.moment) else { return Ok(Follows::NotFrom(1)) };
    let again = made_again(&page.open, page.evidence.clone(), &then)?;
    Ok(match again == page.text {
        true => Follows::Whole,
        false => {
            let same = again.lines().zip(page.text.lines()).take_while(|(a, b)| a == b).count();
            Follows::NotFrom(same + 1)
        }
    })
}
