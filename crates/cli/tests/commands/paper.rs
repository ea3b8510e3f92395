//! Paper peaks, work by a formula, and frames that come late as a strain.
//!
//! Runs for about 2 s on one core of two.

use honest_lap_testkit::{TestEnv, rows_of};

const LAP: &str = env!("CARGO_BIN_EXE_lap");

const SOLVER: &str = "[study]\nlaps = 3\nwarm_up = 0\n[workload.orbit-solve]\nkind = \"task\"\n\
    command = [\"{lap}\", \"stand-in\", \"orbit-solve\", \"--steps\", \"{steps}\"]\n\
    vary = { steps = [20000, 40000, 80000] }\nwork = \"936 * {steps} FLOP\"\n\
    [rig.heron]\npeak = [\"51 GB/s\", \"0.1 TFLOP/s\"]\npeak_from = \"the maker's data sheet\"\n";

#[test]
fn a_rate_by_a_formula_is_held_against_paper_and_drawn_over_the_setting() {
    let env = TestEnv::with_study(LAP, SOLVER);
    let came = env.lap(&["run", "--rig", "heron"]);
    assert_eq!(came.status, Some(0), "{came}");
    let all: serde_json::Value =
        serde_json::from_str(&env.lap_ok(&["compare", "--format", "json"])).unwrap();
    let rows = rows_of(&all);
    for row in &rows {
        let steps: f64 = row["variant"]["steps"].as_str().unwrap().parse().unwrap();
        let rate = 936.0 * steps / row["cell"]["typical"].as_f64().unwrap();
        let (found, share) = (&row["rate"]["a_second"]["value"], &row["rate"]["of_peak"]["share"]);
        assert!((found.as_f64().unwrap() / rate - 1.0).abs() < 1e-9, "{row}");
        assert!((share.as_f64().unwrap() / (rate / 1e11) - 1.0).abs() < 1e-9, "{row}");
    }
    assert_eq!(rows.len(), 3);
    let text = env.lap_ok(&["compare", "--explain"]);
    let text = text.split_whitespace().collect::<Vec<_>>().join(" ");
    assert!(
        text.contains("against paper")
            && text.contains("heron 0.1 TFLOP/s (the maker's data sheet)"),
        "{text}"
    );
    env.lap_ok(&["plot", "--figure", "sweep", "--across", "steps", "--out", "sweep.svg"]);
    let figure = std::fs::read_to_string(env.path().join("sweep.svg")).unwrap();
    for words in ["on paper, heron", "of its paper peak with steps=", "10⁹ FLOP/s"] {
        assert!(figure.contains(words), "{words}");
    }
    let none = env.lap(&["plot", "--figure", "sweep", "--across", "threads"]);
    assert_eq!(none.status, Some(2), "{none}");
}

#[test]
fn a_peak_without_a_paper_and_a_formula_without_sense_are_told() {
    for (from, to, wanted) in [
        ("peak_from = \"the maker's data sheet\"\n", "", "a paper peak names no paper"),
        ("\"51 GB/s\"", "\"51 GB\"", "no work a second"),
        ("peak = [\"51 GB/s\", \"0.1 TFLOP/s\"]\n", "", "`peak_from` stands without a peak"),
        ("936 * {steps} FLOP", "936 * {steps FLOP", "is no amount of work"),
        ("936 * {steps} FLOP", "936 * {stepz} FLOP", "did you mean `{steps}`?"),
    ] {
        let env = TestEnv::with_study(LAP, &SOLVER.replace(from, to));
        let came = env.lap(&["run", "--rig", "heron"]);
        assert!(came.status == Some(2) && came.stderr.contains(wanted), "{wanted}: {came}");
    }
}

#[test]
fn frames_that_come_late_strain_a_load() {
    // Forty frames, of which as many as the load says take two refreshes of a 1,000 Hz display.
    let frames = "for i in $(seq 40); do if [ $i -le {load} ]; then echo 2.0; else echo 1.0; fi; done; sleep 0.1";
    let study = format!(
        "[study]\n[workload.sky-layers]\nkind = \"capacity\"\nload = {{ from = 1, to = 32 }}\nrefresh = \"1000 Hz\"\n\
         frames = {{ output = true, unit = \"ms\", as = \"durations\" }}\nstrained = {{ late_frames = \"20%\" }}\n\
         command = \"{frames}\"\n[rig.heron]\n"
    );
    let env = TestEnv::with_study(LAP, &study);
    let came = env.lap(&["run", "--rig", "heron"]);
    assert_eq!(came.status, Some(0), "{came}");
    // 8 of 40 are a fifth, and 9 are more.
    assert!(came.stderr.contains("held at 8") && came.stderr.contains("strained at 9"), "{came}");
    let unheld = study.replace("refresh = \"1000 Hz\"\n", "");
    let env = TestEnv::with_study(LAP, &unheld);
    let came = env.lap(&["run", "--rig", "heron"]);
    assert!(
        came.status == Some(2) && came.stderr.contains("no frames are known to be late"),
        "{came}"
    );
}
