//! Examples in the documentation that are said to run.
//!
//! Runs for about 25 s on one core of two, most of it waiting.

use honest_lap_testkit::{TestEnv, rows_of};

const LAP: &str = env!("CARGO_BIN_EXE_lap");

/// Returns the example that stands below `heading` in docs/formats/study.md.
fn example(heading: &str) -> String {
    let page = concat!(env!("CARGO_MANIFEST_DIR"), "/../../docs/formats/study.md");
    let text = std::fs::read_to_string(page).expect("the page is there");
    let below = text.split_once(heading).unwrap_or_else(|| panic!("no `{heading}`")).1;
    let example = below.split_once("```toml\n").and_then(|(_, rest)| rest.split_once("```\n"));
    example.expect("an example follows").0.to_owned()
}

#[test]
fn the_backlog_is_a_lap_whose_time_is_its_draining() {
    let study =
        format!("[study]\nlaps = 3\nwarm_up = 0\n{}\n[rig.heron]\n", example("### A backlog"));
    let env = TestEnv::with_study(LAP, &study);
    let came = env.lap(&["run", "--rig", "heron"]);
    assert_eq!(came.status, Some(0), "{came}");
    let rows = env.lap_ok(&["export", "readings", "--format", "json-lines"]);
    let rows = rows.lines().map(|row| serde_json::from_str::<serde_json::Value>(row).unwrap());
    let of = |name: &str| -> Vec<f64> {
        rows.clone()
            .filter(|row| row["measure"] == name)
            .map(|row| row["value"].as_f64().unwrap())
            .collect()
    };
    // Forty letters, 10 ms apart at least, and 20 ms each to answer: half of them are still to be answered.
    assert!(of("arriving").iter().all(|s| *s > 0.4) && of("arriving").len() == 3);
    assert!(of("drain").iter().all(|s| *s > 0.1 && *s < 5.0), "{:?}", of("drain"));
    let compared: serde_json::Value =
        serde_json::from_str(&env.lap_ok(&["compare", "--measure", "time", "--format", "json"]))
            .unwrap();
    let time = rows_of(&compared)[0]["cell"]["typical"].as_f64().unwrap();
    let drains = of("drain");
    let typical = (drains.iter().map(|s| s.ln()).sum::<f64>() / 3.0).exp();
    assert!((time / typical - 1.0).abs() < 1e-6, "{time} {typical}");
}

#[test]
fn the_long_hauls_are_read_as_they_stand() {
    let study = format!("[study]\n{}\n[rig.heron]\n", example("## Endurance").replace("2h", "1h"));
    let env = TestEnv::with_study(LAP, &study);
    let shown = env.lap_ok(&["run", "night-shift", "--rig", "heron", "--preview"]);
    assert!(shown.contains("night-shift") && shown.contains("1 h"), "{shown}");
}

#[test]
fn every_study_that_init_writes_runs_as_it_stands() {
    for kind in ["task", "render", "export", "compile", "game", "playback", "scores", "battery"] {
        let env = TestEnv::new(LAP);
        let wrote = env.lap_ok(&["init", "--for", kind]);
        assert!(wrote.contains("wrote study.toml; it runs as it stands"), "{kind}: {wrote}");
        let path = env.path().join("study.toml");
        // A minute of work says no more here than two seconds do.
        let study = std::fs::read_to_string(&path).unwrap().replace("\"1min\"", "\"2s\"");
        std::fs::write(&path, study).unwrap();
        let came = env.lap(&["run", "--rig", "heron", "--laps", "1"]);
        assert_eq!(came.status, Some(0), "{kind}: {came}");
        env.lap_ok(&["compare"]);
    }
    let env = TestEnv::new(LAP);
    env.lap_ok(&["init", "--for", "by-hand"]);
    env.lap_ok(&["enter", "window-export", "--rig", "heron", "--with", "encoder=hardware", "5:41"]);
}
