//! Frames, from a log to a verdict: imported, cut, shown, compared, doubted, drawn.
//!
//! Runs for about 5 s on one core of two.

#![expect(clippy::unwrap_used, reason = "a test's helpers are test code")]

use honest_lap_testkit::{TestEnv, csv_column, rows_of};
use serde_json::Value;

const LAP: &str = env!("CARGO_BIN_EXE_lap");

const STUDY: &str = "[study]\nwarm_up = 0\n\
    [workload.fly-through]\nkind = \"frames\"\nby_hand = \"fly through the rings\"\nrefresh = \"60 Hz\"\n\
    [rig.heron]\n[rig.wren]\n[rig.kestrel]\n";

fn study() -> TestEnv {
    TestEnv::with_study(LAP, STUDY)
}

/// Writes a log of frame times, each from `time` in milliseconds.
fn log(env: &TestEnv, name: &str, frames: usize, time: impl Fn(usize) -> f64) {
    let rows: String = (0..frames).map(|frame| format!("{:.4}\n", time(frame))).collect();
    env.write(name, &format!("frame_ms\n{rows}"));
}

/// Frame times that come and go a little about `ms`.
fn about(ms: f64) -> impl Fn(usize) -> f64 {
    move |frame| ms + (frame * 7_919 % 997) as f64 / 997.0 * 2.2 - 1.1
}

fn json(env: &TestEnv, args: &[&str]) -> Value {
    serde_json::from_str(&env.lap_ok(&[args, &["--format", "json"]].concat())).unwrap()
}

#[test]
fn logs_become_passes_that_are_summed_compared_and_sealed() {
    let env = study();
    for (rig, ms) in [("heron", 14.1), ("wren", 21.3)] {
        let names: Vec<String> = (1..=3).map(|n| format!("{rig}-{n}.csv")).collect();
        for (n, name) in names.iter().enumerate() {
            log(&env, name, 2_000, about(ms + n as f64 * 0.05));
        }
        let files: Vec<&str> = names.iter().map(String::as_str).collect();
        let said = env.lap_ok(&[&["import", "--rig", rig], files.as_slice()].concat());
        assert!(
            said.contains("column 1 `frame_ms`, durations in milliseconds: 2,000 frames in"),
            "{said}"
        );
        assert!(said.contains("3 passes imported, as session"), "{said}");
    }
    let passes = json(&env, &["frames"]);
    let rows = passes["groups"][0]["rows"].as_array().unwrap();
    assert_eq!(rows.len(), 8, "two cells and six passes");
    assert_eq!((&rows[0]["rig"], &rows[0]["passes"]), (&"heron".into(), &3.into()), "best first");
    let rate = rows[0]["average_rate_fps"].as_f64().unwrap();
    assert!((rate - 1e3 / 14.15).abs() < 0.3, "{rate}");
    assert_eq!(rows[1]["low_01_fps"], Value::Null, "refused below 10,000 frames");
    let compared = json(&env, &["compare"]);
    let tables = compared["tables"].as_array().unwrap();
    let measures: Vec<&Value> = tables.iter().map(|table| &table["measure"]["name"]).collect();
    assert_eq!(measures, ["average rate", "low 1%"]);
    assert_eq!(rows_of(&compared)[1]["against"]["verdict"], "slower");
    assert!(env.lap_ok(&["compare"]).contains("worse"), "a rate is not slower");
    let other = json(&env, &["compare", "--measure", "99% frame"]);
    assert_eq!(rows_of(&other)[1]["against"]["verdict"], "slower");
    assert!(env.lap_ok(&["verify"]).contains("6 laps in 2 sessions"));
    let again = env.lap(&["import", "--rig", "heron", "heron-1.csv"]);
    assert_eq!(again.status, Some(2));
    assert!(again.stderr.contains("is in the logbook already, as heron-1.1"), "{again}");
}

#[test]
fn a_loading_screen_is_proposed_and_cut_only_when_told() {
    let env = study();
    let time = |frame: usize| if (600..612).contains(&frame) { 210.0 } else { about(14.0)(frame) };
    log(&env, "rings.csv", 2_400, time);
    let said = env.lap_ok(&["import", "rings.csv", "--rig", "heron"]);
    let figures = |env: &TestEnv| {
        let passes = json(env, &["frames"]);
        let pass = passes["groups"][0]["rows"][1].clone();
        (pass["average_rate_fps"].as_f64().unwrap(), pass["cut"].as_str().unwrap().to_owned())
    };
    let (whole, cut) = figures(&env);
    assert!(whole < 68.0 && cut.is_empty());
    // Prose is broken into lines.
    let said = said.split_whitespace().collect::<Vec<_>>().join(" ");
    assert!(said.contains("it looks like a loading screen or a pause"), "{said}");
    let offered = said.split("lap trim ").nth(1).unwrap();
    let args: Vec<&str> = offered.split_whitespace().take(3).collect();
    assert_eq!(args[..2], ["heron-1.1", "--without"]);
    env.lap_ok(&["trim", args[0], args[1], args[2]]);
    let (rate, cut) = figures(&env);
    assert!(rate > 71.0 && cut.ends_with(" s"), "{rate} {cut}");
    assert!(env.lap_ok(&["compare"]).contains("71."), "compared as cut");
    assert!(env.lap_ok(&["note"]).contains("without 8."), "{}", env.lap_ok(&["note"]));
    assert!(env.lap_ok(&["show", "heron-1.1"]).contains("2,400 in"), "the frames are all there");
    env.lap_ok(&["trim", "heron-1.1", "--whole"]);
    assert_eq!(figures(&env).0, whole);
    assert_eq!(env.lap(&["trim", "heron-1.1", "--from", "99s"]).status, Some(2));
    assert_eq!(env.lap(&["trim", "heron-1.2", "--from", "1s"]).status, Some(2));
}

#[test]
fn a_pass_can_be_cut_at_its_marks_when_it_is_taken_in() {
    let env = study();
    let rows = |from: usize| {
        (from..from + 500).map(|f| format!("{:.3}\n", about(14.0)(f))).collect::<String>()
    };
    env.write("rings.csv", &format!("frame_ms\n{}# the rings\n{}", rows(0), rows(500)));
    let said = env.lap_ok(&["import", "rings.csv", "--rig", "wren", "--from", "the rings"]);
    assert!(said.contains("cut      0–7.0"), "{said}");
    let wrong = env.lap(&["import", "rings.csv", "--rig", "heron", "--from", "the moon"]);
    assert!(wrong.stderr.contains("its marks are: the rings"), "{wrong}");
    assert_eq!(env.lap(&["show", "heron"]).status, Some(2), "nothing was recorded");
}

#[test]
fn what_a_log_tells_beside_its_frames_is_kept_named_and_a_measure_like_any_other() {
    let env = study();
    let head = "frame_ms,core0,core1,gpu_use,cpu,CPU temperature,draw calls\n";
    let row = |frame: usize| {
        let (ms, half) = (about(14.0)(frame), if frame < 1_000 { 60.0 } else { 80.0 });
        format!(
            "{ms:.4},{},{},{half},{},{},{}\n",
            90 + frame % 3,
            10 + frame % 2,
            48 + frame % 5,
            half + 1.5,
            900 + frame * 37 % 70
        )
    };
    env.write("heron.csv", &format!("{head}{}", (0..2_000).map(row).collect::<String>()));
    let said = env.lap_ok(&["import", "--rig", "heron", "heron.csv"]);
    assert!(said.contains("Beside the frames: `core0` (core use)"), "{said}");
    assert!(said.contains("Columns that nothing was made of: draw calls."), "{said}");
    assert!(!said.contains("processor busy times"), "use in per cent is no busy time: {said}");
    let typical = |measure: &str| -> f64 {
        let csv = env.lap_ok(&["compare", "--measure", measure, "--format", "csv"]);
        csv_column(&csv, "typical")[0].parse().unwrap()
    };
    assert!((typical("busiest core") - 91.0).abs() < 0.5);
    assert!((typical("core 1 use") - 10.5).abs() < 0.1, "each core's own");
    assert!((typical("graphics use") - 70.0).abs() < 0.5);
    assert!((typical("use") - 50.0).abs() < 0.5);
    assert!((typical("cores in use") - 1.015).abs() < 0.01);
    assert!((typical("hottest") - 81.5).abs() < 0.1);
    let passes = json(&env, &["frames"]);
    let pass = &passes["groups"][0]["rows"][1];
    assert!((pass["graphics_use_percent"].as_f64().unwrap() - 70.0).abs() < 0.5, "{pass:#}");
    env.lap_ok(&["plot", "heron-1.1", "--figure", "conditions", "--out", "c.svg"]);
    // Busy times say so, or are in a unit of time.
    env.write(
        "wren.csv",
        &format!(
            "frame_ms,cpu busy ms,gpu busy ms\n{}",
            (0..2_000)
                .map(|f| format!("{:.4},6.{},{}.5\n", about(15.0)(f), f % 7, 9 + f % 3))
                .collect::<String>()
        ),
    );
    let said = env.lap_ok(&["import", "--rig", "wren", "wren.csv"]);
    assert!(said.contains("processor busy times"), "{said}");
    let busy = typical_of(&env, "card busy", "wren");
    assert!((busy - 10.5 / 15.0 * 100.0).abs() < 1.5, "{busy}");
}

/// Returns what a measure comes to on a rig.
fn typical_of(env: &TestEnv, measure: &str, rig: &str) -> f64 {
    let csv = env.lap_ok(&["compare", "--measure", measure, "--format", "csv"]);
    let place = csv_column(&csv, "rig").iter().position(|name| name == rig).unwrap();
    csv_column(&csv, "typical")[place].parse().unwrap()
}

#[test]
fn under_a_cap_the_work_is_compared_and_an_index_takes_no_capped_rate_in() {
    let capped = |with_work: bool| {
        let env = study();
        for (rig, work) in [("heron", 9.0), ("wren", 13.0)] {
            let mut args = vec!["import".to_owned(), "--rig".to_owned(), rig.to_owned()];
            for n in 1..=3 {
                let head = if with_work { "frame_ms,gpu busy ms\n" } else { "frame_ms\n" };
                let line = |frame: usize| {
                    let shown = 16.6667 + f64::from(n) * 1e-4 + work * 1e-5;
                    let busy = about(work + f64::from(n) / 50.0)(frame);
                    if with_work { format!("{shown},{busy:.4}\n") } else { format!("{shown}\n") }
                };
                let lines: String = (0..3_000).map(line).collect();
                env.write(&format!("{rig}{n}.csv"), &format!("{head}{lines}"));
                args.push(format!("{rig}{n}.csv"));
            }
            env.lap_ok(&args.iter().map(String::as_str).collect::<Vec<_>>());
        }
        env
    };
    let told = capped(true);
    let compared = json(&told, &["compare"]);
    let tables = compared["tables"].as_array().unwrap();
    let measures: Vec<&Value> = tables.iter().map(|table| &table["measure"]["name"]).collect();
    assert_eq!(measures, ["uncapped rate"]);
    assert_eq!(rows_of(&compared)[1]["against"]["verdict"], "slower", "they are all at 60 Hz");
    assert!(rows_of(&compared).iter().all(|row| row["capped"] == false));
    let text = told.lap_ok(&["compare", "--tables"]);
    assert!(text.contains("what the work alone would allow is compared"), "{text}");
    let index = json(&told, &["compare", "--overall"]);
    assert_eq!(index["overall"][0]["found"]["entered"].as_array().unwrap().len(), 1, "{index:#}");
    let asked = json(&told, &["compare", "--measure", "average rate"]);
    assert!(rows_of(&asked).iter().all(|row| row["capped"] == true), "{asked:#}");
    let untold = capped(false);
    let index = json(&untold, &["compare", "--overall"]);
    let found = &index["overall"][0]["found"];
    assert_eq!(found["entered"].as_array().unwrap().len(), 0, "{found:#}");
    assert_eq!(found["capped"].as_array().unwrap().len(), 2, "both rates: {found:#}");
    let text = untold.lap_ok(&["compare", "--overall"]);
    assert!(text.contains("shows a display or a limiter and not the rig"), "{text}");
}

#[test]
fn caps_stalls_and_averages_that_hide_are_doubted_and_fine_passes_are_not() {
    let env = study();
    for n in 1..=3 {
        log(&env, &format!("k{n}.csv"), 3_000, |_| 16.6667);
        log(&env, &format!("h{n}.csv"), 3_000, |f| {
            if f % 50 == 9 { 90.0 } else { about(15.0 + f64::from(n) / 50.0)(f) }
        });
        log(&env, &format!("w{n}.csv"), 3_000, |f| {
            if f == 700 { 251.0 } else { about(21.0 + f64::from(n) / 50.0)(f) }
        });
    }
    env.lap_ok(&["import", "--rig", "kestrel", "k1.csv"]);
    let twice = env.lap(&["import", "--rig", "kestrel", "k2.csv"]);
    assert!(twice.stderr.contains("in the logbook already"), "the very same frames: {twice}");
    env.lap_ok(&["import", "--rig", "heron", "h1.csv", "h2.csv", "h3.csv"]);
    env.lap_ok(&["import", "--rig", "wren", "w1.csv", "w2.csv", "w3.csv"]);
    let doubts = doubts_of(&env);
    let has = |name: &str, says: &str| {
        assert!(
            doubts.iter().any(|(n, said)| n == name && said.contains(says)),
            "{name}: {doubts:#?}"
        );
    };
    has("capped", "kestrel-1.1 shows the display, not the rig");
    has("the average hides it", "lap wren-1.1 stood still for 251 ms");
    has("the average hides it", "heron and kestrel differ by");
    has("too few laps", "kestrel has 1 counted lap");
    assert!(!doubts.iter().any(|(name, said)| name == "capped" && !said.contains("kestrel")));
    let fine = study();
    for (rig, ms) in [("heron", 14.1), ("wren", 21.3)] {
        for n in 1..=3 {
            log(&fine, &format!("{n}.csv"), 2_000, about(ms + f64::from(n) / 30.0));
        }
        fine.lap_ok(&["import", "--rig", rig, "1.csv", "2.csv", "3.csv"]);
    }
    assert_eq!(doubts_of(&fine), []);
}

fn doubts_of(env: &TestEnv) -> Vec<(String, String)> {
    let csv = env.lap(&["doubts", "--format", "csv"]).stdout;
    csv_column(&csv, "doubt").into_iter().zip(csv_column(&csv, "evidence")).collect()
}

#[test]
fn a_program_that_logs_its_frames_is_driven_and_read() {
    let study = "[study]\nwarm_up = 0\nlaps = 2\n\
        [workload.file]\nkind = \"frames\"\n\
        command = [\"{lap}\", \"stand-in\", \"fly-through\", \"--frames\", \"300\", \"--log\", \"{lap_dir}/f.csv\"]\n\
        frames = { file = \"{lap_dir}/f.csv\" }\n\
        [workload.output]\nkind = \"frames\"\n\
        command = \"echo the rings; for i in 1 2 3; do echo 16.7; echo 16.9; done; echo 33.1; sleep 0.15\"\n\
        frames = { output = true, unit = \"ms\" }\n\
        [workload.long]\nkind = \"frames\"\ncommand = \"for i in $(seq 7); do echo 1000; done\"\n\
        frames = { output = true, unit = \"ms\", as = \"durations\" }\n\
        [workload.cut]\nkind = \"frames\"\ncommand = \"printf '16.701\\n16.802\\n16.903\\n16.9'; sleep 0.1\"\n\
        frames = { output = true, unit = \"ms\", as = \"durations\" }\n\
        [workload.none]\nkind = \"frames\"\ncommand = \"true\"\nframes = { output = true }\n";
    let env = TestEnv::with_study(LAP, study);
    let came = env.lap(&["run", "file", "output"]);
    assert_eq!(came.status, Some(0), "{came}");
    let rows = json(&env, &["frames", "file"]);
    let rate = rows["groups"][0]["rows"][1]["average_rate_fps"].as_f64().unwrap();
    assert!(rate > 1.0);
    let shown = env.lap_ok(&["show", "here-1"]);
    assert!(shown.contains("average rate"), "{shown}");
    let lap = csv_column(&env.lap_ok(&["show", "here-1", "--format", "csv"]), "workload");
    let place = lap.iter().position(|workload| workload == "output").unwrap() + 1;
    let page = env.lap_ok(&["show", &format!("here-1.{place}")]);
    assert!(page.contains("7 in 133") && page.contains("the rings"), "{page}");
    // What cannot be all that the program showed, and no more, is no pass.
    for (workload, why) in [
        ("long", "frames: standard output: its frames last 7 s and the lap"),
        ("cut", "its last row is cut short, so more may be missing"),
    ] {
        let came = env.lap(&["run", workload]);
        assert!(came.status == Some(3) && came.stderr.contains(why), "{came}");
    }
    let none = env.lap(&["run", "none"]);
    assert_eq!(none.status, Some(3));
    assert!(none.stderr.contains("frames: standard output: there is nothing in it"), "{none}");
}

#[test]
fn what_is_not_clear_is_asked_and_a_preview_takes_nothing_in() {
    let env = study();
    env.write("two.csv", "16.7,12.1\n16.8,12.9\n16.1,12.0\n");
    let asked = env.lap(&["import", "two.csv", "--rig", "heron"]);
    assert_eq!(asked.status, Some(2));
    assert!(asked.stderr.contains("it is not clear where its frame times are"), "{asked}");
    assert!(asked.stderr.contains("--column N"), "{asked}");
    let said = env.lap_ok(&["import", "two.csv", "--column", "2", "--preview"]);
    assert!(said.contains("column 2, durations in milliseconds, the only unit"), "{said}");
    assert!(said.contains("nothing was recorded"), "{said}");
    assert!(!env.path().join("logbook.db").exists());
    let rig = env.lap(&["import", "two.csv", "--column", "2", "--rig", "heorn"]);
    assert!(rig.stderr.contains("no rig is called `heorn`"), "{rig}");
    assert!(env.lap(&["import", "gone.csv", "--rig", "heron"]).stderr.contains("gone.csv"));
}

#[test]
fn figures_are_drawn_and_nothing_else_is_written_over() {
    let env = study();
    for rig in ["heron", "wren"] {
        log(&env, "one.csv", 1_500, about(if rig == "wren" { 20.0 } else { 14.0 }));
        env.lap_ok(&["import", "one.csv", "--rig", rig]);
    }
    env.lap_ok(&["plot", "--figure", "passes"]);
    let svg = std::fs::read_to_string(env.path().join("fly-through-passes.svg")).unwrap();
    assert!(svg.contains(">heron-1.1<") && svg.contains(">16.7 ms<") && svg.contains("<desc>"));
    env.lap_ok(&["plot", "--figure", "tail", "--out", "tail.png"]);
    let png = std::fs::read(env.path().join("tail.png")).unwrap();
    assert_eq!(png[16..24], [0, 0, 5, 0, 0, 0, 3, 54], "1280 by 800, and a stamp");
    let refused = env.lap(&["plot", "--out", "study.toml"]);
    assert!(refused.stderr.contains("neither .svg nor .png"), "{refused}");
    assert_eq!(env.lap(&["plot", "plover"]).status, Some(2));
}

#[test]
fn a_merged_logbook_brings_its_frames() {
    let (home, away) = (study(), study());
    log(&away, "one.csv", 70_000, about(14.0));
    away.lap_ok(&["import", "one.csv", "--rig", "heron"]);
    away.lap_ok(&["trim", "heron-1.1", "--to", "10s"]);
    let theirs = away.path().join("logbook.db");
    home.lap_ok(&["merge", theirs.to_str().unwrap()]);
    assert_eq!(json(&home, &["frames"])["groups"], json(&away, &["frames"])["groups"]);
    assert!(home.lap_ok(&["verify"]).contains("Nothing has changed"));
}

#[test]
fn several_games_are_one_table_and_what_is_played_is_judged_first() {
    let study = "[study]\nwarm_up = 0\n\
        [workload.rings]\nkind = \"frames\"\nby_hand = \"fly\"\nrefresh = \"60 Hz\"\n\
        [workload.reel]\nkind = \"frames\"\nby_hand = \"play it\"\nplays_at = 24\n\
        [rig.heron]\n[rig.wren]\n";
    let env = TestEnv::with_study(LAP, study);
    log(&env, "rings.csv", 2_000, about(14.1));
    log(&env, "whole.csv", 720, |_| 1e3 / 24.0);
    log(&env, "gaps.csv", 700, |frame| if frame % 100 == 50 { 3e3 / 24.0 } else { 1e3 / 24.0 });
    env.lap_ok(&["import", "--rig", "heron", "--workload", "rings", "rings.csv"]);
    env.lap_ok(&["import", "--rig", "heron", "--workload", "reel", "whole.csv"]);
    env.lap_ok(&["import", "--rig", "wren", "--workload", "reel", "gaps.csv"]);
    let said = env.lap_at(80, &["frames"]).stdout;
    let at = |words: &str| said.find(words).unwrap_or_else(|| panic!("{words}: {said}"));
    let list: Vec<&str> = said.lines().take(5).collect();
    assert!(
        list[0].starts_with("workload") && list[2..].iter().all(|line| line.contains("  ")),
        "{said}"
    );
    assert!(
        at("heron plays whole: 1 of 1 pass") < at("plays on time"),
        "the verdict comes first: {said}"
    );
    assert!(at("wren drops 14 of ") < at("plays on time"), "{said}");
    assert!(said.contains("low 1% needs 1,000 frames: refused for every pass"), "{said}");
    let doubts = env.lap(&["doubts"]).stdout;
    assert!(!doubts.contains("capped"), "a source's own rate is none: {doubts}");
    // Advice works for this study: what people fly is imported, not run.
    assert!(doubts.contains("lap import FILE… --rig heron --workload reel"), "{doubts}");
    assert!(!doubts.contains("lap run"), "{doubts}");
    let csv = env.lap_ok(&["frames", "--format", "csv"]);
    assert!(csv.starts_with("workload,rig,variant,lap,passes,"), "rows of one shape: {csv}");
}

#[test]
fn a_limiter_of_any_rate_is_told_as_one_and_limits_the_cell() {
    let env = study();
    // Late by up to 2 ms, and made up for by the next.
    let late = |frame: usize| (frame.wrapping_mul(2_654_435_761) >> 7) % 1_000;
    let frame =
        |frame: usize| 1_000.0 / 62.0 + (late(frame + 1) as f64 - late(frame) as f64) / 500.0;
    log(&env, "limited.csv", 3_000, frame);
    env.lap_ok(&["import", "--rig", "heron", "limited.csv"]);
    let doubts = doubts_of(&env);
    let said = "shows a limiter, not the rig: 100 % of its frames keep a schedule of 62 a second";
    let is_it = |(name, seen): &(String, String)| name == "capped" && seen.contains(said);
    assert!(doubts.iter().any(is_it), "{doubts:#?}");
    let frames = env.lap_ok(&["frames"]);
    assert!(frames.contains("heron, capped: 100 % of its frames kept to 62 Hz"), "{frames}");
}
