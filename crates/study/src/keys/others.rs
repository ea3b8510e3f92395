//! `[meter.NAME]`, `[[claim]]` and `[[elsewhere]]`.

use super::form::{COMMAND, Form, Table, VALUE, key};

pub(crate) static METER: Table = Table {
    name: "[meter.NAME]",
    keys: &[
        key(
            "command",
            COMMAND,
            "needed",
            "A command that prints a number a line for as long as it runs: [meters](../../formats/study.md#meters). Placeholders are `{lap}` and `{study_dir}`.",
            r#"command = ["read-meter", "--watts"]"#,
        ),
        key("unit", Form::Text, "needed", "The unit of what it prints.", r#"unit = "W""#),
        key(
            "decimal",
            Form::Word(&[".", ","]),
            "as it shows",
            "The mark ahead of decimals, where numbers could be read two ways.",
            r#"decimal = ",""#,
        ),
    ],
};

pub(crate) static CLAIM: Table = Table {
    name: "[[claim]]",
    keys: &[
        key(
            "says",
            Form::Text,
            "needed",
            "A sentence: [claims](../../claims.md). `lap claim` checks all of them.",
            r#"says = "heron is at least 20% faster than wren""#,
        ),
        key("who", Form::Text, "", "Who says so.", r#"who = "the maker's leaflet""#),
    ],
};

pub(crate) static ELSEWHERE: Table = Table {
    name: "[[elsewhere]]",
    keys: &[
        key(
            "rig",
            Form::Text,
            "needed",
            "The machine that it is of; it need not be one of the study's.",
            r#"rig = "osprey""#,
        ),
        key("workload", Form::Text, "needed", "The workload.", r#"workload = "still""#),
        key("settings", Form::Named(&VALUE), "", "The variant.", "settings = { threads = 2 }"),
        key(
            "measure",
            Form::Text,
            r#""time""#,
            "The measure.",
            r#"measure = "sky"
better = "more"
value = 812"#,
        ),
        key(
            "better",
            Form::Word(&["more", "less"]),
            "needed of what is no time",
            "Which way is better.",
            r#"measure = "sky"
better = "more"
value = "812 points""#,
        ),
        key(
            "value",
            Form::Either(&[Form::Text, Form::Number]),
            "needed",
            "The number. It stands in the table and the figure where it would be among ours, with the rank it would have and our value as a share of it, and is \
             part of no verdict.",
            r#"value = "41.5 s""#,
        ),
        key(
            "source",
            Form::Text,
            "needed",
            "Where it is from.",
            r#"source = "the maker's leaflet, spring""#,
        ),
    ],
};
