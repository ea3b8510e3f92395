//! What both `[study]` and a workload may say of laps, and what a lap makes.

use super::form::{COMMAND, Form, Key, Quantity, SHARE, TIME, Table, key};

pub(super) const ASSUME_CV: Key = key(
    "assume_cv",
    SHARE,
    "what other laps show",
    "By how much laps of a workload differ, as your lab knows it: a standard deviation. A rig with one or two results is judged by it, as *assumed*, \
     together with what further laps show; it is taken with 10 degrees of freedom.",
    r#"assume_cv = "2%""#,
);
pub(super) const LAPS: Key = key(
    "laps",
    Form::Whole(1, 10_000),
    "6; of a search for a load 36 at most; of an endurance lap 1",
    "Counted laps of each variant in a session. Of a workload of kind `capacity` it is the most laps of a search.",
    "laps = 12",
);
pub(super) const WARM_UP: Key = key(
    "warm_up",
    Form::Whole(0, 1_000),
    "1; 0 of kinds `capacity` and `endurance`",
    "Laps ahead of them, recorded and not counted.",
    "warm_up = 2",
);
pub(super) const RESTS: Key = key(
    "rest",
    Form::Either(&REST_FORMS),
    r#""0s""#,
    "Time between laps, not counted: a time, or until the hottest sensor shows little enough.",
    r#"rest = { until_below = "55 °C", at_least = "5s", at_most = "5min" }"#,
);
static REST_FORMS: [Form; 2] = [TIME, Form::Table(&REST)];
pub(super) const LIMIT: Key = key(
    "limit",
    TIME,
    r#""1h"; of a program that runs for all of an endurance lap, its time and ten minutes"#,
    "A lap that takes longer is ended, with all that it started. Of an endurance lap it is that of one repetition.",
    r#"limit = "10min""#,
);

pub(crate) static REST: Table = Table {
    name: "rest",
    keys: &[
        key("at_least", TIME, r#""0s""#, "The least that it takes.", ""),
        key(
            "until_below",
            Form::Quantity(Quantity::Temperature),
            "needed",
            "The temperature of the hottest sensor at which it ends.",
            "",
        ),
        key(
            "at_most",
            TIME,
            r#""10min""#,
            "The most that it takes, however hot it is then; the lap says so.",
            "",
        ),
    ],
};

pub(crate) static PRODUCT: Table = Table {
    name: "produces",
    keys: &[
        key(
            "file",
            Form::Text,
            "needed",
            "A plain file that this lap wrote: one left by an earlier lap does not pass.",
            "",
        ),
        key("at_least", Form::Quantity(Quantity::Size), "", "The least that it holds.", ""),
        key(
            "sha256",
            Form::Text,
            "",
            "Its checksum, 64 hexadecimal digits, where it is the same every time.",
            r#"produces = [{ file = "still.png", sha256 = "6b1f00b4c2f38d5e6b1f00b4c2f38d5e6b1f00b4c2f38d5e6b1f00b4c2f38d5e" }]"#,
        ),
        key(
            "check",
            COMMAND,
            "",
            "A command that ends well where the file is right.",
            r#"produces = [{ file = "still.png", check = ["file", "still.png"] }]"#,
        ),
        key(
            "same_picture",
            SHARE,
            "",
            "How far two PNG or JPEG pictures may lie apart and still show the same ([how that is measured](../../method.md)). What lies further apart did other work: \
             laps of a variant are doubted, rigs are not comparable, variants are doubted as *less work*. It may be changed later: laps recorded with any of it \
             are judged by what the study says now.",
            r#"produces = [{ file = "still.png", same_picture = "2%" }]"#,
        ),
    ],
};
