//! `[rig.NAME]`.

use super::form::{AMOUNT, Form, Quantity, TEXTS, Table, key};
use super::nested::{PART, POWER};

const RATE: Form = Form::Quantity(Quantity::Rate);
const RATES: Form = Form::Either(&[RATE, Form::List(&RATE)]);

pub(crate) static RIG: Table = Table {
    name: "[rig.NAME]",
    keys: &[
        key(
            "title",
            Form::Text,
            "",
            "What people call it: tables may name it so.",
            r#"title = "Osprey Mk II""#,
        ),
        key(
            "about",
            Form::Text,
            "",
            "What it is, in a sentence.",
            r#"about = "12-core desktop, 32 GB""#,
        ),
        key(
            "key",
            Form::Either(&[Form::Text, TEXTS]),
            "",
            "What its sessions are signed with, as `lap rig` shows it there: 64 digits, or a list of such.",
            r#"key = "6b1f00b4c2f38d5e6b1f00b4c2f38d5e6b1f00b4c2f38d5e6b1f00b4c2f38d5e""#,
        ),
        key(
            "price",
            AMOUNT,
            "",
            "For `lap value`. A rig with a price and no laps is told what it would have to reach.",
            r#"price = "1450 EUR""#,
        ),
        key(
            "sells_for",
            AMOUNT,
            "",
            "What it still fetches: taken off what an upgrade from it costs.",
            r#"sells_for = "300 EUR""#,
        ),
        key(
            "owned",
            Form::Flag,
            "false",
            "`true`: it is there already, so to keep it costs nothing.",
            "owned = true",
        ),
        key(
            "model",
            Form::Text,
            "",
            "The model that it is to speak for; alone, it is doubted.",
            r#"model = "Osprey Mk II""#,
        ),
        key(
            "parts",
            Form::Named(&Form::Either(&[Form::Text, Form::List(&Form::Table(&PART))])),
            "",
            "What it is made of, by names of your own. Two rigs that share some and differ in several are doubted. What was another once has days; `lap run --part \
             memory=\"64 GB\"` says it of one session. Sessions with another part are another day, are doubted where one figure is made of both (*other setting*), \
             and are listed around a change.",
            r#"parts = { card = "L2", memory = [{ is = "32 GB" }, { is = "64 GB", from = "2026-03-09" }] }"#,
        ),
        key(
            "power",
            Form::Table(&POWER),
            "",
            "What it takes, as somebody measured it. What laps measure comes first.",
            r#"power = { mean = "85 W", peak = "120 W", idle = "21 W" }"#,
        ),
        key(
            "peak",
            Form::Either(&[RATES, Form::Named(&Form::Named(&RATES))]),
            "",
            "What it could do at most: a rate, a list of such, or rates by a setting that a workload varies, as in `{ precision = { fp64 = \"80 GFLOP/s\" } }`. Rates \
             in such a unit, prefixes aside, are shown as shares of it.",
            r#"peak = ["1.9 TFLOP/s", "51 GB/s"]
peak_from = "the maker's data sheet, page 4""#,
        ),
        key(
            "peak_from",
            Form::Text,
            "needed beside `peak`",
            "Which document says so.",
            r#"peak = "1.9 TFLOP/s"
peak_from = "the maker's data sheet, page 4""#,
        ),
        key(
            "unsupported",
            Form::Named(&Form::Text),
            "",
            "What it cannot do, with the reason; some variants of a workload: `{ \"still threads=2\" = \"one core\" }`.",
            r#"unsupported = { still = "no graphics card" }"#,
        ),
        key(
            "reach",
            Form::Text,
            "",
            "A command line that runs there the command it is given as its last word. `lap run --rig NAME` then runs the laps there: \
             [a lab of many machines](../../lab.md).",
            r#"reach = "ssh lab@heron""#,
        ),
        key(
            "apart",
            Form::Flag,
            "false",
            "`true`: such a run goes on while no other rig runs: it shares power or a network with one.",
            r#"reach = "ssh lab@heron"
apart = true"#,
        ),
    ],
};
