//! `[study]`.

use super::form::{AMOUNT, Form, SHARE, TEXTS, TIME, Table, key};
use super::lap::{ASSUME_CV, LAPS, LIMIT, RESTS, WARM_UP};

pub(crate) static STUDY: Table = Table {
    name: "[study]",
    keys: &[
        key(
            "title",
            Form::Text,
            "",
            "What it is called.",
            r#"title = "Pale Harbour: machines for the dome""#,
        ),
        key(
            "question",
            Form::Text,
            "",
            "What it is to answer.",
            r#"question = "Which machine should render next season's shows?""#,
        ),
        key(
            "baseline",
            Form::Text,
            "the first rig named",
            "The rig that the others are held against.",
            r#"baseline = "heron""#,
        ),
        key("margin", SHARE, r#""2%""#, "How close counts as the same.", r#"margin = "3%""#),
        key(
            "between_sessions",
            SHARE,
            "assumed",
            "By how much sessions of a rig differ, as your lab knows it: a standard deviation of every measure. It is taken with 10 degrees of freedom in \
             place of the 1.5 % with 4 that are assumed otherwise; the lab's own sessions are added to it.",
            r#"between_sessions = "0.6%""#,
        ),
        ASSUME_CV,
        LAPS,
        WARM_UP,
        RESTS,
        LIMIT,
        key(
            "expect",
            TEXTS,
            "",
            "Rigs in the order expected, fastest first; what comes out the other way round is doubted.",
            r#"expect = ["kestrel", "heron"]"#,
        ),
        key(
            "stale_after",
            TIME,
            "never",
            "Results older than this are doubted.",
            r#"stale_after = "90 days""#,
        ),
        key(
            "hour_worth",
            AMOUNT,
            "",
            "What an hour of waiting is worth, for `lap value`.",
            r#"hour_worth = "45 EUR""#,
        ),
        key(
            "store",
            Form::Text,
            "",
            "The lab's store in PostgreSQL, without a password: [a lab of many machines](../../lab.md).",
            r#"store = "postgresql://lab@host/laps""#,
        ),
    ],
};
