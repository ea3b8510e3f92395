//! Whole studies, read and misread.
//!
//! Long, since studies stand in it with every mistake that is told of them.

use crate::read;
use honest_lap_core::record::{Launch, Presented, Source, Task};
use honest_lap_core::unit::{Decimals, Nanos};
use proptest::prelude::*;

/// Returns every mistake as `line: problem | remedy`.
fn told(text: &str) -> Vec<String> {
    let mistakes = read(text).expect_err("a study with mistakes");
    mistakes
        .iter()
        .map(|m| {
            let line = text[..m.span.start].matches('\n').count() + 1;
            format!("{line}: {} | {}", m.problem, m.remedy)
        })
        .collect()
}

const WHOLE: &str = r#"
[study]
title    = "A new machine for the dome"
baseline = "heron"
margin   = "1.5%"
between_sessions = "0.6%"
assume_cv = "2%"
laps     = 4
rest     = "5s"
limit    = "10min"

[workload.dome-still]
about    = "One fisheye still"
kind     = "task"
command  = ["dome-still", "--threads", "{threads}", "--out", "{lap_dir}/still.png"]
vary     = { threads = [1, 2], look = ["fast", "fine"] }
environment = { LOOK = "{look}" }
before   = ["rm", "-rf", "cache"]
work     = "4.2 Mpixel"
produces = [{ file = "{lap_dir}/still.png", at_least = "100 kB" }]
versions = { renderer = ["dome-still", "--version"] }
laps     = 8

[workload.reel-export]
kind    = "task"
command = "encode {study_dir}/reel > {lap_dir}/out"
before  = ["sync", ["rm", "-f", "x"]]
exit_codes = [0, 3]

[rig.heron]
about = "12-core desktop, 32 GB"
price = "1450 EUR"
"#;

#[test]
fn reads_a_whole_study() {
    let study = read(WHOLE).unwrap();
    assert_eq!((study.baseline.as_deref(), study.margin), (Some("heron"), 0.015));
    assert_eq!(study.between_sessions, Some(0.006));
    assert!(study.workloads.iter().all(|workload| workload.assume_cv == Some(0.02)));
    let still = &study.workloads[0];
    assert_eq!((still.laps, still.warm_up, still.limit), (8, 1, Nanos::from_seconds(600)));
    let variants: Vec<String> = still.variants().iter().map(ToString::to_string).collect();
    assert_eq!(variants[..2], ["threads=1, look=fast", "threads=1, look=fine"]);
    assert_eq!(still.task.before.len(), 1);
    assert_eq!(still.task.produces[0].at_least, Some(100_000));
    let export = &study.workloads[1];
    assert!(matches!(export.task.command, Some(Launch::Shell(_))));
    assert_eq!((export.task.before.len(), &export.task.exit_codes[..]), (2, &[0, 3][..]));
    assert_eq!(export.rest.time, Nanos::from_seconds(5));
    assert_eq!(study.rigs[0].price.as_ref().unwrap().to_string(), "1450 EUR");
}

#[test]
fn tells_several_mistakes_at_once_in_order() {
    let text = r#"
[study]
margin = "2"
lapse = 3

[workload.still]
kind = "task"
comand = ["a"]
limit = 10
laps = 0
work = "lots"

[workload.reel]
kind = "endurence"
command = ["a", "{thread}"]
vary = { threads = [1, 1] }
"#;
    let found = told(text);
    let starts = [
        "3: `margin`: `2` is not a share in per cent | write it with its sign",
        "4: unknown key `lapse` in [study] | did you mean `laps`?",
        "6: workload \"still\" has no command | say what is timed",
        "8: unknown key `comand` in workload \"still\" | did you mean `command`?",
        "9: `limit`: `10` is not a span of time: it has no unit | write a time with its unit",
        "10: `laps` is 0, outside its range | write a whole number from 1 to 10000",
        "11: `work`: `lots` is not an amount with a unit",
        "14: `endurence` is not a kind of workload | write kind = \"task\"",
        "15: placeholder `{thread}` has no value | did you mean `{threads}`?",
        "16: `threads` is varied and used nowhere",
        "16: `threads` has the value 1 twice | leave the second one out",
    ];
    assert_eq!(found.len(), starts.len(), "{found:#?}");
    for (found, start) in found.iter().zip(starts) {
        assert!(found.starts_with(start), "{found}\nwanted {start}");
    }
}

#[test]
fn one_name_for_two_workloads_is_told_with_the_rest() {
    let text = "[workload.a]\nkind = \"task\"\ncommand = [\"x\"]\n[workload.a]\nkind = 3\n";
    let found = told(text);
    assert!(found.iter().any(|m| m.starts_with("4: `a` is there twice")), "{found:?}");
}

#[test]
fn every_wrong_type_names_what_is_wanted() {
    let with = |line: &str| {
        format!(
            "[workload.a]\nkind = \"task\"\ncommand = [\"x\", \"{{n}}\"]\nvary = {{ n = [1] }}\n{line}\n"
        )
    };
    for (line, wanted) in [
        ("folder = 3", "a text in quotes is wanted"),
        ("laps = \"6\"", "a whole number is wanted"),
        ("keep = \"yes\"", "true or false is wanted"),
        ("produces = \"x\"", "a list in brackets is wanted"),
        ("environment = [1]", "a table such as"),
        ("before = 3", "a command as a list"),
        ("before = []", "name the program to start"),
        ("exit_codes = [256]", "from 0 to 255"),
        ("produces = [{ at_least = \"1 kB\" }]", "name the file"),
        ("produces = [{ file = \"x\", sha256 = \"abc\" }]", "64 hexadecimal digits"),
        ("stdin = \"{\"", "twice"),
        ("terminal = 1", "true or false is wanted"),
        ("before = \"echo `cat {n}`\"", "stands in backquotes, where its value cannot be quoted"),
        ("limit = \"0s\"", "give a lap time"),
        ("versions = { p = [\"p\", \"{n}\"] }", "use only {lap} and {study_dir}"),
    ] {
        let found = told(&with(line));
        assert!(found.len() == 1 && found[0].contains(wanted), "{line}: {found:?}");
    }
}

#[test]
fn empty_vary_no_workload_and_bad_names_are_told() {
    assert!(told("")[0].contains("no workload"));
    let found = told(
        "[workload.\"a b\"]\nkind = \"task\"\n[workload.c]\nkind = \"task\"\ncommand = \"x\"\nvary = {}\n",
    );
    assert!(
        found[0].contains("cannot name a workload") && found[1].contains("`vary`"),
        "{found:?}"
    );
    let found = told(
        "[study]\nbaseline = \"hern\"\n[workload.c]\nkind = \"task\"\ncommand = \"x\"\n[rig.heron]\n",
    );
    assert_eq!(found, ["2: no rig is called \"hern\" | did you mean \"heron\"?"]);
    let found =
        told("[workload.c]\nkind = \"task\"\ncommand = \"{a} {b}\"\nvary = { a = [], b = 3 }\n");
    assert!(found.iter().any(|m| m.contains("varies over nothing")), "{found:?}");
    assert!(found.iter().any(|m| m.contains("a list of values")), "{found:?}");
}

proptest! {
    #[test]
    fn a_damaged_study_never_panics(at in 0usize..1200, with in "\\PC{0,3}", cut in 0usize..8) {
        let mut text: Vec<char> = WHOLE.chars().collect();
        let at = at.min(text.len());
        let end = (at + cut).min(text.len());
        text.splice(at..end, with.chars());
        let text: String = text.into_iter().collect();
        if let Err(mistakes) = read(&text) {
            prop_assert!(!mistakes.is_empty());
            for mistake in mistakes {
                prop_assert!(text.get(mistake.span.clone()).is_some(), "{mistake:?}");
            }
        }
    }
}

const CONTROLLED: &str = r#"
[workload.suite]
kind     = "score"
command  = ["suite"]
readings = [
    { name = "sky", after = "Sky score:", unit = "points", better = "more" },
    { name = "sea", pattern = 'sea = ([0-9.,]+)', better = "more", decimal = "," },
    { name = "total", pointer = "/results/0/total", file = "{lap_dir}/out.json", better = "more" },
    { name = "own", after = "took", unit = "ms", reports = "time" },
]
rest = { until_below = "55 °C", at_most = "5min" }

[workload.still]
kind      = "task"
command   = ["still"]
before    = ["rm", "-rf", "cache"]
splits    = [{ part = "load" }, { part = "draw", from = 'scene loaded' }]
splits_in = "{lap_dir}/marks.log"
counts    = ["draw"]
fills_cache = true

[workload.window-export]
kind    = "task"
by_hand = "start the export; stop when its bar is full"
vary    = { encoder = ["hardware", "software"] }

[meter.wall]
command = ["read-meter", "--watts"]
unit    = "W"
"#;

#[test]
fn reads_what_is_read_from_laps() {
    let study = read(CONTROLLED).unwrap();
    let [suite, still, window] = study.workloads.as_slice() else { panic!("three workloads") };
    let measures: Vec<String> =
        suite.task.measures().iter().map(|m| format!("{} [{}]", m.name, m.unit)).collect();
    assert_eq!(
        measures,
        ["sky [points]", "sea []", "total []"],
        "its report of time is no measure"
    );
    assert_eq!(suite.task.readings[1].decimals, Decimals::Comma);
    assert_eq!(suite.task.readings[3].measure().unit, "s");
    assert_eq!((suite.rest.below_c, suite.rest.at_most), (Some(55.0), Nanos::from_seconds(300)));
    let splits = still.task.splits.as_ref().unwrap();
    assert_eq!((splits.parts.len(), &splits.counts[..]), (2, &["draw".to_owned()][..]));
    let variants: Vec<String> = still.variants().iter().map(ToString::to_string).collect();
    assert_eq!(variants, ["cache=cold", "cache=warm"]);
    assert!(window.task.command.is_none() && window.variants().len() == 2);
    assert_eq!((study.meters[0].name.as_str(), study.meters[0].unit.as_str()), ("wall", "W"));
}

#[test]
fn mistakes_in_readings_are_told() {
    let entry = |keys: &str| {
        let text =
            format!("[workload.w]\nkind = \"score\"\ncommand = [\"x\"]\nreadings = [{{ {keys} }}]");
        told(&text).join("; ")
    };
    for (keys, wanted) in [
        ("after = \"a\", better = \"more\"", "entry without name"),
        ("name = \"time\", after = \"a\", better = \"more\"", "cannot name a measure"),
        ("name = \"s\", better = \"more\"", "says not where its number is"),
        ("name = \"s\", after = \"a\"", "entry without better"),
        ("name = \"s\", after = \"a\", better = \"up\"", "no way to be better"),
        ("name = \"s\", pattern = '(', better = \"more\"", "is not a pattern"),
        ("name = \"s\", pattern = 'x', better = \"more\"", "which part of it is the number"),
        ("name = \"s\", pointer = \"a/b\", better = \"more\"", "not a JSON pointer"),
        (
            "name = \"s\", after = \"a\", pointer = \"/a\", better = \"more\"",
            "one of them is wanted",
        ),
        ("name = \"s\", after = \"a\", better = \"more\", in = \"x\"", "no stream"),
        ("name = \"s\", after = \"a\", better = \"more\", decimal = \"x\"", "before no decimals"),
        ("name = \"s\", after = \"a\", better = \"more\", reports = \"time\"", "no unit of time"),
        ("name = \"s\", after = \"a\", better = \"more\", file = \"{x}\"", "has no value"),
    ] {
        let said = entry(keys);
        assert!(said.contains(wanted), "{keys}: {said}");
    }
    let two = "name = \"s\", after = \"a\", better = \"more\" }, { name = \"s\", after = \"b\", better = \"more\"";
    assert!(entry(two).contains("two measures"), "{}", entry(two));
}

#[test]
fn mistakes_in_what_surrounds_a_lap_are_told() {
    let said = |lines: &str| told(&format!("[workload.w]\nkind = \"task\"\n{lines}")).join("; ");
    for (lines, wanted) in [
        ("command = [\"x\"]\nby_hand = \"do\"", "has a command and is done by hand"),
        ("command = [\"x\"]\nfills_cache = true", "nothing empties"),
        (
            "command = [\"x\"]\nbefore = [\"y\"]\nfills_cache = true\nvary = { cache = [1] }",
            "varied twice",
        ),
        ("command = [\"x\"]\ncounts = [\"draw\"]", "`counts` without `splits`"),
        ("command = [\"x\"]\nsplits = [{ part = \"a\" }, { part = \"b\" }]", "only the first part"),
        ("command = [\"x\"]\nsplits = [{ part = \"a\" }]\ncounts = [\"b\"]", "no part is called"),
        ("command = [\"x\"]\nrest = { at_most = \"5s\" }", "until which temperature"),
        ("command = [\"x\"]\nrest = { until_below = \"60\" }", "not a temperature"),
        ("command = [\"x\"]\n[meter.wall]\ncommand = [\"m\"]", "has no unit"),
    ] {
        let told = said(lines);
        assert!(told.contains(wanted), "{lines}: {told}");
    }
}

#[test]
fn a_workload_of_frames_says_where_they_are() {
    let text = "[study]\n[workload.rings]\nkind = \"frames\"\ncommand = [\"rings\", \"{lap_dir}/f.csv\"]\n\
        frames = { file = \"{lap_dir}/f.csv\", column = \"2\", unit = \"us\", as = \"moments\" }\n\
        refresh = \"59.94 Hz\"\n\
        [workload.flight]\nkind = \"frames\"\nby_hand = \"fly\"\n";
    let study = read(text).unwrap();
    let task = &study.workloads[0].task;
    let log = task.kind.frame_log().unwrap();
    assert_eq!((log.column.as_deref(), log.unit.as_deref()), (Some("2"), Some("us")));
    assert_eq!(log.reading.as_deref(), Some("moments"));
    assert!(matches!(&log.source, Source::File(file) if file.source() == "{lap_dir}/f.csv"));
    assert_eq!(task.kind.against().display.map(|display| display.hz), Some(59.94));
    assert!(study.workloads[1].task.kind.frame_log().is_none(), "its passes are imported");
    assert!(task.measures().iter().any(|measure| measure.name == "low 1%"));
}

#[test]
fn workloads_weigh_and_belong_to_groups() {
    let text = "[study]\n[workload.rings]\nkind = \"task\"\ncommand = \"rings\"\nweight = 2.5\ngroup = \"games\"\n\
        [workload.moon]\nkind = \"task\"\ncommand = \"moon\"\n";
    let study = read(text).unwrap();
    let of =
        |place: usize| (study.workloads[place].weight, study.workloads[place].group.as_deref());
    assert_eq!((of(0), of(1)), ((2.5, Some("games")), (1.0, None)));
    let own = read(
        "[study]\nassume_cv = \"2%\"\n[workload.w]\nkind = \"task\"\ncommand = \"x\"\nassume_cv = \"5%\"\n",
    );
    assert_eq!(own.unwrap().workloads[0].assume_cv, Some(0.05));
    let whole =
        told("[study]\n[workload.w]\nkind = \"task\"\ncommand = \"x\"\nassume_cv = \"100%\"\n");
    assert!(whole[0].contains("`assume_cv` is outside its range"), "{whole:?}");
    let wrong = told("[study]\n[workload.w]\nkind = \"task\"\ncommand = \"x\"\nweight = -1\n");
    assert!(wrong[0].contains("`weight` is no weight | write how much"), "{wrong:?}");
}

#[test]
fn frames_may_be_noted_as_they_are_presented() {
    let text = "[study]\n[workload.rings]\nkind = \"frames\"\ncommand = [\"rings\"]\nframes = \"presented\"\nplays_at = 23.976\n\
        [workload.moon]\nkind = \"frames\"\ncommand = [\"moon\"]\n\
        frames = { presented = { window = 2, program = \"dome\", for = \"30s\", by_mark = true } }\n";
    let study = read(text).unwrap();
    let task = |place: usize| &study.workloads[place].task;
    assert_eq!(task(0).kind.presented(), Some(&Presented::default()));
    assert_eq!((task(0).kind.against().plays_at, task(0).kind.frame_log()), (Some(23.976), None));
    let presented = task(1).kind.presented().unwrap();
    assert_eq!(
        (presented.choice.window, presented.choice.program.as_deref()),
        (Some(2), Some("dome"))
    );
    assert_eq!(
        (presented.ends.time, presented.ends.by_mark),
        (Some(Nanos::from_seconds(30)), true)
    );
    let written = serde_json::to_string(task(1)).unwrap();
    assert_eq!(&serde_json::from_str::<Task>(&written).unwrap(), task(1));
}

#[test]
fn mistakes_about_frames_are_told_with_their_remedy() {
    let workload = |lines: &str| told(&format!("[study]\n[workload.rings]\n{lines}\n"));
    let says = |lines: &str, wanted: &str| {
        let all = workload(lines);
        assert!(all.iter().any(|told| told.contains(wanted)), "{lines}: {all:#?}");
    };
    let frames = "kind = \"frames\"\ncommand = \"rings\"";
    says(frames, "yields no frames | say where its frame times are");
    says(&format!("{frames}\nframes = {{}}"), "names no place, or more than one");
    says(&format!("{frames}\nframes = {{ output = true, file = \"x\" }}"), "more than one");
    says(
        &format!("{frames}\nframes = {{ output = true, unit = \"min\" }}"),
        "`unit` cannot be `min` | write one of: s, ms",
    );
    says(
        &format!("{frames}\nframes = {{ output = true, as = \"rates\" }}"),
        "`as` cannot be `rates`",
    );
    says(&format!("{frames}\nframes = {{ output = true, colum = \"x\" }}"), "unknown key `colum`");
    says(
        &format!("{frames}\nframes = {{ output = true }}\nrefresh = \"60\""),
        "`60` is no display's rate",
    );
    says(
        &format!("{frames}\nframes = {{ output = true }}\nrefresh = \"60000 Hz\""),
        "no display's rate",
    );
    says(
        "kind = \"task\"\ncommand = \"x\"\nframes = { output = true }",
        "only workloads of kinds `frames`, `capacity` and `endurance` have frames",
    );
    says(
        "kind = \"task\"\ncommand = \"x\"\nrefresh = \"60 Hz\"",
        "only a workload that has frames has a refresh",
    );
    says(
        &format!("{frames}\nframes = \"shown\""),
        "`frames` cannot be `shown` | say where its frame times are: frames = \"presented\"",
    );
    says(
        &format!("{frames}\nframes = {{ presented = true, output = true }}"),
        "`presented` stands beside `output`",
    );
    says(
        &format!("{frames}\nframes = {{ presented = {{ frames = 5, for = \"3s\" }} }}"),
        "a pass ends twice",
    );
    says(
        &format!("{frames}\nlimit = \"10s\"\nframes = {{ presented = {{ for = \"30s\" }} }}"),
        "would be ended at the limit of a lap",
    );
    says(
        &format!("{frames}\nframes = \"presented\"\nplays_at = \"24\""),
        "`plays_at` is no rate of a recording | write the frames a second",
    );
    says(
        "kind = \"frames\"\nby_hand = \"fly\"\nframes = { output = true }",
        "writes no log by itself",
    );
}

#[test]
fn a_long_haul_has_its_own_defaults_and_a_rig_its_peaks() {
    let text = "[study]\nlaps = 6\nlimit = \"5min\"\n\
        [workload.still]\nkind = \"endurance\"\ncommand = \"x\"\nlasts = \"2h\"\nwork = \"2 * {n} still\"\nvary = { n = [3] }\n\
        environment = { N = \"{n}\" }\n\
        [workload.rings]\nkind = \"endurance\"\ncommand = \"x {seconds}\"\nlasts = \"2h\"\nframes = \"presented\"\n\
        [workload.wait]\nkind = \"endurance\"\nidle = true\non_battery = true\nlasts = \"90s\"\nlook_every = \"100ms\"\n\
        [rig.heron]\npeak = [\"1.9 TFLOP/s\", \"51 GB/s\"]\npeak_from = \"a leaflet\"\n";
    let study = read(text).unwrap();
    let [still, rings, wait] = [0, 1, 2].map(|at| &study.workloads[at]);
    assert_eq!((still.laps, still.warm_up, still.limit.seconds()), (1, 0, 300.0));
    let work = still.task.work.as_ref().and_then(|work| work.of(&still.variants()[0]));
    assert_eq!(work.map(|work| work.to_string()).as_deref(), Some("6 still"));
    // A program that runs for the whole time may take that, and its pass is as long.
    assert_eq!(rings.limit.seconds(), 7_800.0);
    let ends = rings.task.kind.presented().map(|presented| presented.ends);
    assert_eq!(ends.and_then(|ends| ends.time).map(|time| time.seconds()), Some(7_200.0));
    let rule = wait.task.kind.endurance().unwrap();
    assert_eq!((rule.look_every.seconds(), rule.idle, rule.on_battery), (0.1, true, true));
    let words = wait.task.command.as_ref().unwrap().templates();
    assert_eq!(words.iter().map(|word| word.source()).collect::<Vec<_>>(), ["sleep", "90"]);
    let peaks: Vec<String> =
        study.rigs[0].peaks.iter().map(|peak| peak.a_second.to_string()).collect();
    assert_eq!(
        (peaks.join(", ").as_str(), study.rigs[0].peaks[0].from.as_str()),
        ("1.9 TFLOP, 51 GB", "a leaflet")
    );
}

#[test]
fn a_peak_may_be_of_a_setting_that_some_workload_varies() {
    let text = "[workload.still]\nkind = \"task\"\ncommand = \"x {precision}\"\nvary = { precision = [\"fp64\", \"fp32\"] }\n\
        [rig.heron]\npeak = { precision = { fp64 = \"80 GFLOP/s\", fp32 = [\"160 GFLOP/s\", \"51 GB/s\"] } }\npeak_from = \"a leaflet\"\n";
    let study = read(text).unwrap();
    let of: Vec<(String, String)> = study.rigs[0]
        .peaks
        .iter()
        .map(|peak| (peak.a_second.to_string(), peak.of.clone().unwrap().1))
        .collect();
    let wanted = [("80 GFLOP", "fp64"), ("160 GFLOP", "fp32"), ("51 GB", "fp32")];
    assert_eq!(of, wanted.map(|(rate, is)| (rate.to_owned(), is.to_owned())));
    let wrong = told(&text.replace("{ fp64 = ", "{ fp16 = "));
    assert!(wrong[0].contains("no workload has variants with `precision=fp16`"), "{wrong:?}");
    let wrong = told(&text.replace(
        "{ precision = { fp64 = \"80 GFLOP/s\", fp32 = [\"160 GFLOP/s\", \"51 GB/s\"] } }",
        "{ precision = 3 }",
    ));
    assert!(wrong[0].contains("is no table of values"), "{wrong:?}");
}

#[test]
fn what_others_say_is_read_and_its_mistakes_are_told() {
    const HEAD: &str = "[workload.still]\nkind = \"task\"\ncommand = \"x\"\njobs_a_month = 40\n\
        [rig.heron]\nmodel = \"H12\"\nparts = { card = \"L2\", driver = \"8.1\" }\npower = { idle = \"21 W\" }\n";
    let text = format!(
        "[study]\nexpect = [\"heron\"]\nstale_after = \"90 days\"\nhour_worth = \"45 EUR\"\n{HEAD}\
         [[claim]]\nsays = \"heron is faster than wren\"\nwho = \"Lumen Works\"\n\
         [[elsewhere]]\nrig = \"osprey\"\nworkload = \"still\"\nsettings = {{ threads = 2 }}\n\
         value = \"0:41.5\"\nsource = \"a leaflet\"\n"
    );
    let study = read(&text).unwrap();
    assert_eq!(study.claims[0].who.as_deref(), Some("Lumen Works"));
    let number = &study.elsewhere[0];
    assert_eq!((number.value, number.unit.as_str()), (41.5, "s"));
    assert_eq!(number.settings.get("threads"), Some("2"));
    assert_eq!(study.stale_after.map(|span| span.seconds()), Some(90.0 * 86_400.0));
    let rig = &study.rigs[0];
    assert_eq!(
        (rig.parts.len(), rig.power.idle, rig.model.as_deref()),
        (2, Some(21.0), Some("H12"))
    );
    assert_eq!(study.workloads[0].jobs_a_month, Some(40.0));
    for (wrong, expected) in [
        ("[study]\nexpect = [\"hern\"]\n", "no rig is called \"hern\" | did you mean \"heron\"?"),
        ("[[claim]]\nwho = \"Lumen Works\"\n", "[[claim]] has no `says`"),
        ("[[elsewhere]]\nrig = \"a\"\nworkload = \"still\"\nvalue = \"4 s\"\n", "has no `source`"),
        (
            "[[elsewhere]]\nrig = \"a\"\nworkload = \"still\"\nvalue = 4\nmeasure = \"sky\"\nsource = \"b\"\n",
            "which way `sky` is better is not said",
        ),
        ("[rig.wren]\npower = { mean = \"85 J\" }\n", "`mean` is in J, and power is in W"),
    ] {
        let found = told(&format!("{wrong}{HEAD}"));
        assert!(found.len() == 1 && found[0].contains(expected), "{found:?}");
    }
}

#[test]
fn combinations_that_are_meant_are_the_variants_and_others_are_told() {
    let study = |only: &str| {
        format!(
            "[workload.w]\nkind = \"task\"\ncommand = \"x {{threads}} {{codec}}\"\n\
             vary = {{ threads = [1, 2], codec = [\"soft\", \"hard\"] }}\nonly = {only}\n"
        )
    };
    let read = read(&study("[{ threads = 1 }, { threads = 2, codec = \"hard\" }]")).unwrap();
    let variants: Vec<String> =
        read.workloads[0].variants().iter().map(ToString::to_string).collect();
    let meant = ["threads=1, codec=soft", "threads=1, codec=hard", "threads=2, codec=hard"];
    assert_eq!(variants, meant);
    for (only, expected) in [
        ("[{ thread = 1 }]", "`only` names `thread`, which does not vary | threads, codec vary"),
        ("[{ threads = 4 }]", "a value of `threads` that it does not have | it has 1, 2"),
        ("[]", "`only` in workload \"w\" chooses among nothing"),
        ("[1]", "a list of tables"),
    ] {
        let found = told(&study(only));
        assert!(found.len() == 1 && found[0].contains(expected), "{only}: {found:?}");
    }
}
