//! Real programs of the base system: a C compiler and a video encoder.
//!
//! `scripts/test` installs them; one that is missing fails the test.
//!
//! Runs for about 13 s on one core of two.

use honest_lap_testkit::{TestEnv, rows_of};

const LAP: &str = env!("CARGO_BIN_EXE_lap");

#[test]
fn compiles_with_the_systems_c_compiler_at_two_levels() {
    let env = TestEnv::with_study(
        LAP,
        r#"
[study]
laps = 3
warm_up = 1

[workload.compile]
about    = "Compile one file"
kind     = "task"
command  = ["cc", "-O{level}", "-c", "{study_dir}/stars.c", "-o", "{lap_dir}/stars.o"]
vary     = { level = [0, 2] }
produces = [{ file = "{lap_dir}/stars.o", at_least = "1 kB", check = ["nm", "{lap_dir}/stars.o"] }]
versions = { compiler = ["cc", "--version"] }
"#,
    );
    let functions: String = (0..400)
        .map(|n| format!("double star{n}(double x) {{ for (int i = 0; i < {n}; i++) x = x * x - {n}; return x; }}\n"))
        .collect();
    env.write("stars.c", &functions);
    env.lap_ok(&["run"]);
    let shown = env.lap_ok(&["show", "here-1"]);
    assert!(shown.contains("compiler of compile: cc"), "{shown}");
    let json: serde_json::Value =
        serde_json::from_str(&env.lap_ok(&["compare", "--format", "json"])).unwrap();
    let rows = rows_of(&json);
    assert_eq!(rows.len(), 2, "{json:#}");
    // Three laps were asked for; two variants are run in an even number of pairs.
    assert!(rows.iter().all(|row| row["counts"]["counted"] == 4));
    let slower = &rows.iter().find(|row| row["variant"]["level"] == "2").unwrap()["against"];
    assert_eq!(slower["ground"]["is"], "pairs");
    assert!(slower["ratio"].as_f64().unwrap() < 1.0, "optimising takes longer: {json:#}");
}

#[test]
fn exports_a_reel_with_an_encoder() {
    let env = TestEnv::with_study(
        LAP,
        r#"
[study]
laps = 2
warm_up = 0

[workload.reel-export]
about    = "Encode the show reel"
kind     = "task"
before   = ["{lap}", "stand-in", "reel-frames", "--frames", "12", "--out", "{lap_dir}/reel.y4m"]
command  = ["vpxenc", "--codec=vp8", "--rt", "--cpu-used={haste}", "-o", "{lap_dir}/reel.webm", "{lap_dir}/reel.y4m"]
vary     = { haste = [4, 8] }
work     = "12 frames"
produces = [{ file = "{lap_dir}/reel.webm", at_least = "1 kB" }]
"#,
    );
    env.lap_ok(&["run"]);
    let shown = env.lap_ok(&["show", "here-1.1"]);
    assert!(shown.contains("in the sums") && shown.contains("counted"), "{shown}");
    assert!(shown.contains("reel.webm:"), "{shown}");
    let compared = env.lap_ok(&["compare", "--format", "markdown"]);
    assert!(compared.contains("frames/s"), "{compared}");
    assert!(compared.contains("no verdict: 2 laps"), "{compared}");
}
