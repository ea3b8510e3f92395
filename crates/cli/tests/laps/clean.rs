//! Sessions with nothing wrong with them, really run: no doubt that states a fact is raised.
//!
//! How often the tests among the doubts accuse clean laps is shown by simulation, in
//! `crates/core/tests/judgement/clean.rs`: a machine under test is busy with other tests, and late laps on it
//! are truly odd.
//!
//! Runs for about 30 s on one core of two.

use honest_lap_testkit::TestEnv;

const LAP: &str = env!("CARGO_BIN_EXE_lap");
const SESSIONS: usize = 30;

#[test]
fn thirty_clean_sessions_of_eight_laps_state_no_fact_that_is_none() {
    let lines = "command = \"sleep 0.05; echo took 50 ms; echo fine > {lap_dir}/out\"\nlaps = 8\n\
                 readings = [{ name = \"own\", after = \"took\", unit = \"ms\", reports = \"time\" }]\n\
                 produces = [{ file = \"{lap_dir}/out\" }]\n\
                 versions = { echo = [\"echo\", \"1\"] }";
    let env = TestEnv::with_workload(LAP, lines);
    for _ in 0..SESSIONS {
        env.lap_ok(&["run"]);
    }
    let json = env.lap(&["doubts", "--format", "json"]).stdout;
    let json: serde_json::Value = serde_json::from_str(&json).unwrap();
    for finding in json["findings"].as_array().unwrap() {
        let doubt = finding["doubt"]["is"].as_str().unwrap();
        // That something else ran meanwhile is a fact about this machine; that it slept, of the lap.
        let true_here = ["machine-busy", "own-time", "mostly-waiting"].contains(&doubt);
        assert!(true_here || finding["by_test"] == true, "{finding:#}");
    }
}
