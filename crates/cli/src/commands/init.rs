//! `lap init`: a commented study that runs as it stands.

use crate::ctx::Ctx;
use crate::error::{CmdError, Exit};
use crate::study_file::STUDY_FILE;
use crate::whole_file::write_new;
use std::io::ErrorKind;
use std::path::PathBuf;

/// Write a commented study.toml that runs as it stands
#[derive(clap::Args, Debug)]
#[command(
    after_help = "Examples:\n  lap init              in this folder\n  lap init my-study     in a folder of its own"
)]
pub struct InitArgs {
    /// The folder to write it into
    #[arg(default_value = ".", value_name = "DIR")]
    dir: PathBuf,
}

const TEMPLATE: &str = include_str!("../../templates/study.toml");

pub fn run(args: &InitArgs, ctx: &Ctx) -> Result<Exit, CmdError> {
    let folder = std::path::absolute(ctx.folder.join(&args.dir))
        .map_err(|err| CmdError::io("find", &args.dir, &err))?;
    std::fs::create_dir_all(&folder).map_err(|err| CmdError::io("create", &folder, &err))?;
    let path = folder.join(STUDY_FILE);
    write_new(&path, TEMPLATE.as_bytes()).map_err(|err| match err.kind() {
        ErrorKind::AlreadyExists => CmdError::request(
            format!("{} is there already, and stays as it is", args.dir.join(STUDY_FILE).display()),
            "name another folder, `lap init DIR`, or move the file away first",
        ),
        _ => CmdError::io("write", &path, &err),
    })?;
    let shown = args.dir.join(STUDY_FILE);
    let shown = shown.strip_prefix(".").unwrap_or(&shown).display();
    let go = match args.dir.to_str() {
        Some(".") | None => String::new(),
        Some(dir) => format!("  cd {dir}\n"),
    };
    let next = format!(
        "wrote {shown}; it runs as it stands\n\n{go}  lap run --preview   what would be run, and in which order\n  \
         lap run             run the laps\n  lap compare         compare rigs\n"
    );
    ctx.ui.print_raw(next.as_bytes())?;
    Ok(Exit::Done)
}
