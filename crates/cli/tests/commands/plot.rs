//! `lap plot` on the demo's lab: what is in the figures, how files are named, what is refused.
//!
//! Runs for about 7 s on one core of two.

#![expect(clippy::unwrap_used, reason = "a test may stop where it likes")]

use honest_lap_testkit::TestEnv;

const LAP: &str = env!("CARGO_BIN_EXE_lap");

fn drawn(env: &TestEnv, name: &str) -> String {
    std::fs::read_to_string(env.path().join(name)).unwrap()
}

#[test]
fn bars_of_every_workload_are_drawn_unasked() {
    let env = TestEnv::harbour(LAP);
    let said = env.lap(&["--study", "lab", "plot"]).stderr;
    for name in ["catalogue-build", "dome-still-threads=1", "dome-still-time-variants"] {
        assert!(said.contains(&format!("{name}-bars.svg drawn")), "{said}");
    }
    let svg = drawn(&env, "catalogue-build-bars.svg");
    for words in [
        ">kestrel<",
        ">wren\u{a0}¹<",
        ">baseline<",
        "17 % less time: faster<",
        "Shorter is better.",
        "A bracket joins",
        "Doubt, throttled: lap wren-",
        "logbook sealed ",
        "@font-face",
        "role=\"img\" aria-label=\"catalogue-build. Against heron:",
    ] {
        assert!(svg.contains(words), "{words}");
    }
}

#[test]
fn laps_stand_in_the_order_driven_with_what_the_machine_did() {
    let env = TestEnv::harbour(LAP);
    let args = ["--study", "lab", "plot", "dome-still", "wren", "--figure", "laps", "--dark"];
    env.lap_ok(&args);
    let svg = drawn(&env, "dome-still-time-laps.svg");
    for words in [">wren-1<", ">clock, MHz<", ">hottest part, °C<", ">power, W<", ">threads=2<"] {
        assert!(svg.contains(words), "{words}");
    }
    assert!(!svg.contains(">heron-1<") && svg.contains("#15202b"), "one rig, and dark");
}

#[test]
fn the_overview_is_one_figure_and_what_a_figure_cannot_honour_is_refused() {
    let env = TestEnv::harbour(LAP);
    env.lap_ok(&["--study", "lab", "plot", "--figure", "overview", "--out", "all.svg"]);
    let svg = drawn(&env, "all.svg");
    for words in [">kestrel<", ">1.26×<", "index of 5 that all have", "▲ better", ">unable<"] {
        assert!(svg.contains(words), "{words}");
    }
    for args in [
        ["--figure", "tail", "--measure", "low 1%"],
        ["--figure", "rate", "--with", "threads=2"],
        ["--figure", "laps", "--across", "variants"],
        ["--figure", "bars", "--over", "power"],
    ] {
        let came = env.lap(&[&["--study", "lab", "plot"], &args[..]].concat());
        assert_eq!(came.status, Some(2), "{came}");
        assert!(came.stderr.contains(args[2]) && came.stderr.contains(args[1]), "{came}");
    }
    let with = ["dome-still", "--figure", "laps", "--with", "threads=2", "--out", "two.svg"];
    env.lap_ok(&[&["--study", "lab", "plot"], &with[..]].concat());
    assert!(!drawn(&env, "two.svg").contains("threads=1"), "only what was asked for");
}

#[test]
fn an_index_and_a_change_are_ratios_against_one() {
    let env = TestEnv::harbour(LAP);
    env.lap_ok(&["--study", "lab", "plot", "--figure", "overall"]);
    let svg = drawn(&env, "everything-overall.svg");
    assert!(svg.contains(">kestrel, overall<") && svg.contains("kestrel is ahead"));
    assert!(drawn(&env, "without-flights-overall.svg").contains(">orbit-solve · threads=1<"));
    let change = ["--before", "kestrel-1,kestrel-2", "--after", "kestrel-3", "--out", "change.png"];
    env.lap_ok(&[&["--study", "lab", "plot"], change.as_slice()].concat());
    assert_eq!(std::fs::read(env.path().join("change.png")).unwrap()[1..4], *b"PNG");
}

#[test]
fn what_cannot_be_drawn_says_why_and_what_to_do() {
    let env = TestEnv::harbour(LAP);
    for (args, why, remedy) in [
        (&["--out", "all.svg"][..], "can hold one figure", "--with SETTING=VALUE"),
        (&["--figure", "change"], "sessions before and after", "--before heron-1"),
        (&["fly-through", "--figure", "overall"], "no index to draw", "lap compare --overall"),
        (&["snipe"], "no laps of a workload `snipe`", "it has laps of"),
        (&["--out", "all.jpg"], "neither .svg nor .png", "--out rings.png"),
    ] {
        let refused = env.lap(&[&["--study", "lab", "plot"], args].concat());
        assert_eq!(refused.status, Some(2), "{refused}");
        assert!(refused.stderr.contains(why) && refused.stderr.contains(remedy), "{refused}");
    }
    assert!(!env.path().join("all.svg").exists());
}

#[test]
fn one_lap_is_drawn_with_its_cores_and_what_is_no_lap_is_refused() {
    let env = TestEnv::harbour(LAP);
    let lap = ["plot", "wren-1.16", "--figure", "conditions", "--out", "one.svg"];
    env.lap_ok(&[&["--study", "lab"], &lap[..]].concat());
    let svg = drawn(&env, "one.svg");
    for said in ["wren-1.16 of catalogue-build", "0 to 7", "clock, MHz", "its clock fell"] {
        assert!(svg.contains(said), "{said}");
    }
    for (name, why) in [
        ("wren", "no lap is called `wren`"),
        ("wren-1.999", "no lap is called"),
        // A made-up log of frames: nobody looked at the machine.
        ("heron-1.36", "nothing was seen of the machine"),
    ] {
        let came = env.lap(&["--study", "lab", "plot", name, "--figure", "conditions"]);
        assert!(came.status == Some(2) && came.stderr.contains(why), "{came}");
    }
    let none = env.lap(&["--study", "lab", "plot", "--figure", "conditions"]);
    assert!(none.stderr.contains("none is named") && none.status == Some(2), "{none}");
}
