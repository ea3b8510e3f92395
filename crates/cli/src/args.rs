//! What every command may be told: where its study is, and how results are printed.

use clap::ValueEnum;
use std::path::PathBuf;

/// What every command may be told.
#[derive(Debug)]
pub struct Cli {
    /// The study's folder, where one is named.
    pub study: Option<PathBuf>,
    /// The whole command line's definition: completions and the manual come from it.
    pub definition: fn() -> clap::Command,
}

/// How results are printed.
#[derive(clap::Args, Debug, Clone, Copy)]
pub struct OutputArgs {
    /// The form of the result
    #[arg(long, value_enum, default_value_t = FormatArg::Text, value_name = "FORM")]
    pub format: FormatArg,
}

/// A form of results.
#[derive(ValueEnum, Debug, Clone, Copy, PartialEq, Eq)]
pub enum FormatArg {
    /// For a person at a terminal
    Text,
    /// For programs, every digit kept
    Json,
    /// For spreadsheets, every digit kept
    Csv,
    /// For a forum or a pull request
    Markdown,
}
