//! Finding and reading `study.toml`, and framing its mistakes.

use crate::args::Cli;
use crate::copied::settle;
use crate::ctx::Ctx;
use crate::error::CmdError;
use annotate_snippets::renderer::DecorStyle;
use annotate_snippets::{AnnotationKind, Level, Renderer, Snippet};
use honest_lap_core::record::{Study, plain_line};
use honest_lap_logbook::Logbook;
use honest_lap_measure::Place;
use honest_lap_study::{MOST_STUDY_BYTES, Mistake};
use honest_lap_view::table::{Role, style};
use std::path::{Path, PathBuf};

/// The name of the file that makes a folder a study.
pub const STUDY_FILE: &str = "study.toml";
/// The name of the logbook beside it.
pub const LOGBOOK_FILE: &str = "logbook.db";

/// A study that has been read.
pub struct OpenStudy {
    pub folder: PathBuf,
    pub study: Study,
}

impl OpenStudy {
    /// Returns where its logbook is, or will be.
    pub fn logbook(&self) -> PathBuf {
        self.folder.join(LOGBOOK_FILE)
    }

    /// Opens its logbook to write to it, creating it where there is none.
    pub fn logbook_to_write(&self, ctx: &Ctx) -> Result<Logbook, CmdError> {
        self.ours(Logbook::create_or_open(&self.logbook())?, ctx)
    }

    /// Opens its logbook, which must exist, to add to it.
    pub fn logbook_to_add_to(&self, ctx: &Ctx) -> Result<Logbook, CmdError> {
        self.ours(Logbook::open_to_write(&self.logbook())?, ctx)
    }

    fn ours(&self, logbook: Logbook, ctx: &Ctx) -> Result<Logbook, CmdError> {
        settle(&Place::new(&self.folder, &ctx.tool()?)?, &self.logbook(), &logbook)?;
        Ok(logbook)
    }
}

/// Finds and reads the study that `cli` means.
pub fn read_study(cli: &Cli, ctx: &Ctx) -> Result<OpenStudy, CmdError> {
    let folder = match &cli.study {
        Some(folder) => ctx.folder.join(folder),
        None => find(&ctx.folder).ok_or_else(|| {
            CmdError::request(
                format!("no {STUDY_FILE} here, nor in any folder above"),
                "`lap init` writes one; `--study DIR` names the folder of another",
            )
        })?,
    };
    let folder = std::path::absolute(&folder).unwrap_or(folder);
    let path = folder.join(STUDY_FILE);
    let size = std::fs::metadata(&path).map_err(|err| match err.kind() {
        std::io::ErrorKind::NotFound => CmdError::request(
            format!("there is no {}", path.display()),
            "`lap init` writes one; `--study DIR` names the folder of another",
        ),
        _ => CmdError::io("read", &path, &err),
    })?;
    if size.len() > MOST_STUDY_BYTES {
        return Err(CmdError::request(
            format!("{} is larger than a study can be", path.display()),
            "check that it is the right file",
        ));
    }
    let bytes = std::fs::read(&path).map_err(|err| CmdError::io("read", &path, &err))?;
    let text = String::from_utf8(bytes).map_err(|err| {
        let at = err.utf8_error().valid_up_to();
        let line = err.as_bytes()[..at].iter().filter(|&&b| b == b'\n').count() + 1;
        CmdError::request(
            format!("{}, line {line}: not valid UTF-8", path.display()),
            "save the file as UTF-8 text",
        )
    })?;
    // A mark that some editors put in front means nothing.
    let text = text.strip_prefix('\u{feff}').unwrap_or(&text);
    let study = honest_lap_study::read(text)
        .map_err(|mistakes| CmdError::Framed(framed(&shown_path(&path, ctx), text, &mistakes)))?;
    Ok(OpenStudy { folder, study })
}

fn find(from: &Path) -> Option<PathBuf> {
    from.ancestors().find(|folder| folder.join(STUDY_FILE).is_file()).map(Path::to_owned)
}

fn shown_path(path: &Path, ctx: &Ctx) -> String {
    path.strip_prefix(&ctx.folder).unwrap_or(path).display().to_string()
}

/// Returns every mistake with its file, line, column, the line itself and the remedy.
fn framed(path: &str, text: &str, mistakes: &[Mistake]) -> String {
    let path = &plain_line(path);
    let renderer = Renderer::styled()
        .decor_style(DecorStyle::Ascii)
        .error(style(Role::Failed))
        .line_num(style(Role::Quiet));
    let mut frames: Vec<String> = mistakes
        .iter()
        .map(|mistake| {
            let span = first_line(text, mistake);
            let report = [Level::ERROR
                .primary_title(plain_line(&mistake.problem))
                .element(
                    Snippet::source(text).path(path).annotation(AnnotationKind::Primary.span(span)),
                )
                .element(Level::HELP.message(plain_line(&mistake.remedy)))];
            renderer.render(&report).to_string()
        })
        .collect();
    if mistakes.len() > 1 {
        frames.push(format!("{} mistakes in {path}; nothing was run", mistakes.len()));
    }
    safe(&frames.join("\n\n"))
}

/// Spells out what the frames' own making leaves of a study's control and direction characters; escapes are theirs.
fn safe(frames: &str) -> String {
    let one = |c: char| match c {
        '\n' | '\x1b' => c.to_string(),
        c => plain_line(c.encode_utf8(&mut [0; 4])),
    };
    frames.chars().map(one).collect()
}

/// A mistake about a whole table points at its first line: that is where its name stands.
fn first_line(text: &str, mistake: &Mistake) -> std::ops::Range<usize> {
    let start = mistake.span.start.min(text.len());
    let line_end = text[start..].find('\n').map_or(text.len(), |length| start + length);
    start..mistake.span.end.clamp(start, line_end)
}
