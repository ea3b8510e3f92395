//! The two streams: results on standard output, everything else on standard error.

use crate::args::FormatArg;
use crate::error::{CmdError, Exit};
use honest_lap_core::analysis::{Analysis, Document};
use honest_lap_core::record::{PlainJson, plain_line};
use honest_lap_view::table::{Format, Role, Sheet, style, write};
use std::io::{self, BufRead, IsTerminal, Write};
use std::process::ExitCode;

/// Where a command's words go.
pub struct Ui {
    /// Columns of text.
    width: usize,
}

impl Ui {
    pub fn new(width: usize) -> Self {
        Self { width }
    }

    /// Returns how many columns text has.
    pub fn width(&self) -> usize {
        self.width
    }

    /// Prints a result.
    pub fn print(&self, sheet: &Sheet, format: FormatArg) -> Result<(), CmdError> {
        let format = match format {
            FormatArg::Text => Format::Text { width: Some(self.width) },
            FormatArg::Json => Format::Json,
            FormatArg::Csv => Format::Csv,
            FormatArg::Markdown => Format::Markdown,
        };
        let mut out = anstream::AutoStream::auto(io::stdout()).lock();
        write(sheet, format, &mut out).and_then(|()| out.flush()).map_err(|e| CmdError::output(&e))
    }

    /// Prints an analysis: for programs as it is, for people as a sheet of it.
    pub fn print_answer(
        &self,
        analysis: &Analysis<'_>,
        format: FormatArg,
        sheet: impl FnOnce() -> Sheet,
    ) -> Result<(), CmdError> {
        let FormatArg::Json = format else { return self.print(&sheet(), format) };
        let mut out = io::BufWriter::new(io::stdout().lock());
        serde_json::to_writer_pretty(PlainJson::new(&mut out), &Document::of(analysis))
            .map_err(io::Error::from)
            .and_then(|()| writeln!(out))
            .and_then(|()| out.flush())
            .map_err(|err| CmdError::output(&err))
    }

    /// Prints raw text that a program asked for: completions, a man page, a file.
    pub fn print_raw(&self, bytes: &[u8]) -> Result<(), CmdError> {
        let mut out = io::stdout().lock();
        out.write_all(bytes).and_then(|()| out.flush()).map_err(|err| CmdError::output(&err))
    }

    /// Prints text that is styled already; without its styles where nobody would see them.
    pub fn print_styled(&self, text: &str) -> Result<(), CmdError> {
        let mut out = anstream::AutoStream::auto(io::stdout()).lock();
        out.write_all(text.as_bytes())
            .and_then(|()| out.flush())
            .map_err(|err| CmdError::output(&err))
    }

    /// Returns standard output for what writes a table, row by row.
    pub fn stream(&self) -> Box<dyn Write + Send> {
        Box::new(io::BufWriter::new(io::stdout()))
    }

    /// Says something on standard error, each line made safe.
    pub fn say(&self, role: Role, line: &str) {
        let style = style(role);
        let mut err = anstream::AutoStream::auto(io::stderr()).lock();
        // There is nowhere left to say that standard error is gone.
        let _ = writeln!(err, "{style}{}{style:#}", plain_line(line));
    }

    /// Returns whether somebody is there to be asked.
    pub fn is_attended(&self) -> bool {
        io::stdin().is_terminal()
    }

    /// Asks on standard error whether something is so; `None` where nobody is there to ask.
    pub fn agreed(&self, question: &str) -> io::Result<Option<bool>> {
        let stdin = io::stdin();
        if !self.is_attended() {
            return Ok(None);
        }
        let mut err = anstream::AutoStream::auto(io::stderr()).lock();
        write!(err, "{} [y/N] ", plain_line(question))?;
        err.flush()?;
        let mut answer = String::new();
        stdin.lock().read_line(&mut answer)?;
        Ok(Some(matches!(answer.trim().to_lowercase().as_str(), "y" | "yes")))
    }

    /// Says `error:`, `warning:`, `caused by:` or `help:` with what follows.
    pub fn say_labelled(&self, label: &str, role: Role, text: &str) {
        let style = style(role);
        let mut err = anstream::AutoStream::auto(io::stderr()).lock();
        let _ = writeln!(err, "{style}{label}:{style:#} {}", plain_line(text));
    }

    /// Says that the tool itself is at fault, and returns the exit status for that.
    pub fn finish_after_fault(&self) -> ExitCode {
        self.say_labelled("error", Role::Failed, "a fault in the tool itself, told above");
        let help = "every lap announced so far is in the logbook; please report the lines above";
        self.say_labelled("help", Role::Heading, help);
        Exit::Fault.into()
    }

    /// Says what became of the command, and returns its exit status.
    pub fn finish(&self, result: Result<Exit, CmdError>) -> ExitCode {
        match result {
            Ok(exit) => exit.into(),
            Err(CmdError::Usage(error)) => {
                let _ = error.print();
                let status = error.exit_code();
                ExitCode::from(u8::try_from(status).unwrap_or(2))
            }
            Err(CmdError::ReaderLeft) => Exit::Done.into(),
            Err(CmdError::Framed(text)) => {
                let mut err = anstream::AutoStream::auto(io::stderr()).lock();
                let _ = writeln!(err, "{text}");
                Exit::Request.into()
            }
            Err(CmdError::Failed(failure)) => {
                self.say_labelled("error", Role::Failed, &failure.problem);
                failure.details.iter().for_each(|line| self.say(Role::Plain, line));
                for cause in &failure.causes {
                    self.say_labelled("caused by", Role::Quiet, cause);
                }
                if let Some(help) = &failure.help {
                    self.say_labelled("help", Role::Heading, help);
                }
                failure.exit.into()
            }
        }
    }
}

/// Says that a logbook is waited for.
pub fn tell_of_waiting() {
    let text = "another program is writing to the logbook; Ctrl-C gives up";
    Ui::new(0).say_labelled("waiting", Role::Quiet, text);
}
