//! What is judged where the data lie is what a merged logbook says; what was taken away from the store is named.

use super::{empty, harbour, lab, sync, typed};
use honest_lap_testkit::{Postgres, TestEnv, documented_sql, held_to_sums};

#[test]
fn the_answers_are_those_of_a_merged_logbook_to_the_last_digit() {
    let server = Postgres::start(&[]);
    let env = harbour();
    sync(&env, &server, "keeper");
    let reader = empty(&env);
    let store = format!("--store={}", server.address("keeper"));
    for args in [
        &["compare", "--format", "json"][..],
        &["compare", "dome-still"],
        &["doubts", "--format", "json"],
        &["claim", "kestrel is faster than wren on dome-still"],
        &["value", "--format", "json"],
        &["export", "laps"],
        &["export", "sums"],
        &["export", "frames"],
    ] {
        let with: Vec<&str> = args.iter().copied().chain([store.as_str()]).collect();
        let (here, there) = (env.lap(args), reader.lap(&with));
        // But for what is to be asked next, which reads the store too.
        let said = there.stdout.replace(" --store=…", "");
        assert_eq!(said, here.stdout, "{args:?}: {there}");
        assert_eq!(there.status, here.status, "{args:?}: {there}");
    }
    assert!(!reader.path().join("logbook.db").exists(), "it is read, and nothing is recorded");
    reader.lap_ok(&["report", &store]);
    reader.lap_ok(&["verify", "report.html"]);
    let left: Vec<_> =
        std::fs::read_dir(reader.path()).unwrap().map(|file| file.unwrap().file_name()).collect();
    assert!(!left.iter().any(|name| name.to_string_lossy().starts_with("honest-lap-")), "{left:?}");
}

#[test]
fn rules_and_records_that_an_owner_changed_are_named() {
    let server = Postgres::start(&[]);
    lab(&server, &[]);
    let env = typed("heron", 3, 2);
    sync(&env, &server, "keeper");
    let store = format!("--store={}", server.address("keeper"));
    let whole = env.lap(&["verify", &store]);
    assert_eq!(whole.status, Some(0), "{whole}");
    let named = |env: &TestEnv, what: &str| {
        let told = env.lap(&["verify", &store]);
        assert_eq!(told.status, Some(1), "{told}");
        assert!(told.to_string().contains(what), "{what}: {told}");
    };
    let owner = |sql: &str| server.sql("keeper", "laps", sql);
    owner("ALTER TABLE honest_lap.lap DISABLE TRIGGER never");
    named(&env, "the rule lap.never is gone");
    owner("UPDATE honest_lap.lap SET wall_ns = wall_ns - 1 WHERE number = 2");
    owner("ALTER TABLE honest_lap.lap ENABLE TRIGGER never");
    named(&env, "lap heron-1.2");
    let other = empty(&env);
    let fetched = other.lap(&["sync", "--store", &server.address("keeper")]);
    assert!(fetched.status == Some(2) && fetched.stderr.contains("heron-1"), "{fetched}");
    owner("ALTER TABLE honest_lap.session NO FORCE ROW LEVEL SECURITY");
    named(&env, "the row security of session is gone");
    owner(
        "CREATE OR REPLACE FUNCTION honest_lap.writes(of_rig text) RETURNS boolean LANGUAGE sql AS $$ SELECT true $$",
    );
    named(&env, "the function honest_lap.writes is gone");
}

#[test]
fn the_database_itself_comes_to_the_same_typical_values_and_sums() {
    let server = Postgres::start(&["press"]);
    let env = harbour();
    sync(&env, &server, "keeper");
    let keeper = server.address("keeper");
    env.lap_ok(&["store", "allow", "press", "--reads", "--store", &keeper]);
    let path = concat!(env!("CARGO_MANIFEST_DIR"), "/../../docs/lab.md");
    let query = documented_sql(&std::fs::read_to_string(path).unwrap(), "jsonb_array_elements");
    let said = server.sql("press", "laps", &query).replace('|', ",");
    held_to_sums(&said, &env.lap_ok(&["export", "sums"]));
}
