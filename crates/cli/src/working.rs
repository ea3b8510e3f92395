//! A line on standard error while something takes long; nothing where it does not.

use crate::background::{Background, Until};
use anstream::stderr;
use honest_lap_core::record::plain_line;
use indicatif::{ProgressBar, ProgressStyle};
use std::io::{IsTerminal, Write, stderr as plain_stderr};
use std::time::Duration;

/// What takes no longer than this is done before a line about it could be read.
const SHORT: Duration = Duration::from_secs(1);
const TICK: Duration = Duration::from_millis(200);

/// Says what is under way until it is dropped: at a terminal with the time that it took so far, elsewhere once.
pub struct Working {
    _line: Background,
}

impl Working {
    /// Begins to say `what` is under way.
    pub fn on(what: &str) -> Self {
        let what = plain_line(what).to_string();
        Self { _line: Background::begin("working", move |until| say(&what, until)) }
    }
}

fn say(what: &str, until: &Until) {
    if !until.goes_on_after(SHORT) {
        return;
    }
    if !plain_stderr().is_terminal() {
        let _ = writeln!(stderr(), "{what} …");
        return;
    }
    let bar = ProgressBar::new_spinner().with_elapsed(SHORT).with_message(what.to_owned());
    let style = ProgressStyle::with_template("{msg} … {elapsed}");
    bar.set_style(style.expect("the template above is well formed"));
    bar.tick();
    while until.goes_on_after(TICK) {
        bar.tick();
    }
    bar.finish_and_clear();
}
