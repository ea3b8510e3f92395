//! Tables within the keys of workloads and rigs.

use super::form::{Form, Quantity, SHARE, TIME, Table, key};

/// Where a text or a number is found.
const AFTER: &str = "A text; what is wanted stands behind it in the same line.";
const POINTER: &str = "A JSON pointer (RFC 6901) into standard output or `file`.";
const DECIMAL: Form = Form::Word(&[".", ","]);

pub(crate) static READING: Table = Table {
    name: "readings",
    keys: &[
        key("name", Form::Text, "needed", "The measure's name. `time` is the tool's own.", ""),
        key(
            "unit",
            Form::Text,
            "",
            "As printed. Units of time (ns, µs, ms, s, min, h) become seconds, and clock times are read: `00:01:23.45`.",
            "",
        ),
        key(
            "better",
            Form::Word(&["more", "less"]),
            "needed; `less` of times",
            "Which way is better.",
            "",
        ),
        key(
            "after",
            Form::Text,
            "",
            "A text; the number that follows it in the same line is read, with a unit before or behind it: `Speed (MB/s): 420`, `took 16.6 ms`. What touches a \
             number and is no known or declared unit makes it none (`0x1F`, `5k`, `812/1000`).",
            "",
        ),
        key(
            "pattern",
            Form::Text,
            "",
            "A regular expression for a line; its only group, or the group `(?<value>…)`, is the number, all of it: what it cuts out of a longer one is refused. A \
             group `(?<unit>…)` must be the declared unit.",
            "",
        ),
        key("pointer", Form::Text, "", POINTER, ""),
        key(
            "in",
            Form::Word(&["output", "errors"]),
            r#""output""#,
            "The stream that it is in.",
            r#"readings = [{ name = "sky", after = "Sky:", better = "more", in = "errors" }]"#,
        ),
        key("file", Form::Text, "", "The file that it is in, in the place of a stream.", ""),
        key(
            "decimal",
            DECIMAL,
            "as it shows",
            "The mark ahead of decimals, where numbers could be read two ways.",
            "",
        ),
        key(
            "reports",
            Form::Word(&["time"]),
            "",
            "The program's own report of its time. Recorded beside the measured one, and doubted where they disagree.",
            "",
        ),
        key(
            "optional",
            Form::Flag,
            "false",
            "`true`: a lap may be without it, as where a part of a suite crashes. The lap counts with all its other values, and what the program last said is told \
             beside the missing one.",
            r#"readings = [{ name = "sky", after = "Sky:", better = "more", optional = true }]"#,
        ),
    ],
};

pub(crate) static SPLIT: Table = Table {
    name: "splits",
    keys: &[
        key("part", Form::Text, "needed", "The part's name, which is that of its measure.", ""),
        key(
            "from",
            Form::Text,
            "the begin of the lap, of the first",
            "A regular expression of the line at which it begins.",
            "",
        ),
    ],
};

pub(crate) static MODE: Table = Table {
    name: "modes",
    keys: &[
        key("after", Form::Text, "", AFTER, ""),
        key(
            "pattern",
            Form::Text,
            "",
            "A regular expression for a line, whose group is what is wanted.",
            r#"modes = { device = { pattern = 'using device (\w+)' } }"#,
        ),
        key(
            "pointer",
            Form::Text,
            "",
            POINTER,
            r#"modes = { device = { pointer = "/device", file = "settings.json" } }"#,
        ),
        key(
            "in",
            Form::Word(&["output", "errors"]),
            r#""output""#,
            "The stream that it is in.",
            r#"modes = { device = { after = "Device", in = "errors" } }"#,
        ),
        key(
            "file",
            Form::Text,
            "",
            "The file that it is in, seen from the study's folder or from `~/`.",
            "",
        ),
    ],
};

pub(crate) static FRAMES: Table = Table {
    name: "frames",
    keys: &[
        key(
            "presented",
            Form::Either(&[Form::Flag, Form::Table(&PRESENTED)]),
            "",
            "The frames that it presents are noted; what of them is the pass.",
            r#"kind = "frames"
frames = { presented = { for = "30s", window = 2 } }"#,
        ),
        key(
            "file",
            Form::Text,
            "",
            "The log, read once the lap has ended.",
            r#"kind = "frames"
frames = { file = "{lap_dir}/frames.csv", column = "frame_ms", unit = "ms", as = "durations" }"#,
        ),
        key(
            "output",
            Form::Flag,
            "false",
            "`true`: the log is what it prints.",
            r#"kind = "frames"
frames = { output = true, processor = "cpu", graphics = "gpu" }"#,
        ),
        key(
            "errors",
            Form::Flag,
            "false",
            "`true`: the log is its standard error.",
            r#"kind = "frames"
frames = { errors = true }"#,
        ),
        key(
            "column",
            Form::Text,
            "found",
            "The column of frame times, by number from 1 or heading.",
            "",
        ),
        key("unit", Form::Text, "found", "`s`, `ms`, `us` or `ns`.", ""),
        key(
            "as",
            Form::Word(&["durations", "moments"]),
            "found",
            "How long each frame took, or when it was shown.",
            "",
        ),
        key(
            "processor",
            Form::Text,
            "found by heading",
            "The column of the processor's busy times.",
            "",
        ),
        key(
            "graphics",
            Form::Text,
            "found by heading",
            "The column of the graphics processor's.",
            "",
        ),
    ],
};

pub(crate) static PRESENTED: Table = Table {
    name: "presented",
    keys: &[
        key(
            "window",
            Form::Whole(1, 1_000),
            "the busiest",
            "The window, numbered from 1 in the order in which windows first presented.",
            "",
        ),
        key(
            "program",
            Form::Text,
            "",
            "The file name of the program, where a command starts several.",
            r#"kind = "frames"
frames = { presented = { program = "fly-through", frames = 600 } }"#,
        ),
        key(
            "frames",
            Form::Whole(1, 100_000_000),
            "",
            "The pass ends after so many frames from its begin.",
            "",
        ),
        key(
            "for",
            TIME,
            "",
            "The pass ends after this time from its begin; not beside `frames`.",
            "",
        ),
        key(
            "by_mark",
            Form::Flag,
            "false",
            "`true`: the pass begins at the first `lap mark`, and without `frames` and `for` the lap ends at the next.",
            r#"kind = "frames"
frames = { presented = { by_mark = true } }"#,
        ),
    ],
};

pub(crate) static LOAD: Table = Table {
    name: "load",
    keys: &[
        key("from", Form::Whole(0, u32::MAX), "needed", "The least load.", ""),
        key("to", Form::Whole(0, u32::MAX), "needed", "The largest.", ""),
        key("step", Form::Whole(1, u32::MAX), "1", "What lies between two.", ""),
        key("unit", Form::Text, "", "What there are so many of.", ""),
    ],
};

pub(crate) static STRAINED: Table = Table {
    name: "strained",
    keys: &[
        key(
            "pattern",
            Form::Text,
            "",
            "A regular expression of a line of its output, of what is kept of it: its beginning and end.",
            r#"kind = "capacity"
command = ["sky-layers", "--layers", "{load}"]
load = ["half", "full"]
strained = { pattern = "dropped [1-9]" }"#,
        ),
        key("reading", Form::Text, "", "A reading of the workload.", ""),
        key("above", Form::Number, "", "A reading above this is strain.", ""),
        key(
            "below",
            Form::Number,
            "",
            "A reading below this is.",
            r#"kind = "capacity"
command = ["sky-layers", "--layers", "{load}"]
load = ["half", "full"]
readings = [{ name = "rate", after = "rate:", better = "more" }]
strained = { reading = "rate", below = 30 }"#,
        ),
        key(
            "late_frames",
            SHARE,
            "",
            "More of its `frames` than that were not on time for its `refresh`.",
            r#"kind = "capacity"
command = ["sky-layers", "--layers", "{load}"]
load = ["half", "full"]
frames = "presented"
refresh = "60 Hz"
strained = { late_frames = "1%" }"#,
        ),
    ],
};

pub(crate) static BROKE: Table = Table {
    name: "broke",
    keys: &[
        key(
            "exit_codes",
            Form::List(&Form::Whole(0, 255)),
            "[]",
            "It ended with one of these.",
            "",
        ),
        key(
            "limit",
            Form::Flag,
            "true",
            "It took longer than its `limit`.",
            r#"kind = "capacity"
command = ["sky-layers", "--layers", "{load}"]
load = ["half", "full"]
broke = { limit = false, signals = false }"#,
        ),
        key("signals", Form::Flag, "true", "A signal ended it.", ""),
    ],
};

pub(crate) static POWER: Table = Table {
    name: "power",
    keys: &[
        key("mean", Form::Quantity(Quantity::Power), "", "At work.", ""),
        key("peak", Form::Quantity(Quantity::Power), "", "At most.", ""),
        key("idle", Form::Quantity(Quantity::Power), "", "When nothing runs.", ""),
    ],
};

pub(crate) static PART: Table = Table {
    name: "parts",
    keys: &[
        key("is", Form::Text, "needed", "What it is.", ""),
        key("from", Form::Quantity(Quantity::Day), "at first", "Since which day.", ""),
    ],
};
