//! Claims, value, doubts across rigs and two ways at once, through the built tool on the demo's lab.
//!
//! Runs for about 18 s on one core of two.

use honest_lap_testkit::{TestEnv, rows_of};
use serde_json::Value;

const LAP: &str = env!("CARGO_BIN_EXE_lap");

#[expect(clippy::unwrap_used, reason = "a test may stop where it likes")]
fn edit(env: &TestEnv, from: &str, to: &str) {
    let path = env.path().join("lab/study.toml");
    let text = std::fs::read_to_string(&path).unwrap();
    assert!(text.contains(from), "{from}");
    std::fs::write(&path, text.replacen(from, to, 1)).unwrap();
}

fn lab(env: &TestEnv, args: &[&str]) -> honest_lap_testkit::CommandResult {
    env.lap(&[&["--study", "lab"], args].concat())
}

#[test]
fn the_makers_three_claims_are_one_true_one_false_and_one_that_cannot_be_said() {
    let env = TestEnv::harbour(LAP);
    let all = lab(&env, &["claim"]);
    assert_eq!(all.status, Some(1), "{all}");
    insta::assert_snapshot!(all.stdout);
    let json = lab(&env, &["claim", "--format", "json"]).stdout;
    let json: Value = serde_json::from_str(&json).unwrap();
    let answered = json["answered"].as_array().unwrap();
    let answers: Vec<&Value> = answered.iter().map(|one| &one["found"]["answer"]).collect();
    assert_eq!(answers, ["holds", "does-not", "cannot-be-said"]);
    assert_eq!(answered[0]["published"]["who"], "Harbour Machines");
}

#[test]
fn a_sentence_that_is_not_understood_leaves_the_others_answered() {
    let env = TestEnv::harbour(LAP);
    let came =
        lab(&env, &["claim", "Kestrel beats Heron on Dome Still", "kestrel sings on dome-still"]);
    assert_eq!(came.status, Some(2), "{came}");
    assert!(came.stdout.contains("This holds."), "{came}");
    assert!(came.stderr.contains("`sings` is not understood"), "{came}");
    let json =
        lab(&env, &["claim", "--format", "json", "kestrel sings", "kestrel is third"]).stdout;
    let json: Value = serde_json::from_str(&json).expect("JSON");
    assert_eq!(json["unread"][0]["published"]["says"], "kestrel sings");
    assert_eq!(json["answered"].as_array().map(Vec::len), Some(1));
}

#[test]
fn up_to_is_answered_with_the_largest_and_the_typical_ratio_and_several_claims_are_counted() {
    let env = TestEnv::harbour(LAP);
    let came = lab(&env, &["claim", "kestrel is up to 1.2x as fast as heron in time"]);
    assert_eq!(came.status, Some(0), "{came}");
    for part in ["is said of the largest of 7", "on dome-still threads=2", "mean of all is 1.09×"]
    {
        assert!(came.stdout.contains(part), "{part}: {came}");
    }
    let both = lab(&env, &["claim", "kestrel and wren are faster than heron on dome-still"]);
    assert_eq!(both.status, Some(1), "{both}");
    assert!(both.stdout.contains("Of 2 claims 1 is held by the laps, 1 is refuted"), "{both}");
    assert!(
        both.stdout.contains("These are 2 claims: each by itself errs in at most 5 %"),
        "{both}"
    );
    assert!(both.stdout.contains("\"wren is faster than heron on dome-still\""), "{both}");
}

#[test]
fn a_claim_is_a_gate_its_nearest_sentence_holds_and_nonsense_is_told_apart() {
    let env = TestEnv::harbour(LAP);
    let gate = ["claim", "heron takes at most 700 ms on dome-still threads=2"];
    assert_eq!(lab(&env, &gate).status, Some(0));
    let missed = lab(&env, &["claim", "heron takes at most 600 ms on dome-still threads=2"]);
    assert_eq!(missed.status, Some(1), "{missed}");
    let near =
        missed.stdout.lines().find_map(|line| line.strip_prefix("Closest supported claim: "));
    let near = near.unwrap_or_else(|| panic!("{missed}")).trim_end_matches('.');
    assert_eq!(lab(&env, &["claim", near]).status, Some(0), "{near}");
    // Without quotes, too.
    let words: Vec<&str> = "claim kestrel is faster than wren overall".split(' ').collect();
    assert_eq!(lab(&env, &words).status, Some(0));
    let energy = lab(&env, &["claim", "kestrel uses at most 90% of the energy of heron overall"]);
    assert_eq!(energy.status, Some(0), "{energy}");
    for (wrong, told) in [
        ("osprey is faster than wren", "`osprey` is no rig that has laps"),
        ("heron is lovely", "`lovely` is not understood here"),
        ("noise of heron is above 3", "`noise` is not a measure that the laps have"),
    ] {
        let came = lab(&env, &["claim", wrong]);
        assert!(came.status == Some(2) && came.stderr.contains(told), "{came}");
    }
}

#[test]
fn rigs_are_weighed_against_money_and_an_upgrade_is_reckoned() {
    let env = TestEnv::harbour(LAP);
    let value = lab(&env, &["value"]);
    assert_eq!(value.status, Some(0), "{value}");
    insta::assert_snapshot!(value.stdout);
    let pays = lab(&env, &["value", "--from", "wren", "--to", "kestrel", "--format", "json"]);
    let json: Value = serde_json::from_str(&pays.stdout).unwrap();
    let pays = &json["worth"]["upgrades"][0];
    assert_eq!(
        (&pays["to"], &pays["jobs"][0]["workload"]),
        (&"kestrel".into(), &"dome-still".into())
    );
    let number = |of: &str, key: &str| pays[of][key].as_f64().unwrap();
    // 180,000 jobs of the mean of both variants, at 45 EUR an hour, for 2,380 EUR.
    let worth = number("hours", "value") * 45.0;
    assert!((number("worth", "value") / worth - 1.0).abs() < 1e-9);
    assert!((number("months", "value") / (2380.0 / worth) - 1.0).abs() < 1e-9);
    assert!(number("months", "low") < number("months", "value"));
    let figure = lab(&env, &["value", "--out", "worth.png"]);
    assert_eq!(figure.status, Some(0), "{figure}");
    assert!(std::fs::read(env.path().join("worth.png")).unwrap().starts_with(b"\x89PNG"));
    let odd = lab(&env, &["value", "--from", "osprey"]);
    assert!(odd.status == Some(2) && odd.stderr.contains("`osprey`"), "{odd}");
}

#[test]
fn doubts_come_by_what_they_could_change_and_a_retest_names_the_laps() {
    let env = TestEnv::harbour(LAP);
    let json = lab(&env, &["doubts", "--format", "json"]).stdout;
    let json: Value = serde_json::from_str(&json).unwrap();
    let findings = json["findings"].as_array().unwrap();
    let turns = |finding: &&Value| finding["impact"]["is"] == "turns";
    let turned = findings.iter().take_while(turns).map(|f| f["impact"]["of"].as_u64().unwrap());
    let turned: Vec<u64> = turned.collect();
    assert!(turned.len() > 2 && turned.is_sorted_by(|a, b| a >= b), "{turned:?}");
    assert_eq!(findings.iter().filter(turns).count(), turned.len(), "they come first");
    let named = |name: &str| findings.iter().any(|finding| finding["doubt"]["is"] == name);
    for name in ["older-program", "upside-down", "nothing-to-choose", "one-of-a-kind", "throttled"]
    {
        assert!(named(name), "{name}: {findings:#?}");
    }
    assert!(!named("missing"), "what the study says a rig cannot do is not missing");
    let retest = lab(&env, &["doubts", "--retest"]);
    assert_eq!(retest.status, Some(1));
    insta::assert_snapshot!(retest.stdout);
}

#[test]
fn a_retest_drives_what_is_open_and_nothing_else() {
    let study = "[study]\nlaps = 3\nwarm_up = 0\n\
        [workload.short]\nkind = \"task\"\ncommand = [\"sleep\", \"0.02\"]\n\
        [workload.other]\nkind = \"task\"\ncommand = [\"sleep\", \"0.02\"]\n";
    let env = TestEnv::with_study(LAP, study);
    env.lap_ok(&["run", "other"]);
    env.lap_ok(&["run", "short", "--laps", "2"]);
    let csv = |args: &[&str]| env.lap(args).stdout;
    // A busy host adds a doubt, and a cell of text wraps: rows do not.
    assert!(csv(&["doubts", "--retest", "--format", "csv"]).contains("too few laps"));
    let came = env.lap(&["run", "--retest", "short"]);
    assert_eq!(came.status, Some(0), "{came}");
    // That a sleep waits may be told as well.
    let retest = came.stderr.lines().find(|line| line.contains("retest: short on "));
    assert!(retest.is_some_and(|line| line.contains("too few laps")), "{came}");
    let driven = csv(&["show", "here-3", "--format", "csv"]);
    assert_eq!(driven.matches(",short,").count(), 3, "{driven}");
    let settled = env.lap(&["doubts", "short", "--format", "json"]).stdout;
    assert!(!settled.contains("too-few-laps"), "{settled}");
}

#[test]
fn a_setting_is_held_against_rigs_and_rows_can_be_chosen() {
    let env = TestEnv::harbour(LAP);
    insta::assert_snapshot!(lab(&env, &["compare", "--across", "threads"]).stdout);
    let none = lab(&env, &["compare", "--across", "theads"]);
    assert!(
        none.status == Some(2) && none.stderr.contains("settings that vary: threads"),
        "{none}"
    );
    let some = ["compare", "dome-still", "--rig", "wren", "--rig", "heron", "--with", "threads=2"];
    let some = lab(&env, &some).stdout;
    assert!(!some.contains("kestrel") && !some.contains("threads=1\n"), "{some}");
    let odd = lab(&env, &["compare", "--rig", "osprey"]);
    assert_eq!(odd.status, Some(2), "{odd}");
}

#[test]
fn what_is_not_comparable_is_compared_only_for_a_reason() {
    let study = "[study]\nlaps = 3\nwarm_up = 0\n\
        [workload.w]\nkind = \"task\"\ncommand = \"cat sky.txt >{lap_dir}/out; sleep 0.02\"\n\
        inputs = [\"sky.txt\"]\nproduces = [{ file = \"{lap_dir}/out\" }]\n";
    let env = TestEnv::with_study(LAP, study);
    let write = |text: String| std::fs::write(env.path().join("sky.txt"), text).unwrap();
    write("a star".repeat(100));
    env.lap_ok(&["run", "--rig", "heron"]);
    write("a star".repeat(50));
    env.lap_ok(&["stand-in", "machine", "--out", "other"]);
    env.lap_ok(&["run", "--rig", "wren", "--machine-root", "other"]);
    let refused = env.lap_ok(&["compare"]);
    assert!(refused.contains("not comparable"), "{refused}");
    assert!(refused.contains("the input sky.txt is another file"), "{refused}");
    assert_eq!(env.lap(&["claim", "heron is faster than wren on w"]).status, Some(1));
    let anyway = env.lap_ok(&["compare", "--despite", "half the sky is what wren can hold"]);
    assert!(anyway.contains("Compared despite what differs, since: half the sky"), "{anyway}");
    let csv = env.lap_ok(&["compare", "--despite", "half the sky", "--format", "csv"]);
    assert!(csv.lines().skip(1).all(|row| row.ends_with(",half the sky")), "{csv}");
    let json = env.lap_ok(&["compare", "--despite", "so", "--format", "json"]);
    let json: Value = serde_json::from_str(&json).unwrap();
    assert_eq!(json["question"]["despite"], "so");
    let rows = rows_of(&json);
    let mut differs = rows.iter().flat_map(|row| row["differs"].as_array().unwrap());
    assert!(differs.any(|unlike| unlike["is"] == "input"), "{json:#}");
}

#[test]
fn numbers_from_elsewhere_stand_among_ours_in_no_verdict_and_a_rig_that_cannot_says_so() {
    let env = TestEnv::harbour(LAP);
    let short = lab(&env, &["compare", "dome-still", "--with", "threads=2"]).stdout;
    let at = |row: &str| short.lines().position(|line| line.starts_with(row));
    let (theirs, ours) = (at("(1)   osprey"), at("1     kestrel"));
    assert!(theirs.is_some() && theirs < ours, "{short}");
    let row = short.lines().nth(theirs.unwrap()).unwrap();
    assert!(row.contains("kestrel 106 %") && row.ends_with("elsewhere"), "{short}");
    assert!(short.contains("From elsewhere, in no verdict: osprey (the maker's leaflet, spring)"));
    let said = lab(&env, &["compare", "--explain"]).stdout;
    assert!(said.contains("plover: unsupported, by the study"), "{said}");
    assert_eq!(
        said.matches("osprey").count(),
        2,
        "its row and the note below, no table of rigs: {said}"
    );
    edit(&env, "unsupported = { fly-through = \"its graphics cannot drive the dome\" }", "");
    let never = lab(&env, &["compare", "fly-through", "--tables"]).stdout;
    assert!(never.contains("not run"), "{never}");
    edit(&env, "value    = \"0.48 s\"", "value    = 48");
    let wrong = lab(&env, &["compare"]);
    assert!(wrong.status == Some(2) && wrong.stderr.contains("`value`"), "{wrong}");
}

#[test]
fn before_and_after_a_change_only_that_may_differ() {
    let env = TestEnv::harbour(LAP);
    let args =
        ["compare", "dome-still", "--explain", "--before", "heron-1,heron-2", "--after", "heron-3"];
    let said = lab(&env, &args).stdout;
    assert!(said.contains("Nothing that is on record changed"), "{said}");
    assert!(said.contains("Against before: after too close to call"), "{said}");
    let change = ["--before", "kestrel-1,kestrel-2", "--after", "kestrel-3"];
    let orbit = lab(&env, &[&["compare", "orbit-solve", "--explain"], &change[..]].concat()).stdout;
    assert!(
        orbit.contains("kestrel-3 threads=1 fell by"),
        "doubts name sessions as they are: {orbit}"
    );
    assert!(
        orbit.contains("after ¹") || orbit.contains("after\u{a0}¹"),
        "and mark their row: {orbit}"
    );
    let words: Vec<&str> = said.split_whitespace().collect();
    assert!(
        words.join(" ").contains("measured on 5 further sessions"),
        "the change is no part of it: {said}"
    );
    let rigs = lab(&env, &["compare", "--before", "heron-1", "--after", "wren-1"]);
    assert!(rigs.status == Some(2) && rigs.stderr.contains("sessions of one rig"), "{rigs}");
    let same = lab(&env, &["compare", "--before", "heron-1", "--after", "heron-1"]);
    assert!(same.status == Some(2) && same.stderr.contains("on both sides"), "{same}");
    let none = lab(&env, &["compare", "--before", "heron-1", "--after", "heron-9"]);
    assert!(none.status == Some(2) && none.stderr.contains("no session heron-9"), "{none}");
    let study = "[study]\nlaps = 3\nwarm_up = 0\n[workload.w]\nkind = \"task\"\n\
        command = [\"sleep\", \"0.02\"]\nversions = { player = [\"cat\", \"version\"] }\n";
    let env = TestEnv::with_study(LAP, study);
    for version in ["player 1", "player 2"] {
        std::fs::write(env.path().join("version"), version).unwrap();
        env.lap_ok(&["run"]);
    }
    let said = env.lap_ok(&["compare", "--before", "here-1", "--after", "here-2"]);
    assert!(said.contains("changed: player of w from player 1 to player 2."), "{said}");
}

#[test]
fn runs_in_a_row_are_one_session_in_the_figures_and_say_so() {
    let study = "[study]\nlaps = 3\nwarm_up = 0\nrest = \"0s\"\n[workload.w]\nkind = \"task\"\n\
        command = [\"sleep\", \"0.02\"]\n[rig.heron]\n[rig.wren]\n";
    let env = TestEnv::with_study(LAP, study);
    for rig in ["heron", "wren"] {
        for number in 1..=3 {
            env.lap_ok(&["enter", "w", "--rig", rig, "5:41", "5:39", &format!("5:4{number}")]);
        }
    }
    let said = env.lap_ok(&["compare", "--explain"]);
    let words = said.split_whitespace().collect::<Vec<_>>().join(" ");
    assert!(words.contains("are one in these figures: heron-2 with heron-1"), "{said}");
}
