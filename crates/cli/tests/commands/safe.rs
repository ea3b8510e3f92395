//! Text from anyone, shown to a person: nothing of it moves a cursor, turns a line about, or runs in a spreadsheet.
//!
//! Runs for about 5 s on two cores.

#![expect(clippy::unwrap_used, reason = "a failing helper fails its test")]

use honest_lap_testkit::TestEnv;
use std::fs;

const LAP: &str = env!("CARGO_BIN_EXE_lap");

/// Each would do harm where it is shown as it is: a cursor moved, a line turned about, a terminal told to, a formula.
const EVIL: [&str; 5] =
    ["=1+1", "\u{1b}[2J\u{1b}]0;x\u{7}", "a\u{202e}b\u{2066}c", "\u{9b}31m", "\r\u{8}z"];

/// Returns the study of an enemy, with each of [`EVIL`] in everything that may be any text.
fn study() -> String {
    // As TOML has them in a basic string.
    let toml = |text: &str| -> String {
        text.chars()
            .map(|c| {
                if c.is_ascii_graphic() || c == ' ' {
                    c.to_string()
                } else {
                    format!("\\u{:04x}", c as u32)
                }
            })
            .collect()
    };
    let whole = toml(&EVIL.concat());
    format!(
        "[study]\ntitle = \"{whole}\"\nquestion = \"{whole}\"\nwarm_up = 0\nlaps = 1\n\
         [workload.w]\nabout = \"{whole}\"\nkind = \"task\"\nvary = {{ evil = [\"=1+1\", \"@x\", \"-2+3\"] }}\ngroup = \"{whole}\"\n\
         command = '''printf '%s\\n' {{evil}}; printf '\\033[2J\\302\\233x\\342\\200\\256y\\n' | tee out >&2; exit 3'''\n\
         exit_codes = [0, 3]\n\
         versions = {{ \"{whole}\" = ['printf', '%b', '\\033[2J\\n'] }}\n\
         produces = [{{ file = \"out\" }}]\n\
         [rig.heron]\nabout = \"{whole}\"\n"
    )
}

/// Returns what of `text` a terminal or a reader would obey, but for line ends.
fn obeyed(text: &str) -> Vec<char> {
    let harms = |c: &char| {
        c.is_control() && *c != '\n'
            || ('\u{202a}'..='\u{202e}').contains(c)
            || ('\u{2066}'..='\u{2069}').contains(c)
    };
    text.chars().filter(harms).collect()
}

/// Returns the cells of a table that a spreadsheet would run.
fn run_by_spreadsheets(table: &str) -> Vec<String> {
    let mut reader =
        csv::ReaderBuilder::new().has_headers(false).flexible(true).from_reader(table.as_bytes());
    let cells: Vec<String> = reader
        .records()
        .flat_map(|row| row.unwrap().iter().map(str::to_owned).collect::<Vec<_>>())
        .collect();
    let runs = |cell: &String| {
        cell.starts_with(['=', '+', '@', '|', '%'])
            || cell.starts_with('-') && cell.parse::<f64>().is_err()
    };
    cells.into_iter().filter(runs).collect()
}

#[test]
fn nothing_that_anyone_wrote_is_obeyed_in_any_form_of_any_command() {
    let text = study();
    let env = TestEnv::with_study(LAP, &text);
    let ran = env.lap(&["run", "--rig", "heron"]);
    assert_eq!((obeyed(&ran.stdout), obeyed(&ran.stderr)), (vec![], vec![]), "{ran}");
    env.lap_ok(&["run"]);
    env.lap_ok(&["note", "heron-1", &EVIL.concat()]);
    env.lap_ok(&["set-aside", "heron-1.1", "--why", &EVIL.concat()]);
    let mut commands: Vec<Vec<&str>> = Vec::new();
    let questions = [
        vec!["show"],
        vec!["show", "heron-1"],
        vec!["show", "heron-1.2"],
        vec!["compare"],
        vec!["compare", "--across", "variants"],
        vec!["doubts"],
        vec!["verify"],
        vec!["rig"],
        vec!["run", "--preview"],
        vec!["claim", "heron is faster than wren at w"],
    ];
    for question in &questions {
        for form in ["text", "json", "csv", "markdown"] {
            commands.push([question.as_slice(), &["--format", form]].concat());
        }
    }
    for what in ["laps", "readings", "sums", "conditions"] {
        for form in ["csv", "json-lines"] {
            commands.push(vec!["export", what, "--format", form]);
        }
    }
    commands.push(vec!["export", "--sheet"]);
    let mut spoken = 0;
    for command in &commands {
        let said = env.lap(command);
        spoken += usize::from(said.status == Some(0));
        assert_eq!(
            obeyed(&said.stdout),
            [char::MIN; 0],
            "{command:?}: {}",
            said.stdout.escape_debug()
        );
        assert_eq!(
            obeyed(&said.stderr),
            [char::MIN; 0],
            "{command:?}: {}",
            said.stderr.escape_debug()
        );
        if command.contains(&"csv") || command.contains(&"--sheet") {
            assert_eq!(run_by_spreadsheets(&said.stdout), Vec::<String>::new(), "{command:?}");
        }
    }
    assert!(spoken > 40, "{spoken} of {} said something", commands.len());
    // Figures, and the page with the files in it.
    env.lap_ok(&["plot"]);
    env.lap_ok(&["report"]);
    for entry in fs::read_dir(env.path()).unwrap() {
        let path = entry.unwrap().path();
        if path.extension().is_some_and(|end| end == "svg" || end == "html") {
            let text = fs::read_to_string(&path).unwrap();
            let harms: Vec<char> = obeyed(&text).into_iter().filter(|c| *c != '\t').collect();
            assert_eq!(harms, [char::MIN; 0], "{}", path.display());
        }
    }
    // Errors that quote it, each line of them.
    let broken = text.replace("kind = \"task\"", "kind = \"\u{9b}31m\u{202e}\"");
    env.write("study.toml", &broken);
    let refused = env.lap(&["compare"]);
    assert_eq!(refused.status, Some(2));
    assert_eq!(obeyed(&refused.stderr), [char::MIN; 0], "{}", refused.stderr.escape_debug());
}
