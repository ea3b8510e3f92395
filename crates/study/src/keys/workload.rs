//! `[workload.NAME]`.

use super::form::{COMMAND, Form, Quantity, TEXTS, TIME, Table, VALUE, key};
use super::lap::{ASSUME_CV, LAPS, LIMIT, PRODUCT, RESTS, WARM_UP};
use super::nested::{BROKE, FRAMES, LOAD, MODE, READING, SPLIT, STRAINED};

/// One command, or a list of commands of which at least one is a list.
const STEPS: Form = Form::Either(&[Form::Text, Form::List(&COMMAND)]);

pub(crate) static WORKLOAD: Table = Table {
    name: "[workload.NAME]",
    keys: &[
        key(
            "about",
            Form::Text,
            "",
            "What it is, in a sentence.",
            r#"about = "One fisheye still of the winter sky""#,
        ),
        key(
            "kind",
            Form::Word(&["task", "score", "frames", "capacity", "endurance"]),
            "needed",
            "What a lap yields. `task`: the time to do one piece of work. `score`: numbers that the program reports. `frames`: a series of frame times. \
             `capacity`: the largest load that holds. `endurance`: a rate over a long time.",
            r#"kind = "task""#,
        ),
        key(
            "command",
            COMMAND,
            "needed, or `by_hand`",
            "What is timed. A list is started as it is; a text goes to `/bin/sh -c`, and the preview says so. [Placeholders](../../formats/study.md#placeholders) \
             stand for settings and folders.",
            r#"command = ["dome-still", "--out", "{lap_dir}/still.png"]"#,
        ),
        key(
            "before",
            STEPS,
            "",
            "Untimed steps ahead of every lap, or of every repetition of an endurance lap. A step that fails keeps the lap from starting.",
            r#"before = [["rm", "-rf", "cache"], "mkdir cache"]"#,
        ),
        key(
            "after",
            STEPS,
            "",
            "Untimed steps behind every lap. They run whatever came of the lap, Ctrl-C included; one that fails is a remark.",
            r#"after = ["rm", "-rf", "cache"]"#,
        ),
        key(
            "folder",
            Form::Text,
            "the study's folder",
            "Where it runs, seen from the study's folder.",
            r#"folder = "scenes""#,
        ),
        key(
            "environment",
            Form::Named(&Form::Text),
            "",
            "Variables on top of the tool's own.",
            r#"environment = { DOME_CACHE = "{lap_dir}" }"#,
        ),
        key(
            "stdin",
            Form::Text,
            "there is nothing to read",
            "A file that is opened afresh for every lap.",
            r#"stdin = "scenes/winter.txt""#,
        ),
        key(
            "terminal",
            Form::Flag,
            "false",
            "`true`: every lap gets a terminal of its own (80 by 24, nobody types there). Standard input, output and errors are it, and `/dev/tty`; output and \
             errors are one and read as `output`. Otherwise laps have no terminal, and a program that asks for one is told so.",
            "terminal = true",
        ),
        key(
            "vary",
            Form::Named(&Form::List(&VALUE)),
            "",
            "Settings with their values. Each combination is a variant; the first is the baseline of the others. Variants are told in this order, without \
             settings that have one value. A setting that nothing uses is a mistake.",
            r#"command = ["dome-still", "--threads", "{threads}", "--encoder", "{encoder}"]
vary = { threads = [1, 2], encoder = ["soft", "hard"] }"#,
        ),
        key(
            "only",
            Form::List(&Form::Named(&VALUE)),
            "all of them",
            "Of the combinations those that have all settings of any entry; the others are no variants.",
            r#"command = ["dome-still", "--threads", "{threads}", "--encoder", "{encoder}"]
vary = { threads = [1, 2], encoder = ["soft", "hard"] }
only = [{ threads = 1 }, { threads = 2, encoder = "hard" }]"#,
        ),
        LAPS,
        WARM_UP,
        RESTS,
        LIMIT,
        key(
            "exit_codes",
            Form::List(&Form::Whole(0, 255)),
            "[0]",
            "Codes that mean that the work was done.",
            "exit_codes = [0, 3]",
        ),
        key(
            "produces",
            Form::List(&Form::Table(&PRODUCT)),
            "",
            "What must be there afterwards. A lap without it is a lap with wrong output.",
            r#"produces = [{ file = "{lap_dir}/still.png", at_least = "100 kB" }]"#,
        ),
        key(
            "work",
            Form::Text,
            "",
            "A known amount of work gives a rate in that unit per second. A formula of the variant's settings may stand in its place: numbers, `{settings}`, \
             `+ - * / ^`, brackets. With a `peak` of the rig, also the share of it. Of an endurance lap it is the work of one repetition; without it rates are \
             repetitions a minute.",
            r#"command = ["sky-sum", "{n}"]
vary = { n = [256, 512] }
work = "2 * {n}^3 FLOP""#,
        ),
        key(
            "versions",
            Form::Named(&COMMAND),
            "",
            "Commands whose first line is recorded with every session.",
            r#"versions = { renderer = ["dome-still", "--version"] }"#,
        ),
        key(
            "modes",
            Form::Named(&Form::Table(&MODE)),
            "",
            "How the program itself is set, recorded with every lap: [modes](../../formats/study.md#modes).",
            r#"modes = { render = { after = "Mode", file = "settings.ini" } }"#,
        ),
        key(
            "keep",
            Form::Flag,
            "false",
            "`true` keeps `{lap_dir}` of every lap, under `kept/`.",
            "keep = true",
        ),
        key(
            "by_hand",
            Form::Text,
            "",
            "What a person does, in the place of `command`. Such laps are timed with `lap clock` or typed in with `lap enter`.",
            r#"by_hand = "press Export; stop when its bar is full""#,
        ),
        key(
            "readings",
            Form::List(&Form::Table(&READING)),
            "",
            "Numbers to be read from every lap: [readings](../../formats/study.md#readings).",
            r#"readings = [
    { name = "sky",   after = "Sky score:", unit = "points", better = "more" },
    { name = "sea",   pattern = 'sea = ([0-9.,]+)', better = "more", decimal = "," },
    { name = "total", pointer = "/results/0/total", file = "{lap_dir}/result.json", better = "more" },
    { name = "own",   after = "took", unit = "ms", reports = "time" },
]"#,
        ),
        key(
            "splits",
            Form::List(&Form::Table(&SPLIT)),
            "",
            "Named parts of a lap, each a measure of its own: [splits](../../formats/study.md#splits).",
            r#"splits = [{ part = "load" }, { part = "draw", from = 'scene loaded' }, { part = "save", from = '^saving' }]"#,
        ),
        key(
            "splits_in",
            Form::Text,
            "standard output",
            "The file in which `splits` are found.",
            r#"splits = [{ part = "load" }, { part = "draw", from = 'scene loaded' }]
splits_in = "{lap_dir}/marks.log""#,
        ),
        key(
            "counts",
            TEXTS,
            "all of them",
            "The parts that are the time of a lap.",
            r#"splits = [{ part = "load" }, { part = "draw", from = 'scene loaded' }]
counts = ["draw"]"#,
        ),
        key(
            "fills_cache",
            Form::Flag,
            "false",
            "`true`: the first lap after `before` fills a cache. `before` then runs ahead of *cold* laps only, each is followed at once by a *warm* lap, and \
             `cache=cold` and `cache=warm` are two variants, never mixed. There are no warm-ups, and `{cache}` may be used as a placeholder.",
            r#"before = ["rm", "-rf", "cache"]
fills_cache = true"#,
        ),
        key(
            "frames",
            Form::Either(&[Form::Word(&["presented"]), Form::Table(&FRAMES)]),
            "needed where a program of kind `frames` is started",
            "Where the frame times of a program are: `\"presented\"`, or a log that it writes: [frames](../../formats/study.md#frames). The program of an endurance \
             lap draws by itself for the whole time, and its rates are frames a second; `{seconds}` tells it how long.",
            r#"kind = "frames"
frames = "presented""#,
        ),
        key(
            "refresh",
            Form::Quantity(Quantity::Frequency),
            "",
            "The rate of the display that frames are held against.",
            r#"kind = "frames"
frames = "presented"
refresh = "60 Hz""#,
        ),
        key(
            "plays_at",
            Form::Number,
            "",
            "The frames a second of what is played: late and dropped frames become measures.",
            r#"kind = "frames"
frames = "presented"
plays_at = 23.976"#,
        ),
        key(
            "weight",
            Form::Number,
            "1",
            "How much it weighs in `lap compare --overall`; 0 leaves it out.",
            "weight = 2",
        ),
        key(
            "group",
            Form::Text,
            "",
            "The group it belongs to there: given alone and left out.",
            r#"group = "games""#,
        ),
        key(
            "jobs_a_month",
            Form::Number,
            "",
            "How often it is done in a month, for what an upgrade pays.",
            "jobs_a_month = 120",
        ),
        ASSUME_CV,
        key(
            "inputs",
            TEXTS,
            "",
            "Files that it works on: their checksums are recorded with every session, and rigs that read other files are not comparable.",
            r#"inputs = ["{study_dir}/sky.txt"]"#,
        ),
        key(
            "load",
            Form::Either(&[Form::Table(&LOAD), TEXTS]),
            "needed of kind `capacity`",
            "The loads among which the largest that holds is searched for, or a list of named steps, smallest first; `{load}` stands for it in the command: \
             [loads](../../formats/study.md#loads).",
            r#"kind = "capacity"
command = ["sky-layers", "--layers", "{load}"]
load = { from = 1, to = 600, step = 1, unit = "layers" }"#,
        ),
        key(
            "strained",
            Form::Table(&STRAINED),
            "",
            "What says that a lap worked, with breaks.",
            r#"kind = "capacity"
command = ["sky-layers", "--layers", "{load}"]
load = ["quarter", "half", "full"]
readings = [{ name = "dropped", after = "dropped:", better = "less" }]
strained = { reading = "dropped", above = 0 }"#,
        ),
        key(
            "broke",
            Form::Table(&BROKE),
            "{ exit_codes = [], limit = true, signals = true }",
            "What of a lap's end is a load that broke. Any other end is a failure, such as a usage error, and says nothing of the load; two in a row end the search.",
            r#"kind = "capacity"
command = ["sky-layers", "--layers", "{load}"]
load = ["quarter", "half", "full"]
broke = { exit_codes = [3] }"#,
        ),
        key(
            "searches",
            Form::Whole(1, 100),
            "1",
            "How many searches a session makes of each variant.",
            r#"kind = "capacity"
command = ["sky-layers", "--layers", "{load}"]
load = ["quarter", "half", "full"]
searches = 3"#,
        ),
        key(
            "lasts",
            TIME,
            "needed of kind `endurance`",
            "For how long it goes on. The repetition under way is run to its end.",
            r#"kind = "endurance"
lasts = "2h""#,
        ),
        key(
            "look_every",
            TIME,
            r#""1s""#,
            "The time between two looks at the machine, 1 ms at least.",
            r#"kind = "endurance"
lasts = "2h"
look_every = "100ms""#,
        ),
        key(
            "on_battery",
            Form::Flag,
            "false",
            "`true`: run on the battery, and refused on mains; yields what an hour takes of the charge and how long a full one would last.",
            r#"kind = "endurance"
lasts = "1h"
on_battery = true"#,
        ),
        key(
            "idle",
            Form::Flag,
            "false",
            "`true`: nothing runs; needs no `command`, and `on_battery`.",
            r#"kind = "endurance"
lasts = "1h"
on_battery = true
idle = true"#,
        ),
    ],
};
