//! Every key of a study: what may be written there, what holds without it, what it is for, and an example.
//!
//! One list for all that tells of keys: what is read knows no others, and the pages of docs/reference/study and the schema
//! that editors check a study by are made of it.

mod form;
mod lap;
mod nested;
mod others;
mod page;
#[cfg(test)]
mod published_tests;
mod rig;
#[cfg(test)]
mod schema;
mod study;
mod words;
mod workload;

pub use form::{Form, Key, Quantity, Table};
pub(crate) use lap::{PRODUCT, REST};
pub(crate) use nested::{
    BROKE, FRAMES, LOAD, MODE, PART, POWER, PRESENTED, READING, SPLIT, STRAINED,
};
pub(crate) use others::{CLAIM, ELSEWHERE, METER};
pub use page::pages_of;
pub(crate) use rig::RIG;
pub(crate) use study::STUDY;
pub(crate) use workload::WORKLOAD;

use form::key;

/// The schema of a study in JSON, by which editors check it.
pub const SCHEMA: &str = include_str!("../../../../docs/formats/study.schema.json");

/// The tables that a study may hold.
pub static TOP: Table = Table {
    name: "a study",
    keys: &[
        key("study", Form::Table(&STUDY), "", "What holds for all of it.", ""),
        key("workload", Form::Named(&Form::Table(&WORKLOAD)), "needed", "What is timed.", ""),
        key("rig", Form::Named(&Form::Table(&RIG)), "", "A machine.", ""),
        key("meter", Form::Named(&Form::Table(&METER)), "", "An outside meter.", ""),
        key("claim", Form::List(&Form::Table(&CLAIM)), "", "A sentence to be checked.", ""),
        key("elsewhere", Form::List(&Form::Table(&ELSEWHERE)), "", "A number of others.", ""),
    ],
};
