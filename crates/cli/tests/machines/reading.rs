//! What is judged where the data lie is what a merged logbook says; what was taken away from the store is named.

use super::{LAP, empty, harbour, lab, sync, typed};
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
    // What endurance laps come to is worked out where no version noted it, as none did at first.
    let endured = "SELECT count(*) FROM honest_lap.lap_detail WHERE endured IS NOT NULL";
    assert_ne!(server.sql("keeper", "laps", endured), "0");
    server.sql(
        "keeper",
        "laps",
        "ALTER TABLE honest_lap.lap_detail DISABLE TRIGGER never; UPDATE honest_lap.lap_detail SET endured = NULL;
         ALTER TABLE honest_lap.alike DISABLE TRIGGER by_rules_alone; DELETE FROM honest_lap.alike;
         INSERT INTO honest_lap.alike SELECT f.* FROM
             (SELECT DISTINCT session, honest_lap.stretch(number) AS stretch FROM honest_lap.lap) t,
             LATERAL honest_lap.alike_in(t.session, t.stretch) f",
    );
    let json = ["compare", "--format", "json"];
    let there = reader.lap(&[&json[..], &[store.as_str()]].concat());
    assert_eq!(there.stdout, env.lap(&json).stdout, "{there}");
}

#[test]
fn laps_that_are_alike_are_read_as_if_each_came_by_itself() {
    let server = Postgres::start(&[]);
    lab(&server, &[]);
    let study =
        "[workload.tunnel]\nkind = \"task\"\nby_hand = \"fly it\"\n[rig.heron]\n[rig.wren]\n";
    let env = TestEnv::with_study(LAP, study);
    let mut sheet = "rig,date,tunnel [s]\n".to_owned();
    for (rig, typical) in [("heron", 90.0), ("wren", 99.0)] {
        for day in 1..=2 {
            for lap in 0..7 {
                let time = typical + 0.013 * f64::from(lap * 5 % 7) + 0.1 * f64::from(day);
                sheet += &format!("{rig},2026-03-{day:02},{time:.3}\n");
            }
        }
    }
    env.write("t.csv", &sheet);
    env.lap_ok(&["enter", "--table", "t.csv"]);
    sync(&env, &server, "keeper");
    let packed =
        "SELECT count(*), sum(length(walls)) FROM honest_lap.alike WHERE walls IS NOT NULL";
    assert_eq!(server.sql("keeper", "laps", packed), "4|224", "seven laps each");
    let store = format!("--store={}", server.address("keeper"));
    let same = |env: &TestEnv| {
        for what in ["compare", "doubts"] {
            let (here, there) = (
                env.lap(&[what, "--format", "json"]),
                env.lap(&[what, "--format", "json", &store]),
            );
            assert!(here.stdout.len() > 1_000, "{here}");
            assert_eq!(there.stdout, here.stdout, "{what}");
        }
    };
    same(&env);
    // One of them is set aside: it is told apart from those that it is like.
    env.lap_ok(&["set-aside", "heron-1.5", "--why", "a door slammed"]);
    sync(&env, &server, "keeper");
    same(&env);
    let compared = env.lap_ok(&["compare", "--format", "json", &store]);
    assert!(compared.contains("\"set_aside\": 1"), "{compared}");
}

#[test]
fn laps_that_are_run_are_kept_together_whatever_is_known_of_each() {
    let server = Postgres::start(&[]);
    lab(&server, &[]);
    // A score of its own in each lap, and now and then something else: a lap that fails, one that leaves a program behind.
    let study = "[study]\nwarm_up = 1\nlaps = 8\n[workload.still]\nkind = \"task\"\ncommand = \"sh ./still.sh {sky}\"\n\
                 vary = { sky = [\"day\", \"night\"] }\n\
                 readings = [{ name = \"stars\", after = \"stars\", unit = \"points\", better = \"more\" }]\n";
    let env = TestEnv::with_study(LAP, study);
    env.write(
        "still.sh",
        "n=$(cat count 2>/dev/null || echo 0); echo $((n + 1)) > count\n\
         [ $((n % 7)) = 5 ] && exit 3; [ $((n % 7)) = 4 ] && (sleep 30 &)\n\
         echo stars $((n * 37 % 11 + 1)).$((n % 3)) points\n",
    );
    for _ in 0..2 {
        env.lap(&["run", "--rig", "heron"]);
    }
    sync(&env, &server, "keeper");
    let asked = "SELECT count(*) = sum(CASE WHEN details IS NULL THEN 0 ELSE 1 END), sum(length(walls)) / 8, count(*) < 13
                 FROM honest_lap.alike WHERE walls IS NOT NULL";
    let kept = server.sql("keeper", "laps", asked);
    let (told, rest) = kept.split_once('|').unwrap();
    assert!(told == "t" && rest.ends_with("|t"), "each has its own conditions: {kept}");
    let together: usize = rest.trim_end_matches("|t").parse().unwrap();
    assert!((24..=36).contains(&together), "of 36 laps a few stand alone: {kept}");
    let store = format!("--store={}", server.address("keeper"));
    for args in [
        &["compare", "--format", "json"][..],
        &["compare", "--measure", "stars", "--columns", "use,own threads"],
        &["doubts", "--format", "json"],
        &["export", "laps"],
        &["export", "readings"],
    ] {
        let with: Vec<&str> = args.iter().copied().chain([store.as_str()]).collect();
        let (here, there) = (env.lap(args), env.lap(&with));
        assert!(here.stdout.len() > 300, "{args:?}: {here}");
        assert_eq!(there.stdout.replace(" --store=…", ""), here.stdout, "{args:?}: {there}");
    }
    env.lap_ok(&["set-aside", "heron-1.7", "--why", "a door slammed"]);
    sync(&env, &server, "keeper");
    let json = ["compare", "--format", "json"];
    let there = env.lap(&[&json[..], &[store.as_str()]].concat());
    assert_eq!(there.stdout, env.lap(&json).stdout, "{there}");
    assert_eq!(env.lap(&["verify", &store]).status, Some(0));
}

#[test]
fn a_store_of_before_laps_were_kept_together_is_brought_up_by_its_owner() {
    let server = Postgres::start(&["heron"]);
    lab(&server, &["heron"]);
    let env = typed("heron", 5, 2);
    sync(&env, &server, "heron");
    // As it was made then.
    server.sql(
        "keeper",
        "laps",
        "DROP TABLE honest_lap.alike; DROP FUNCTION honest_lap.alike_in, honest_lap.steps, honest_lap.stretch,
             honest_lap.by_rules_alone;
         CREATE OR REPLACE FUNCTION honest_lap.n(name text, value bigint) RETURNS text LANGUAGE sql IMMUTABLE AS
         $$ SELECT CASE WHEN value IS NULL THEN ''
                        ELSE name || ' n' || length(value::text) || ':' || value || chr(10) END $$",
    );
    let store = format!("--store={}", server.address("heron"));
    let refused = env.lap(&["compare", &store]);
    assert!(refused.status == Some(2) && refused.stderr.contains("lap store init"), "{refused}");
    let refused = env.lap(&["sync", "--store", &server.address("heron")]);
    assert!(refused.stderr.contains("its owner brings it up"), "{refused}");
    env.lap_ok(&["store", "init", "--store", &server.address("keeper")]);
    let (here, there) = (env.lap(&["compare"]), env.lap(&["compare", &store]));
    assert_eq!(there.stdout.replace(" --store=…", ""), here.stdout, "{there}");
    assert_eq!(env.lap(&["verify", &store]).status, Some(0));
    let line = "SELECT prosrc LIKE '%length(value::text)::text%' FROM pg_proc WHERE oid = 'honest_lap.n'::regproc";
    assert_eq!(server.sql("keeper", "laps", line), "t", "a line is put together in place");
    let more = typed("heron", 3, 4);
    sync(&more, &server, "heron");
    assert_eq!(env.lap(&["verify", &store]).status, Some(0), "and its rules go on");
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
    let by_hand = |sql: &str| {
        owner(&format!(
            "ALTER TABLE honest_lap.alike DISABLE TRIGGER by_rules_alone; {sql};
             ALTER TABLE honest_lap.alike ENABLE TRIGGER by_rules_alone"
        ))
    };
    let kept = "CREATE TABLE kept AS SELECT * FROM honest_lap.alike";
    by_hand(&format!("{kept}; UPDATE honest_lap.alike SET walls = walls || walls"));
    named(&env, "of laps that are alike are not what follows from the laps");
    by_hand("UPDATE honest_lap.alike SET details = replace(details, '90', '80')");
    named(&env, "of laps that are alike are not what follows from the laps");
    by_hand("DELETE FROM honest_lap.alike");
    named(&env, "of laps that are alike are not what follows from the laps");
    by_hand("INSERT INTO honest_lap.alike SELECT * FROM kept");
    assert_eq!(env.lap(&["verify", &store]).status, Some(0));
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
