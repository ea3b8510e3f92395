//! Variants and how they are told; those that do less are not faster, through the built tool: by rate where work is stated, doubted otherwise.
//!
//! Runs for about 6 s on one core of two.

use honest_lap_testkit::{TestEnv, csv_column};

const LAP: &str = env!("CARGO_BIN_EXE_lap");

/// Stills of many light paths and of few: as fast a path, and not as good a picture.
fn stills(more: &str) -> TestEnv {
    let study = format!(
        "[study]\nlaps = 4\nwarm_up = 0\n[workload.still]\nkind = \"task\"\n\
         command = [\"{{lap}}\", \"stand-in\", \"dome-still\", \"--size\", \"64\", \"--paths\", \"{{paths}}\", \"--out\", \"{{lap_dir}}/still.png\"]\n\
         vary = {{ paths = [320, 2] }}\n{more}"
    );
    TestEnv::with_study(LAP, &study)
}

fn doubts_of(env: &TestEnv) -> String {
    let said = env.lap(&["doubts", "--explain"]).stdout;
    said.split_whitespace().collect::<Vec<_>>().join(" ")
}

#[test]
fn a_variant_that_shows_less_is_doubted_and_named_beside_its_verdict() {
    let env = stills("produces = [{ file = \"{lap_dir}/still.png\", same_picture = \"2%\" }]\n");
    env.lap_ok(&["run", "--rig", "heron"]);
    let said = env.lap_ok(&["compare", "--tables"]);
    assert!(said.contains("paths=2 faster") && said.contains("less work"), "{said}");
    let doubts = doubts_of(&env);
    assert!(doubts.contains("paths=2 is held against paths=320 by time"), "{doubts}");
    assert!(doubts.contains("shows something else") && doubts.contains("in grain"), "{doubts}");
    assert!(!doubts.contains("other work"), "each variant always makes the same: {doubts}");
    // A wider allowance, and the same laps show the same: nothing is recorded anew.
    let text = std::fs::read_to_string(env.path().join("study.toml")).expect("the study");
    env.write("study.toml", &text.replace("\"2%\"", "\"30%\""));
    assert!(!doubts_of(&env).contains("shows something else"), "{}", doubts_of(&env));
}

#[test]
fn where_the_work_is_stated_variants_are_judged_by_rate_and_not_doubted() {
    let env = stills("work = \"{paths} Mpath\"\nproduces = [{ file = \"{lap_dir}/still.png\" }]\n");
    env.lap_ok(&["run", "--rig", "heron"]);
    let said = env.lap_ok(&["compare", "--tables"]);
    assert!(said.contains("paths=2 slower"), "{said}");
    assert!(said.contains("judged by work in a second"), "{said}");
    assert!(!doubts_of(&env).contains("less work"), "{said}");
    let csv = env.lap_ok(&["compare", "--format", "csv"]);
    assert!(csv_column(&csv, "by_rate").contains(&"true".to_owned()), "{csv}");
    assert!(csv_column(&csv, "time_saved").iter().all(String::is_empty), "{csv}");
    assert!(env.lap_ok(&["compare", "--format", "json"]).contains("\"by_rate\": true"));
    let sums = env.lap_ok(&["export", "sums"]);
    assert!(csv_column(&sums, "by_rate").contains(&"true".to_owned()), "{sums}");
}

#[test]
fn a_picture_that_differs_between_laps_of_a_variant_or_cannot_be_read_is_told() {
    let study = "[study]\nlaps = 2\nwarm_up = 0\n[workload.w]\nkind = \"task\"\n\
        command = \"cp next.png {lap_dir}/still.png\"\n\
        produces = [{ file = \"{lap_dir}/still.png\", same_picture = \"2%\" }]\n";
    let env = TestEnv::with_study(LAP, study);
    let still = |paths: &str| {
        let out = ["--size", "64", "--paths", paths, "--out", "next.png"];
        env.lap_ok(&[&["stand-in", "dome-still"], out.as_slice()].concat());
    };
    still("48");
    env.lap_ok(&["run", "--rig", "heron"]);
    still("2");
    env.lap_ok(&["run", "--rig", "wren"]);
    let doubts = doubts_of(&env);
    assert!(doubts.contains("other work"), "{doubts}");
    assert!(doubts.contains("2.0 % is allowed"), "{doubts}");
    let said = env.lap_ok(&["compare", "--tables"]);
    assert!(said.contains("not comparable") && said.contains("apart in grain"), "{said}");
    env.write("next.png", "no picture at all");
    env.lap_ok(&["run", "--rig", "plover"]);
    let lap = env.lap_ok(&["show", "plover-1.1"]);
    assert!(lap.contains("cannot be compared as a picture: it is neither PNG nor JPEG"), "{lap}");
}

#[test]
fn variants_are_told_in_the_order_of_the_study_without_what_is_the_same_in_all() {
    let study = "[study]\nlaps = 2\nwarm_up = 0\n[workload.w]\nkind = \"task\"\n\
        command = [\"true\", \"{threads}\", \"{encoder}\", \"{codec}\"]\n\
        vary = { threads = [1, 2], encoder = [\"soft\"], codec = [\"sky\"] }\n\
        [workload.alone]\nkind = \"task\"\ncommand = [\"true\", \"{encoder}\"]\n\
        vary = { encoder = [\"soft\"] }\n";
    let env = TestEnv::with_study(LAP, study);
    let ran = env.lap(&["run", "--rig", "heron"]);
    assert!(!ran.stdout.contains("encoder") && !ran.stderr.contains("encoder"), "{ran}");
    let session = env.lap_ok(&["show", "heron-1"]);
    assert!(session.contains("threads=2") && !session.contains("encoder"), "{session}");
    let compared = env.lap_ok(&["compare", "--tables"]);
    assert!(!compared.contains("encoder") && !compared.contains("codec"), "{compared}");
    // All of them stay on record, and are asked for by name.
    let json = env.lap_ok(&["compare", "--format", "json"]);
    assert!(json.contains("\"encoder\": \"soft\""), "{json}");
    env.lap_ok(&["compare", "w", "--with", "encoder=soft", "--variant", "threads=1"]);
    // Once there is another value, it is told; what is first in the study comes first.
    let other = study.replace(
        "encoder = [\"soft\"], codec = [\"sky\"]",
        "encoder = [\"soft\", \"hard\"], codec = [\"sky\"]",
    );
    env.write("study.toml", &other);
    let compared = env.lap_ok(&["compare", "w", "--tables"]);
    assert!(compared.contains("threads=2, encoder=soft"), "{compared}");
}

#[test]
fn rates_have_the_prefix_that_suits_them_and_a_peak_may_be_of_a_setting() {
    let study = "[study]\nlaps = 2\nwarm_up = 0\n[workload.w]\nkind = \"task\"\n\
        command = \"sleep 0.05; true {precision}\"\nwork = \"2 * 512^3 FLOP\"\n\
        vary = { precision = [\"fp64\", \"fp32\"] }\n\
        [rig.heron]\npeak = { precision = { fp64 = \"50 GFLOP/s\", fp32 = \"100 GFLOP/s\" } }\n\
        peak_from = \"a leaflet\"\n";
    let env = TestEnv::with_study(LAP, study);
    env.lap_ok(&["run", "--rig", "heron"]);
    let said = env.lap_ok(&["compare", "--explain"]);
    // In its heading, or in the line of what all rows share.
    assert!(said.contains("[GFLOP/s]") || said.contains(" GFLOP/s, laps"), "{said}");
    let said: Vec<&str> = said.split_whitespace().collect();
    let of = "heron 100 GFLOP/s at precision=fp32 (a leaflet)";
    assert!(said.join(" ").contains(of), "{said:?}");
    let csv = env.lap_ok(&["compare", "--format", "csv"]);
    assert!(csv_column(&csv, "work_unit").iter().all(|unit| unit == "FLOP"), "{csv}");
    let shares = csv_column(&csv, "share_of_peak");
    let shares: Vec<f64> = shares.iter().filter_map(|share| share.parse().ok()).collect();
    assert_eq!(shares.len(), 2, "{csv}");
    let typical = csv_column(&csv, "typical");
    let typical = typical.iter().map(|typical| typical.parse::<f64>().expect("a time"));
    let variants = csv_column(&csv, "variant");
    // However long its laps took on a busy machine: a row's rate over the peak of its own setting.
    for ((variant, typical), share) in variants.iter().zip(typical).zip(shares) {
        let peak = if variant.ends_with("fp64") { 50e9 } else { 100e9 };
        let work = share * typical * peak;
        assert!((work / (2.0 * 512.0_f64.powi(3)) - 1.0).abs() < 1e-9, "{variant}: {csv}");
    }
}
