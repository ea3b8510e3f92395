//! What the rows of each table are that `--format json` prints: docs/formats/tables.schema.json and docs/reference/tables.md
//! are made of this list, and what commands really print is held against them (`cli/tests/commands/schema.rs`).
//!
//! Long, since it lists every field.

use serde_json::{Map, Value, json};
use std::fmt::Write;

/// What a field holds; any may be null but a [`Holds::Texts`], where what it tells is not known.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Holds {
    Text,
    Whole,
    Number,
    Flag,
    Texts,
}

/// A field of a row.
struct Field {
    key: &'static str,
    holds: Holds,
    about: &'static str,
}

/// The shape of a table.
struct Shape {
    schema: &'static str,
    version: u32,
    /// The command that prints it.
    from: &'static str,
    /// What a row is.
    row: &'static str,
    fields: &'static [Field],
}

const fn text(key: &'static str, about: &'static str) -> Field {
    Field { key, holds: Holds::Text, about }
}

const fn whole(key: &'static str, about: &'static str) -> Field {
    Field { key, holds: Holds::Whole, about }
}

const fn number(key: &'static str, about: &'static str) -> Field {
    Field { key, holds: Holds::Number, about }
}

const fn flag(key: &'static str, about: &'static str) -> Field {
    Field { key, holds: Holds::Flag, about }
}

const fn texts(key: &'static str, about: &'static str) -> Field {
    Field { key, holds: Holds::Texts, about }
}

const SHAPES: [Shape; 11] = [
    Shape {
        schema: "honest-lap/sessions",
        version: 1,
        from: "lap show",
        row: "a session",
        fields: &[
            text("session", "its name"),
            text("rig", "its rig"),
            text("started", "when it began, RFC 3339"),
            text("measured_on", "the day that its laps are of, where that was said"),
            texts("workloads", "what was run"),
            whole("laps_counted", "laps that enter sums"),
            whole("laps_warm_up", "warm-up laps that were done"),
            whole("laps_set_aside", "laps that a person set aside"),
            whole("laps_not_done", "laps that failed or were ended"),
            text("processor", "the rig's processor"),
            text("tool", "the version of `lap` that recorded it"),
            whole("seed", "what its order was drawn with"),
        ],
    },
    Shape {
        schema: "honest-lap/session",
        version: 2,
        from: "lap show SESSION",
        row: "a lap",
        fields: &[
            text("lap", "its name"),
            text("workload", "what was run"),
            text("variant", "`name=value, …`"),
            whole("round", "its round, from 1"),
            flag("warm_up", "whether it only warmed up"),
            whole("time_ns", "the time of its work: of the parts that count, or all"),
            texts("readings", "what was read from it, in words"),
            whole("wall_ns", "from start to reap, of failed laps too"),
            text("outcome", "a word of docs/formats/logbook.md"),
            flag("counted", "whether it enters sums"),
        ],
    },
    Shape {
        schema: "honest-lap/lap",
        version: 3,
        from: "lap show LAP",
        row: "the lap, the only one",
        fields: &LAP,
    },
    Shape {
        schema: "honest-lap/preview",
        version: 1,
        from: "lap run --preview",
        row: "a lap that would be run",
        fields: &[
            whole("place", "its place in the order, from 1"),
            text("workload", "what would be run"),
            text("variant", "`name=value, …`"),
            whole("round", "its round, from 1"),
            flag("warm_up", "whether it would only warm up"),
            whole("expected_ns", "from earlier laps on this rig; null if there are none"),
        ],
    },
    Shape {
        schema: "honest-lap/import",
        version: 1,
        from: "lap import",
        row: "a log",
        fields: &[
            text("lap", "the lap that it became; null with `--preview`"),
            text("log", "the file"),
            text("read_as", "how it was read, in words"),
            whole("frames", "frames that were read"),
            whole("time_ns", "of the whole log"),
            texts("left_out", "what was no frame time, in words"),
            text("cut", "what the figures leave out"),
            texts("looks_like", "stretches that look like loading or idling"),
            texts("marks", "marks in it, 20 at most"),
            texts("beside_the_frames", "columns beside the frames that were kept"),
            texts("not_kept", "columns that were not"),
        ],
    },
    Shape {
        schema: "honest-lap/frames",
        version: 1,
        from: "lap frames",
        row: "a cell of passes (`lap` is null), or a pass",
        fields: &FRAMES,
    },
    Shape {
        schema: "honest-lap/remarks",
        version: 1,
        from: "lap note",
        row: "a remark",
        fields: &[
            text("made", "when, RFC 3339"),
            text("about", "the lap or session; empty of the study"),
            text("kind", "what it is: a note, a lap set aside or taken back, a cut"),
            text("text", "what was said"),
        ],
    },
    Shape {
        schema: "honest-lap/rig",
        version: 1,
        from: "lap rig",
        row: "the machine, the only one",
        fields: &[
            text("processor", "its processor"),
            whole("cores", "cores of it"),
            whole("threads", "threads that it runs at once"),
            whole("memory_bytes", "its memory"),
            text("system", "its system"),
            text("kernel", "its kernel"),
            text("governor", "the governor of its clocks"),
            text("machine", "a hash that tells it from others"),
            text("key", "what its sessions are signed with, 64 hexadecimal digits"),
            texts("sensors", "what is watched while laps run"),
            texts("absent", "what the machine does not show"),
        ],
    },
    Shape {
        schema: "honest-lap/rig-check",
        version: 1,
        from: "lap rig check",
        row: "something that could distort a lap",
        fields: &[
            text("obstacle", "what it is"),
            text("evidence", "what shows it"),
            text("remedy", "what to do"),
        ],
    },
    Shape {
        schema: "honest-lap/verify",
        version: 2,
        from: "lap verify",
        row: "a session and its seal",
        fields: &[
            text("session", "its name"),
            whole("laps", "its laps"),
            text("seal", "the last of its chain, 64 hexadecimal digits"),
            flag("sealed", "whether all of it is as it was written"),
            text("finding", "what was found"),
            text(
                "signed_by",
                "the rig whose key it is, by the study; null if unknown or not signed",
            ),
            text("key", "64 hexadecimal digits; null if not signed"),
            flag("key_known", "whether the study names that key"),
            text("signed_up_to", "the last lap covered; null if all are"),
        ],
    },
    Shape {
        schema: "honest-lap/retest",
        version: 2,
        from: "lap doubts --retest",
        row: "what to run again on a rig",
        fields: &[
            text("rig", "the rig"),
            text("workload", "the workload"),
            whole("laps", "laps of each variant"),
            whole("sessions", "sessions of so many"),
            whole("time_ns", "of one of them; null where no lap tells"),
            texts("resolves", "doubts that it would resolve"),
        ],
    },
];

const LAP: [Field; 70] = [
    text("lap", "its name"),
    text("workload", "what was run"),
    text("variant", "`name=value, …`"),
    flag("warm_up", "whether it only warmed up"),
    text("outcome", "what came of it, in words"),
    text("counts", "whether it enters sums, and why not"),
    whole("wall_ns", "from start to reap"),
    whole("counted_ns", "of the parts that count"),
    whole("step_ns", "the step in which its time was read by hand"),
    texts("readings", "what was read from it, in words"),
    text("reason", "why it was not done"),
    text("started", "when, RFC 3339"),
    whole("round", "its round, from 1"),
    text("frames", "of a pass: what its frames come to, in words"),
    text("frame_log", "where its frames are from"),
    text("frames_read_as", "how they were read"),
    texts("frames_left_out", "what was no frame time"),
    texts("marks", "marks of the pass"),
    texts("also_presented", "other windows that presented"),
    texts("command", "what was started, word by word"),
    text("folder", "where"),
    whole("exit_code", "the program's"),
    whole("signal", "what ended it"),
    whole("user_ns", "processor time in the program"),
    whole("system_ns", "in the kernel on its behalf"),
    whole("peak_bytes", "peak memory of its largest process"),
    whole("peak_floor_bytes", "the least that this can read"),
    texts("produced", "files that it made"),
    texts("left_behind", "programs that outlived it and were ended"),
    whole("task", "the form of its task; equal numbers, equal tasks"),
    whole("tree_peak_bytes", "peak memory of all its processes"),
    text("tree", "how its processes were held together"),
    texts("modes", "how the program was set"),
    whole("others_cpu_ns", "processor time of all other programs"),
    whole("memory_available_bytes", "free ahead of it"),
    whole("swap_used_bytes", "ahead of it"),
    number("load_1min", "the system's load ahead of it"),
    whole("slept_ns", "how long the machine slept meanwhile"),
    whole("own_memory_wait_ns", "its own processes waited for memory"),
    whole("own_disk_wait_ns", "they waited for a disk"),
    whole("read_bytes", "they read from disks"),
    whole("written_bytes", "they wrote to disks"),
    text("limited_by", "what limited it, in words"),
    number("cores_busy", "busy cores, on average"),
    number("busiest_core", "the use of the busiest, a share"),
    number("clock_mhz", "clock of the cores, on average"),
    number("temperature_c", "the hottest sensor, on average"),
    number("fan_rpm", "the fastest fan"),
    number("power_w", "power by the machine's own sensors"),
    number("energy_j", "energy by them"),
    flag("on_mains", "whether it ran on mains"),
    text("battery", "the battery's charge, in words"),
    number("battery_energy_j", "taken from it"),
    number("brightness", "of the screen, a share"),
    number("graphics_use", "use of the graphics processor, a share"),
    whole("graphics_memory_bytes", "its memory in use"),
    number("graphics_clock_mhz", "its clock"),
    whole("swapped_bytes", "swapped in and out"),
    whole("memory_available_least_bytes", "the least that was free"),
    whole("stalled_processor_ns", "the machine waited for a processor"),
    whole("stalled_memory_ns", "for memory"),
    whole("stalled_disk_ns", "for a disk"),
    text("governor", "the governor of its clocks"),
    text("power_profile", "the system's power profile"),
    whole("samples", "looks at the sensors"),
    texts("meters", "outside meters, in words"),
    whole("stdout_bytes", "what it printed"),
    whole("stderr_bytes", "to standard error"),
    texts("stdout_lines", "the last of it, control characters spelled out"),
    texts("stderr_lines", "likewise"),
];

const FRAMES: [Field; 45] = [
    text("workload", "the workload"),
    text("rig", "the rig"),
    text("variant", "`name=value, …`"),
    text("lap", "the pass; null of a cell"),
    whole("passes", "passes that it is made of"),
    number("average_rate_fps", "frames over time"),
    number("low_1_fps", "the 1 % low"),
    number("low_01_fps", "the 0.1 % low; null of too few frames"),
    number("median_frame_ms", "the median frame time"),
    number("p99_frame_ms", "its 99th percentile"),
    number("worst_frame_ms", "the longest"),
    number("hitches_per_min", "hitches a minute"),
    number("frame_change_ms", "from one frame to the next, on average"),
    number("over_budget_percent", "frames over the display's interval"),
    number("missed_refreshes", "refreshes without a new frame"),
    number("on_time_percent", "frames on time"),
    number("plays_on_time_percent", "of what is played: frames on time"),
    number("dropped_frames", "of what is played: frames that were not shown"),
    number("between_percent", "spread between the passes of a cell"),
    number("within_percent", "spread of frames within a pass"),
    text("cut", "what the figures leave out"),
    number("use_percent", "use of all cores"),
    number("busiest_core_percent", "use of the busiest"),
    number("cores_in_use", "cores that were busy"),
    number("own_threads", "threads that its own processes used"),
    number("used_by_others", "threads that all others used"),
    number("graphics_use_percent", "use of the graphics processor"),
    number("clock_mhz", "clock of the cores"),
    number("graphics_clock_mhz", "clock of the graphics processor"),
    number("hottest_c", "the hottest sensor"),
    number("fan_rpm", "the fastest fan"),
    number("mean_power_w", "mean power"),
    number("peak_power_w", "peak power"),
    number("energy_j", "energy"),
    number("peak_memory_mb", "peak memory"),
    number("graphics_memory_mb", "graphics memory"),
    number("swapped_mb", "swapped in and out"),
    number("processor_wait_percent", "of the time: the machine waited for a processor"),
    number("memory_wait_percent", "for memory"),
    number("disk_wait_percent", "for a disk"),
    number("own_memory_wait_percent", "its own processes waited for memory"),
    number("own_disk_wait_percent", "they waited for a disk"),
    number("read_from_disks_mb", "they read from disks"),
    number("written_to_disks_mb", "they wrote to disks"),
    text("limited_by", "what limited it"),
];

impl Holds {
    /// Returns its schema, and what it is in a word.
    fn told(self) -> (Value, &'static str) {
        match self {
            Self::Text => (json!({ "type": ["string", "null"] }), "text"),
            Self::Whole => (json!({ "type": ["integer", "null"], "minimum": 0 }), "whole number"),
            Self::Number => (json!({ "type": ["number", "null"] }), "number"),
            Self::Flag => (json!({ "type": ["boolean", "null"] }), "true or false"),
            Self::Texts => (json!({ "type": "array", "items": { "type": "string" } }), "texts"),
        }
    }
}

/// Returns the schema of an object that has these keys and no others.
fn object(properties: Map<String, Value>) -> Value {
    let required: Vec<&String> = properties.keys().collect();
    json!({ "type": "object", "additionalProperties": false, "required": required, "properties": properties })
}

fn schema_of(shape: &Shape) -> Value {
    let texts = || json!({ "type": "array", "items": { "type": "string" } });
    let field = |field: &Field| {
        let (mut schema, _) = field.holds.told();
        schema["description"] = field.about.into();
        (field.key.to_owned(), schema)
    };
    let row = object(shape.fields.iter().map(field).collect());
    let of = |all: [(&str, Value); 4]| {
        all.into_iter().map(|(key, value)| (key.to_owned(), value)).collect::<Map<_, _>>()
    };
    let word = || json!({ "type": ["string", "null"] });
    let rows = json!({ "type": "array", "items": row });
    let group =
        object(of([("heading", word()), ("lead", texts()), ("rows", rows), ("notes", texts())]));
    let groups = json!({ "type": "array", "items": group });
    let mut sheet =
        of([("title", word()), ("lead", texts()), ("groups", groups), ("notes", texts())]);
    sheet.insert("schema".to_owned(), json!({ "const": shape.schema }));
    sheet.insert("version".to_owned(), json!({ "const": shape.version }));
    let mut schema = object(sheet);
    schema["description"] = format!("`{}`: a row is {}", shape.from, shape.row).into();
    schema
}

/// Returns the schema of all tables.
fn schema() -> Value {
    let all: Vec<Value> = SHAPES.iter().map(schema_of).collect();
    let draft = "https://json-schema.org/draft/2020-12/schema";
    json!({ "$schema": draft, "title": "tables of Honest Lap", "oneOf": all })
}

/// Returns the page of all tables.
fn page() -> String {
    let mut text = String::from(
        "# Tables that `--format json` prints\n\nWhat is around the rows, and what commands that answer print, is in \
         [formats/json.md](../formats/json.md). Anything may be null, where it is not known; lists of texts are empty then.\n",
    );
    for Shape { schema, version, from, row, fields } in &SHAPES {
        let _ = write!(text, "\n## `{from}`: `{schema}`, version {version}\n\nA row is {row}.\n\n");
        text += "| field | holds | what |\n|---|---|---|\n";
        for Field { key, holds, about } in *fields {
            let _ = writeln!(text, "| `{key}` | {} | {about} |", holds.told().1);
        }
    }
    text
}

#[test]
fn the_published_schema_and_page_are_those_of_these_shapes() {
    let schema = format!("{}\n", serde_json::to_string_pretty(&schema()).unwrap());
    for (place, made) in [("formats/tables.schema.json", schema), ("reference/tables.md", page())] {
        let path = format!("{}/../../docs/{place}", env!("CARGO_MANIFEST_DIR"));
        if std::env::var_os("LAP_WRITE_REFERENCE").is_some() {
            std::fs::write(&path, &made).unwrap();
        }
        let published = std::fs::read_to_string(&path).unwrap_or_default();
        let how = "LAP_WRITE_REFERENCE=1 cargo test -p honest-lap-view shape";
        assert!(published == made, "docs/{place} is not what the shapes say: {how}");
    }
}
