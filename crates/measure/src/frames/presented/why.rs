//! Why nothing was captured, in words: what was seen, and nothing else.

use super::follow::{Lost, Refused};
use super::program::Program;
use super::recorder::RECORDS_NARROW;
use super::witness::Seen;
use honest_lap_core::record::plain_line;

/// Programs that are named; more of them say nothing new.
const MOST_NAMED: usize = 3;

/// What processes said themselves, together.
#[derive(Clone, Copy, Debug, Default)]
pub(super) struct Said {
    /// How many times the recorder was loaded.
    pub(super) loaded: u32,
    /// How many of these had no room for what it maps.
    pub(super) unmapped: u32,
    pub(super) lost: Lost,
    pub(super) refused: Refused,
}

/// Returns why nothing came from a lap of the command `word`.
///
/// `seen` is what its processes were when they were last looked at; `file` is what its program file
/// is, for one that ended before it could be looked at; `said` is what processes said themselves.
pub(super) fn why(word: &str, seen: &[&Seen], file: Option<Program>, said: &Said) -> String {
    if said.lost.frames > 0 {
        let cause = trouble_words(said.lost.trouble);
        return format!(
            "{} frames were presented and none could be recorded: {cause}",
            said.lost.frames
        );
    }
    if let Some(words) = refused_words(said.refused) {
        return format!("nothing was captured: {words}");
    }
    if said.unmapped > 0 {
        return "nothing was captured: a program may have so little address space (ulimit -v) that the recorder left \
                it all of that"
            .to_owned();
    }
    let mut told: Vec<String> = Vec::new();
    for line in seen.iter().map(|seen| of_process(seen, file)) {
        if !told.contains(&line) {
            told.push(line);
        }
    }
    told.truncate(MOST_NAMED);
    if told.is_empty() {
        told.push(of_file(word, file, said.loaded));
    }
    format!("nothing was captured: {}", told.join("; "))
}

fn of_process(seen: &Seen, file: Option<Program>) -> String {
    let name = plain_line(&seen.name);
    // The system hides a guarded process from other users; the file of the command shows its mode.
    if seen.loaded.is_none() && file.is_some_and(|file| file.set_id) {
        return format!("`{name}` {GUARDED}");
    }
    if seen.foreign == Some(true) && seen.guarded != Some(true) {
        return format!(
            "`{name}` runs as another user, who may not reach the recorder or the folder that it \
             writes to"
        );
    }
    if seen.loaded == Some(true) {
        return format!("`{name}` had the recorder in it{}", without_presenting(seen));
    }
    if let Some(program) = seen.program
        && let Some(why) = of_program(program)
    {
        return format!("`{name}` {why}");
    }
    if seen.sandboxed == Some(true) && seen.guarded != Some(true) {
        return format!(
            "`{name}` runs in a sandbox that filters its system calls, and did not load the recorder: start it \
             without one"
        );
    }
    match (seen.guarded, seen.told, seen.apart) {
        (Some(true), ..) => format!("`{name}` {}", GUARDED),
        (_, Some(false), _) => format!(
            "`{name}` ran without the environment it was given: whatever started it cleared that, and \
             the recorder with it"
        ),
        (.., Some(true)) => format!(
            "`{name}` ran in a container (file systems of its own), where the recorder is not to be \
             found"
        ),
        _ if seen.loaded.is_none() => format!("`{name}` may not be looked at by this user"),
        _ => format!("`{name}` did not load the recorder, and nothing that was looked at says why"),
    }
}

/// Returns how a program with the recorder in it could come by without presenting, by the libraries that it loaded.
fn without_presenting(seen: &Seen) -> String {
    let Seen { graphics, screens, displays, .. } = seen;
    if !graphics.is_empty() {
        return format!(", loaded {}, and never presented a frame", graphics.join(", "));
    }
    if !screens.is_empty() {
        let screens = screens.join(", ");
        return format!(
            " and drew through memory that it shares with the screen ({screens}): by no function that presents a frame"
        );
    }
    if !displays.is_empty() {
        let displays = displays.join(", ");
        return format!(
            " and put frames on the display itself ({displays}), as compositors do: by no function that the recorder knows"
        );
    }
    " and never presented: it loaded no library of OpenGL or Vulkan".to_owned()
}

const GUARDED: &str = "runs with other rights than its user's (set-uid, set-gid or capabilities), so the \
                       system loads nothing into it";

fn of_program(program: Program) -> Option<&'static str> {
    match program {
        Program { foreign: true, .. } => {
            Some("is a program for another kind of processor, which the recorder does not fit")
        }
        Program { fixed: true, .. } => Some("is linked statically: nothing can be loaded into it"),
        Program { narrow: true, .. } if !RECORDS_NARROW => {
            Some("is a 32-bit program, and `lap` was built without the recorder for those")
        }
        _ => None,
    }
}

fn of_file(word: &str, file: Option<Program>, loaded: u32) -> String {
    let word = plain_line(word);
    let why = match (file, loaded) {
        (Some(program), 0) if of_program(program).is_some() => {
            of_program(program).unwrap_or_default()
        }
        (Some(Program { set_id: true, .. }), 0) => GUARDED,
        (_, 0) => {
            "ended before it could be looked at, and no process said that it had the recorder in it"
        }
        _ => "had the recorder in it and ended without presenting a frame",
    };
    format!("`{word}` {why}")
}

/// Returns why records were refused; `None` where none were.
pub(super) fn refused_words(refused: Refused) -> Option<String> {
    let Refused { outside, impossible } = refused;
    let mut told = Vec::new();
    if outside > 0 {
        let lie = if outside == 1 { "lies" } else { "lie" };
        told.push(format!("{outside} {lie} outside of the lap's own time"));
    }
    if impossible > 0 {
        let say = if impossible == 1 { "says" } else { "say" };
        told.push(format!("{impossible} {say} what no program can have presented"));
    }
    let all = outside + impossible;
    let records = if all == 1 { "1 record was".to_owned() } else { format!("{all} records were") };
    (all > 0).then(|| format!("{records} refused: {}", told.join(", ")))
}

/// Returns an error number in words.
pub(super) fn trouble_words(number: Option<u32>) -> String {
    let number = number.and_then(|number| i32::try_from(number).ok());
    match number.map(std::io::Error::from_raw_os_error) {
        Some(err) => {
            let text = err.to_string();
            // `No space left on device (os error 28)`: the number helps nobody here.
            text.split(" (os error").next().unwrap_or(&text).to_lowercase()
        }
        None => "they came faster than room could be made for them".to_owned(),
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn seen() -> Seen {
        Seen::usual("dome")
    }

    fn says(seen: &Seen, wanted: &str) {
        let said = why("dome", &[seen], None, &Said::default());
        assert!(
            said.contains(wanted) && said.starts_with("nothing was captured: `dome`"),
            "{said}"
        );
    }

    #[test]
    fn each_cause_is_what_was_seen() {
        let program = |narrow, fixed| Some(Program { narrow, fixed, ..Program::default() });
        let foreign = Some(Program { foreign: true, ..Program::default() });
        says(&Seen { program: foreign, ..seen() }, "another kind of processor");
        says(&Seen { sandboxed: Some(true), ..seen() }, "runs in a sandbox");
        let loaded = Seen { loaded: Some(true), ..seen() };
        let screens = vec!["libX11.so".to_owned()];
        says(
            &Seen { screens: screens.clone(), ..loaded.clone() },
            "shares with the screen (libX11.so)",
        );
        let displays = vec!["libgbm.so".to_owned()];
        says(
            &Seen { displays: displays.clone(), ..loaded.clone() },
            "on the display itself (libgbm.so)",
        );
        // A program with a window has the libraries for that too, often without use of them.
        says(&Seen { screens, displays, ..loaded }, "shares with the screen (libX11.so)");
        let narrow = if RECORDS_NARROW { "looked at says why" } else { "is a 32-bit program" };
        says(&Seen { program: program(true, false), ..seen() }, narrow);
        says(&Seen { program: program(true, true), ..seen() }, "is linked statically");
        says(&Seen { program: program(false, true), ..seen() }, "is linked statically");
        says(&Seen { guarded: Some(true), ..seen() }, "set-uid");
        says(&Seen { foreign: Some(true), ..seen() }, "runs as another user");
        says(&Seen { told: Some(false), ..seen() }, "ran without the environment");
        says(&Seen { apart: Some(true), ..seen() }, "ran in a container");
        says(&Seen { loaded: Some(true), ..seen() }, "loaded no library of OpenGL");
        let graphics = vec!["libEGL.so".to_owned()];
        says(&Seen { loaded: Some(true), graphics, ..seen() }, "loaded libEGL.so, and never");
        says(&Seen { loaded: None, told: None, ..seen() }, "may not be looked at");
        let hidden =
            Seen { loaded: None, told: None, guarded: None, foreign: Some(true), ..seen() };
        let file = Some(Program { set_id: true, ..Program::default() });
        assert!(why("dome", &[&hidden], file, &Said::default()).contains("set-uid"));
        says(&seen(), "nothing that was looked at says why");
    }

    #[test]
    fn a_program_that_ended_at_once_is_judged_by_its_file_and_by_what_was_said() {
        let of = |file, loaded| why("./dome", &[], file, &Said { loaded, ..Said::default() });
        let fixed = Program { fixed: true, ..Program::default() };
        assert!(of(Some(fixed), 0).contains("`./dome` is linked statically"));
        assert!(of(Some(Program::default()), 2).contains("ended without presenting a frame"));
        assert!(of(None, 0).contains("ended before it could be looked at"));
        let set_id = Program { set_id: true, ..Program::default() };
        assert!(of(Some(set_id), 0).contains("set-uid"));
    }

    #[test]
    fn what_was_presented_and_lost_is_told_first() {
        let lost = Lost { frames: 120, trouble: Some(28) };
        let said = Said { loaded: 1, lost, ..Said::default() };
        assert_eq!(
            why("dome", &[&seen()], None, &said),
            "120 frames were presented and none could be recorded: no space left on device"
        );
        let refused = Refused { outside: 0, impossible: 1 };
        let said = Said { refused, ..Said::default() };
        assert_eq!(
            why("dome", &[&seen()], None, &said),
            "nothing was captured: 1 record was refused: 1 says what no program can have presented"
        );
        let said = Said { unmapped: 1, ..Said::default() };
        assert!(why("dome", &[&seen()], None, &said).contains("ulimit -v"));
    }
}
