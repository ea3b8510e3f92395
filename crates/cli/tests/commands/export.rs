//! `lap export` and what comes back by `lap enter --table`.
//!
//! Runs for about 17 s on one core of two.

use honest_lap_testkit::TestEnv;
use std::io::Read;
use std::process::Stdio;

const LAP: &str = env!("CARGO_BIN_EXE_lap");

fn rows(text: &str) -> Vec<Vec<String>> {
    text.lines().map(|line| line.split(',').map(str::to_owned).collect()).collect()
}

#[test]
fn every_table_has_its_columns_in_every_form_and_as_many_rows() {
    let env = TestEnv::harbour(LAP);
    let export = |words: &[&str]| env.lap_ok(&[&["--study", "lab", "export"], words].concat());
    for (table, first, least) in [
        ("laps", "lap,session,rig,workload,variant", 200),
        ("readings", "lap,rig,workload,variant,measure", 100),
        ("sums", "workload,variant,measure,unit,better,rig", 20),
        ("conditions", "lap,rig,workload,at_ms,quantity", 10_000),
        ("frames", "lap,rig,workload,frame,begins_ns,frame_time_ns", 30_000),
    ] {
        let csv = export(&[table]);
        let lines = csv.lines().count() - 1;
        assert!(csv.starts_with(first) && lines >= least, "{table}: {lines}");
        let json = export(&[table, "--format", "json-lines"]);
        assert_eq!(json.lines().count(), lines, "{table}");
        let object: serde_json::Value =
            serde_json::from_str(json.lines().next().unwrap_or_default())
                .expect("an object a line");
        assert_eq!(
            object.as_object().map(serde_json::Map::len),
            Some(csv.lines().next().map_or(0, |h| h.split(',').count()))
        );
        let file = format!("{table}.parquet");
        export(&[table, "--out", &file]);
        let bytes = std::fs::read(env.path().join(&file)).expect("it was written");
        assert!(bytes.starts_with(b"PAR1") && bytes.ends_with(b"PAR1"), "{table}");
    }
    // A lap's figures are those that were recorded, to the nanosecond.
    let laps = export(&["laps"]);
    assert!(
        laps.contains(
            "heron-1.1,heron-1,heron,dome-still,threads=1,1,1,true,done,false,,1294458035,"
        ),
        "{laps}"
    );
}

#[test]
fn a_reader_that_has_seen_enough_is_no_failure_and_a_file_is_never_replaced() {
    let env = TestEnv::harbour(LAP);
    let mut child = env
        .command(&["--study", "lab", "export", "frames"])
        .stdout(Stdio::piped())
        .stderr(Stdio::piped())
        .spawn()
        .expect("it starts");
    let mut some = [0; 100];
    child.stdout.take().expect("a pipe").read_exact(&mut some).expect("it says something");
    let came = child.wait_with_output().expect("it ends");
    assert_eq!((came.status.code(), came.stderr.as_slice()), (Some(0), &b""[..]));
    env.write("laps.csv", "mine");
    let came = env.lap(&["--study", "lab", "export", "laps", "--out", "laps.csv"]);
    assert_eq!(came.status, Some(2), "{came}");
    assert!(came.stderr.contains("stays as it is"), "{came}");
    let came = env.lap(&["--study", "lab", "export", "lap", "--out", "laps.xlsx"]);
    assert!(came.stderr.contains("end the name in .csv, .jsonl or .parquet"), "{came}");
    let came = env.lap(&["--study", "lab", "export", "lap"]);
    assert!(came.stderr.contains("no table and no pass called `lap`"), "{came}");
}

#[test]
fn a_wide_table_comes_back_as_laps_read_by_hand() {
    let env = TestEnv::harbour(LAP);
    let wide = env.lap_ok(&["--study", "lab", "export", "--sheet"]);
    let cells = rows(&wide);
    assert_eq!(cells[0][..3], ["rig", "dome-still threads=1 [s]", "dome-still threads=2 [s]"]);
    assert_eq!(cells.len(), 5, "a heading and four rigs: {wide}");
    env.write("wide.csv", &wide);
    std::fs::create_dir(env.path().join("other")).expect("a folder");
    std::fs::copy(env.path().join("lab/study.toml"), env.path().join("other/study.toml"))
        .expect("a study to take them into");
    env.lap_ok(&["--study", "other", "enter", "--table", "wide.csv", "--by", "Ada"]);
    let back = env.lap_ok(&["--study", "other", "export", "--sheet"]);
    for (sent, came) in cells.iter().zip(rows(&back)).skip(1) {
        assert_eq!(sent[0], came[0]);
        assert_eq!(sent[1], came[1], "to the last digit");
    }
    let again = env.lap(&["--study", "other", "enter", "--table", "wide.csv"]);
    assert!(again.status == Some(0) && again.stderr.contains("nothing new: "), "{again}");
}

#[test]
fn numbers_of_others_go_into_the_study_once_and_into_no_verdict() {
    let study = "[workload.w]\nkind = \"task\"\nby_hand = \"watch\"\n[rig.a]\n# mine";
    let env = TestEnv::with_study(LAP, study);
    env.lap_ok(&["enter", "w", "--rig", "a", "1.0s", "1.1s", "1.2s"]);
    env.write("theirs.csv", "machine;w [s]\nosprey;0,9\n");
    let take = ["enter", "--table", "theirs.csv", "--elsewhere", "the maker's leaflet"];
    let came = env.lap(&take);
    assert_eq!(
        (came.status, came.stderr.contains("1 number from elsewhere added")),
        (Some(0), true),
        "{came}"
    );
    let text = std::fs::read_to_string(env.path().join("study.toml")).expect("it is there");
    assert!(text.starts_with(study) && text.contains("rig      = \"osprey\""), "{text}");
    assert!(env.lap_ok(&["compare"]).contains("From elsewhere, in no verdict: osprey"));
    let came = env.lap(&take);
    assert!(came.stderr.contains("0 numbers from elsewhere added; 1 were there already"), "{came}");
    env.write("bad.csv", "rig,nothing [s]\na,5\n");
    let came = env.lap(&["enter", "--table", "bad.csv"]);
    assert_eq!(came.status, Some(2), "{came}");
    assert!(
        came.stderr.contains("B1: the study has no workload and no measure `nothing [s]`"),
        "{came}"
    );
}
