//! A folder of Parquet that grows by new files only, and what another engine works out from it.
//!
//! Runs for about 6 s on two cores.

#![expect(clippy::unwrap_used, reason = "a test's helpers are test code")]

use honest_lap_testkit::{TestEnv, documented_sql, engines, held_to_sums};
use std::collections::BTreeMap;
use std::fs;
use std::path::Path;
use std::process::Command;

const LAP: &str = env!("CARGO_BIN_EXE_lap");

/// Returns every file below `folder`, with its bytes.
fn files(folder: &Path) -> BTreeMap<String, Vec<u8>> {
    let mut all = BTreeMap::new();
    let mut left = vec![folder.to_owned()];
    while let Some(at) = left.pop() {
        for entry in fs::read_dir(at).unwrap() {
            let path = entry.unwrap().path();
            match path.is_dir() {
                true => left.push(path),
                false => {
                    let name = path.strip_prefix(folder).unwrap().to_str().unwrap().to_owned();
                    all.insert(name, fs::read(&path).unwrap());
                }
            }
        }
    }
    all
}

fn study() -> TestEnv {
    let study = "[study]\nlaps = 3\nwarm_up = 1\n[workload.w]\nkind = \"task\"\ncommand = [\"true\"]\n\
                 [workload.v]\nkind = \"task\"\ncommand = [\"true\"]\n[rig.heron]\n";
    TestEnv::with_study(LAP, study)
}

#[test]
fn a_lake_grows_by_new_files_and_no_file_is_written_again() {
    let env = study();
    env.lap_ok(&["run", "--rig", "heron"]);
    let lake = ["export", "lake", "--out", "lake"];
    let first = env.lap(&lake).stderr;
    assert!(first.contains("laps: 8 rows in 2 new files"), "{first}");
    let before = files(&env.path().join("lake"));
    assert!(env.lap(&lake).stderr.contains("nothing new"));
    env.lap_ok(&["run", "--rig", "heron"]);
    env.lap_ok(&["set-aside", "heron-1.2", "--why", "a cat"]);
    let more = env.lap(&lake).stderr;
    assert!(more.contains("laps: 8 rows in 2 new files"), "{more}");
    assert!(more.contains("remarks: 1 row in 1 new file"), "{more}");
    let after = files(&env.path().join("lake"));
    assert!(after.len() > before.len());
    assert!(
        before.iter().all(|(name, bytes)| after.get(name) == Some(bytes)),
        "none is written again"
    );
    // A file that was lost comes back with all that it had.
    let lost = before.keys().find(|name| name.starts_with("laps/")).unwrap();
    fs::remove_file(env.path().join("lake").join(lost)).unwrap();
    env.lap_ok(&lake);
    assert_eq!(files(&env.path().join("lake"))[lost], before[lost]);
    let none = env.lap(&["export", "lake"]);
    assert!(none.status == Some(2) && none.stderr.contains("--out DIR"), "{none}");
}

/// The query of docs/lab.md that holds `words`.
fn documented(words: &str) -> String {
    let path = concat!(env!("CARGO_MANIFEST_DIR"), "/../../docs/lab.md");
    documented_sql(&fs::read_to_string(path).unwrap(), words)
}

/// Returns a folder with a lake of the demo's lab, and what its sums come to by the tool itself.
fn harbour_lake() -> (TestEnv, String) {
    let lab = TestEnv::harbour(LAP);
    let env = TestEnv::new(LAP);
    for name in ["study.toml", "logbook.db"] {
        fs::copy(lab.path().join("lab").join(name), env.path().join(name)).unwrap();
    }
    env.lap_ok(&["export", "lake", "--out", "lake"]);
    // Whatever its sessions' marks are made of.
    assert!(env.lap(&["export", "lake", "--out", "lake"]).stderr.contains("nothing new"));
    let sums = env.lap_ok(&["export", "sums"]);
    (env, sums)
}

/// Returns what a script in Python prints, run in the folder.
fn printed(python: &Path, script: &str, env: &TestEnv) -> String {
    let told = Command::new(python).args(["-c", script]).current_dir(env.path()).output().unwrap();
    assert!(told.status.success(), "{}", String::from_utf8_lossy(&told.stderr));
    String::from_utf8_lossy(&told.stdout).into_owned()
}

#[test]
fn another_engine_comes_to_the_same_typical_values_and_sums() {
    let Some(python) = engines("what other engines read") else { return };
    let (env, sums) = harbour_lake();
    let script = format!(
        "import duckdb\nfor row in duckdb.sql('''{}''').fetchall(): print(*row, sep=',')",
        documented("arg_max")
    );
    held_to_sums(&printed(&python, &script, &env), &sums);
}

#[test]
fn spark_comes_to_the_same_typical_values_and_sums() {
    // It is 400 MB, and needs Java: on demand.
    let Some(python) = std::env::var_os("LAP_TEST_SPARK") else { return };
    let (env, sums) = harbour_lake();
    let script = format!(
        "from pyspark.sql import SparkSession\nspark = SparkSession.builder.master('local[2]').getOrCreate()\n\
         for row in spark.sql('''{}''').collect(): print(*row, sep=',')",
        documented("max_by")
    );
    held_to_sums(&printed(Path::new(&python), &script, &env), &sums);
}
