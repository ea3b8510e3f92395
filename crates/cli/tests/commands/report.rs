//! `lap report` and what it leaves out.
//!
//! Runs for about 5 s on one core of two.

use honest_lap_testkit::TestEnv;

fn harbour() -> TestEnv {
    TestEnv::harbour(env!("CARGO_BIN_EXE_lap"))
}

#[test]
fn markdown_begins_with_the_answer_and_has_the_doubts_beside_the_figures() {
    let env = harbour();
    let text = env.lap_ok(&["--study", "lab", "report", "--format", "markdown"]);
    let place = |words: &str| text.find(words).unwrap_or_else(|| panic!("{words}: {text}"));
    assert!(place("## Conclusion") < place("## What is missing"));
    assert!(place("## What is missing") < place("## dome-still"));
    let conclusion = &text[place("## Conclusion")..place("## What is missing")];
    assert!(conclusion.lines().filter(|line| !line.is_empty()).count() <= 4, "{conclusion}");
    let missing = &text[place("## What is missing")..place("## dome-still")];
    assert!(missing.matches("\n- ").count() <= 5, "{missing}");
    assert!(place("kestrel ahead, 1.179×") < place("| 1 | kestrel |"));
    assert!(place("| 4 | wren\u{a0}¹") < place("- ¹ Doubt, throttled: lap wren-1.3"));
    for part in ["## Overall", "## What it is worth", "## Claims checked", "## Method"] {
        place(part);
    }
    assert!(!text.contains("<svg") && text.trim_end().contains("logbook sealed"));
    env.lap_ok(&["--study", "lab", "report", "--out", "dome.md"]);
    let file = std::fs::read_to_string(env.path().join("dome.md")).expect("it was written");
    assert_eq!(file, text, "the file's name says its form");
}

#[test]
fn an_anonymous_page_names_no_machine_person_serial_or_path_and_says_so() {
    let study = "[study]\n[workload.w]\nkind = \"task\"\ncommand = [\"/opt/ada/bin/still\"]\n\
                 [rig.a]\nparts = { \"serial number\" = \"QX-77\", disk = \"2 TB\" }\n[rig.b]\n";
    let env = TestEnv::with_study(env!("CARGO_BIN_EXE_lap"), study);
    for rig in ["a", "b"] {
        env.lap_ok(&["enter", "w", "--rig", rig, "1.0s", "1.1s", "1.2s", "--by", "Ada"]);
    }
    env.lap_ok(&["note", "a-1.1", "Ada kept it in /home/ada/shows"]);
    let open = env.lap_ok(&["report", "--format", "markdown"]);
    for secret in ["Ada", "QX-77", "/home/ada/shows"] {
        assert!(open.contains(secret), "{secret} is there to be left out: {open}");
    }
    let came = env.lap(&["report", "--anonymous"]);
    assert!(came.stderr.contains("Left out: ") && came.stderr.contains("serial"), "{came}");
    let page = std::fs::read_to_string(env.path().join("report.html")).expect("it was written");
    for secret in ["Ada", "/home/ada", "QX-77", "/opt/ada"] {
        assert!(!page.contains(secret), "{secret}");
    }
    assert!(page.contains("2 TB") && page.contains("Left out: "), "the rest stays");
    // Files inside the page are text as well: none of them gives away what the page does not.
    let base64 = |text: &str| page.contains(text);
    assert!(!base64("L29wdC9hZGEv"), "the study's command, as base64");
}

#[test]
fn of_one_rig_the_answer_is_what_is_compared_on_it() {
    let study =
        "[workload.w]\nkind = \"task\"\nby_hand = \"watch\"\nvary = { effort = [1, 9] }\n[rig.a]\n";
    let env = TestEnv::with_study(env!("CARGO_BIN_EXE_lap"), study);
    for (effort, times) in
        [("effort=1", ["1.0s", "1.1s", "1.2s"]), ("effort=9", ["5.0s", "5.1s", "5.2s"])]
    {
        let words = [&["enter", "w", "--rig", "a", "--with", effort], &times[..]].concat();
        env.lap_ok(&words);
    }
    let text = env.lap_ok(&["report", "--format", "markdown"]);
    assert!(text.contains("against effort=1: effort=9 slower"), "{text}");
    assert!(!text.contains("## Overall"), "there is no index of one rig: {text}");
}

#[test]
fn a_page_proves_its_figures_by_the_logbook_that_it_carries() {
    let env = harbour();
    env.lap_ok(&["--study", "lab", "report"]);
    let proven = env.lap(&["verify", "report.html"]);
    assert_eq!(proven.status, Some(0), "{proven}");
    assert!(proven.stderr.contains("every figure on it follows from the logbook"), "{proven}");
    let page = std::fs::read_to_string(env.path().join("report.html")).expect("it was written");
    let forged = |from: &str, to: &str| {
        assert!(page.contains(from), "{from}");
        env.write("forged.html", &page.replacen(from, to, 1));
        env.lap(&["verify", "forged.html"])
    };
    for (from, to) in [
        ("1.179×", "1.279×"),
        ("kestrel ahead", "kestrel behind"),
        ("lap verify checks the seal", "lap verify checks nothing"),
    ] {
        let came = forged(from, to);
        assert_eq!(came.status, Some(1), "{from}: {came}");
        assert!(came.stderr.contains("is not what its logbook makes, from line"), "{came}");
    }
    let version = forged("{&quot;version&quot;:&quot;0", "{&quot;version&quot;:&quot;9");
    assert!(version.status == Some(1) && version.stderr.contains("only that version"), "{version}");
    let damaged = forged("data:application/zstd;base64,KLUv", "data:application/zstd;base64,AAAA");
    assert_eq!(damaged.status, Some(2), "{damaged}");
    env.lap_ok(&["--study", "lab", "report", "--anonymous", "--out", "nameless.html"]);
    let nameless = env.lap(&["verify", "nameless.html"]);
    assert!(
        nameless.status == Some(2) && nameless.stderr.contains("carries no logbook"),
        "{nameless}"
    );
}

#[test]
fn what_is_not_there_is_a_line_on_the_page_and_no_refusal() {
    let study = "[[claim]]\nsays = \"wren sings louder than heron\"\nwho = \"a leaflet\"\n\
                 [workload.w]\nkind = \"task\"\nby_hand = \"watch\"\n[workload.later]\nkind = \"task\"\nby_hand = \"watch\"\n\
                 [rig.heron]\n[rig.wren]\n[rig.owl]\n";
    let env = TestEnv::with_study(env!("CARGO_BIN_EXE_lap"), study);
    for rig in ["heron", "wren"] {
        env.lap_ok(&["enter", "w", "--rig", rig, "1.0s", "1.1s", "1.2s"]);
    }
    let text = env.lap_ok(&["report", "--format", "markdown"]);
    for line in ["Claims that cannot be read", "No laps of later.", "No laps on owl."] {
        assert!(text.contains(line), "{line}: {text}");
    }
}

#[test]
fn a_page_has_a_name_that_says_its_form_and_replaces_nothing_else() {
    let env = harbour();
    let came = env.lap(&["--study", "lab", "report", "--out", "report.pdf"]);
    assert_eq!(came.status, Some(2), "{came}");
    assert!(came.stderr.contains("a browser prints that as PDF"), "{came}");
    assert!(!env.path().join("report.pdf").exists());
    let came = env.lap(&["--study", "lab", "report", "--out", "no/such/folder.html"]);
    assert_eq!(came.status, Some(2), "{came}");
}

#[test]
fn a_page_of_a_part_of_the_lab_says_so_has_nothing_else_and_proves_itself() {
    let env = harbour();
    env.lap_ok(&["--study", "lab", "report", "--variant", "threads=1", "--out", "one.html"]);
    let page = std::fs::read_to_string(env.path().join("one.html")).expect("a page");
    assert!(page.contains("Only variant threads=1."), "it says of what it is");
    // The study that it carries is whole; what is shown is of the one variant.
    assert!(!page.contains("dome-still threads=2"), "and of nothing else");
    let proven = env.lap(&["verify", "one.html"]);
    assert_eq!(proven.status, Some(0), "{proven}");
    assert!(proven.stderr.contains("every figure on it follows from the logbook"), "{proven}");
    let other = page.replace("Only variant threads=1.", "Only variant threads=2.");
    std::fs::write(env.path().join("other.html"), other).expect("a file");
    assert_ne!(env.lap(&["verify", "other.html"]).status, Some(0));
    let none = env.lap(&["--study", "lab", "report", "--variant", "threads=9", "--out", "n.html"]);
    assert!(none.status == Some(2) && none.stderr.contains("no variant"), "{none}");
}
