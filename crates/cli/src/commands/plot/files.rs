//! Files of figures: their names, and what they hold.

use crate::ctx::Ctx;
use crate::error::CmdError;
use crate::whole_file::write_whole;
use honest_lap_draw::{Drawing, Look};
use honest_lap_view::table::Role;
use std::collections::BTreeSet;
use std::path::Path;

/// Returns `names` with a number behind each that another has already: no figure takes the place of another.
pub(super) fn distinct(names: impl Iterator<Item = String>) -> Vec<String> {
    let (mut taken, mut all) = (BTreeSet::new(), Vec::new());
    for name in names {
        let mut own = name.clone();
        let mut number = 1;
        while !taken.insert(own.clone()) {
            number += 1;
            own = format!("{name}-{number}");
        }
        all.push(own);
    }
    all
}

/// Returns `words` as the name of a file has them.
pub(super) fn file_name(words: &str) -> String {
    let kept = |c: char| c.is_alphanumeric() || matches!(c, '.' | '_' | '=');
    let parts = words.split(|c| !kept(c)).filter(|part| !part.is_empty());
    parts.collect::<Vec<_>>().join("-")
}

/// Writes a figure to `path`, as a PNG if it is to be a `picture`.
pub fn write_figure(
    path: &Path,
    drawing: &Drawing,
    (picture, look): (bool, Look),
    ctx: &Ctx,
) -> Result<(), CmdError> {
    let bytes = match picture {
        true => drawing
            .png(look, PNG_SCALE)
            .map_err(|err| CmdError::request(err.to_string(), "write it as .svg instead"))?,
        false => drawing.svg(look).into_bytes(),
    };
    write_whole(&ctx.folder, path, &bytes)?;
    ctx.ui.say(Role::Plain, &format!("{} drawn", path.display()));
    Ok(())
}

/// Returns whether the file is to be a PNG; nothing but figures is written over.
pub fn is_picture(path: &Path) -> Result<bool, CmdError> {
    match path.extension().and_then(|extension| extension.to_str()) {
        Some("svg") => Ok(false),
        Some("png") => Ok(true),
        _ => Err(CmdError::request(
            format!("{} is neither .svg nor .png", path.display()),
            "name the file by its form: --out rings.png",
        )),
    }
}

/// Pixels of a PNG to each unit of the figure.
const PNG_SCALE: f32 = 1.0;

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn files_are_named_without_what_a_shell_or_a_folder_would_take_amiss() {
        assert_eq!(file_name("dome-still threads=2"), "dome-still-threads=2");
        assert_eq!(file_name("fly-through · low 1%"), "fly-through-low-1");
        assert_eq!(file_name("../../etc"), "..-..-etc");
    }

    #[test]
    fn no_two_figures_of_a_command_have_one_name() {
        let names = ["a", "b", "a", "a-2", "a"].map(str::to_owned);
        assert_eq!(distinct(names.into_iter()), ["a", "b", "a-2", "a-2-2", "a-3"]);
    }
}
