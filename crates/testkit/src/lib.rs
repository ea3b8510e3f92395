//! A sealed folder and the built `lap` to run in it. A dev-dependency only.
//!
//! Every process that a test starts carries a mark of its own in its environment, so that a test
//! can prove that nothing is left running.

#![expect(clippy::unwrap_used, reason = "a failing test kit fails its test")]

mod admin;
mod browser;
mod pages;
mod postgres;
mod screen;
mod ssh;
mod sums;

pub use admin::{as_root, engines, has_root};
pub use browser::Browser;
pub use pages::{Block, blocks, pages};
pub use postgres::Postgres;
pub use screen::Screen;
pub use ssh::Sshd;
pub use sums::{documented_sql, held_to_sums};

use std::ffi::OsString;
use std::fs;
use std::path::{Path, PathBuf};
use std::process::{Child, Command, Output, Stdio};
use std::sync::OnceLock;
use std::time::{Duration, Instant};
use tempfile::TempDir;

/// The variable that marks a test's processes.
const MARK: &str = "LAP_TEST_MARK";

/// Returns every row of the tables of an analysis in JSON, with its workload and the name of its measure.
pub fn rows_of(analysis: &serde_json::Value) -> Vec<serde_json::Value> {
    assert_eq!(analysis["schema"], "honest-lap/analysis");
    let list = |value: &serde_json::Value| value.as_array().unwrap().clone();
    let mut rows = Vec::new();
    for table in list(&analysis["tables"]) {
        for mut row in list(&table["groups"]).iter().flat_map(|group| list(&group["rows"])) {
            row["workload"] = table["workload"].clone();
            row["measure"] = table["measure"]["name"].clone();
            rows.push(row);
        }
    }
    rows
}

/// Returns the column called `name` of a table in CSV.
pub fn csv_column(table: &str, name: &str) -> Vec<String> {
    let mut rows = csv::Reader::from_reader(table.as_bytes());
    let at = rows.headers().unwrap().iter().position(|heading| heading == name).unwrap();
    rows.records().map(|row| row.unwrap()[at].to_owned()).collect()
}

/// A folder of its own, and the tool.
pub struct TestEnv {
    dir: TempDir,
    tool: PathBuf,
    mark: String,
}

/// What a command came to.
#[derive(Debug)]
pub struct CommandResult {
    /// Standard output.
    pub stdout: String,
    /// Standard error.
    pub stderr: String,
    /// The exit status, if it ended by itself.
    pub status: Option<i32>,
}

impl TestEnv {
    /// Returns a fresh folder for the tool at `tool` (`env!("CARGO_BIN_EXE_lap")`).
    pub fn new(tool: &str) -> Self {
        let dir = tempfile::tempdir().unwrap();
        let mark = dir.path().file_name().unwrap().to_str().unwrap().to_owned();
        Self { dir, tool: tool.into(), mark }
    }

    /// Returns a folder with the demo's study and its made-up laps, in `lab`.
    ///
    /// They are made once in a test program, which takes a second, and then copied.
    pub fn harbour(tool: &str) -> Self {
        static LAB: OnceLock<Vec<(OsString, Vec<u8>)>> = OnceLock::new();
        let files = LAB.get_or_init(|| {
            let env = Self::new(tool);
            let made = env.lap(&["demo", "lab", "--recorded-only"]);
            assert_eq!(made.status, Some(0), "{made}");
            let files = fs::read_dir(env.path().join("lab")).unwrap().map(Result::unwrap);
            files.map(|file| (file.file_name(), fs::read(file.path()).unwrap())).collect()
        });
        let env = Self::new(tool);
        let lab = env.path().join("lab");
        fs::create_dir(&lab).unwrap();
        for (name, bytes) in files {
            fs::write(lab.join(name), bytes).unwrap();
        }
        env
    }

    /// Returns a folder that holds `study` as its `study.toml`.
    pub fn with_study(tool: &str, study: &str) -> Self {
        let env = Self::new(tool);
        env.write("study.toml", study);
        env
    }

    /// Returns a folder with one workload called `w` that has these lines.
    pub fn with_workload(tool: &str, lines: &str) -> Self {
        let study = format!("[study]\nwarm_up = 0\n[workload.w]\nkind = \"task\"\n{lines}\n");
        Self::with_study(tool, &study)
    }

    /// Returns the folder.
    pub fn path(&self) -> &Path {
        self.dir.path()
    }

    /// Writes a file into the folder.
    pub fn write(&self, name: &str, text: &str) {
        fs::write(self.path().join(name), text).unwrap();
    }

    /// Returns the tool's command, sealed from the surroundings of the test.
    pub fn command(&self, args: &[&str]) -> Command {
        let mut command = Command::new(&self.tool);
        self.seal(command.args(args));
        command
    }

    /// Runs lines of a shell in which `lap` is the tool, as a person would type them.
    pub fn shell(&self, lines: &str) -> CommandResult {
        let mut command = Command::new("sh");
        self.seal(command.args(["-ec", lines]));
        let tool = self.tool.parent().unwrap().display();
        let path = std::env::var("PATH").unwrap_or_default();
        command.env("PATH", format!("{tool}:{path}")).output().unwrap().into()
    }

    fn seal(&self, command: &mut Command) {
        command
            .current_dir(self.path())
            .env_clear()
            .env("PATH", std::env::var_os("PATH").unwrap_or_default())
            .env("HOME", self.path())
            // A session holds its machine: tests are machines of their own.
            .env("TMPDIR", self.path())
            .env("LAP_MACHINE_LOCK", self.path().join("machine.lock"))
            // Wide enough for every column: what a narrow terminal shows has tests of its own.
            .env("COLUMNS", "1000")
            .env(MARK, &self.mark)
            .stdin(Stdio::null());
    }

    /// Runs the tool to its end.
    pub fn lap(&self, args: &[&str]) -> CommandResult {
        self.command(args).output().unwrap().into()
    }

    /// Runs the tool as on a terminal of so many columns.
    pub fn lap_at(&self, columns: usize, args: &[&str]) -> CommandResult {
        self.command(args).env("COLUMNS", columns.to_string()).output().unwrap().into()
    }

    /// Runs the tool, which must come to exit status 0, and returns its standard output.
    pub fn lap_ok(&self, args: &[&str]) -> String {
        let came = self.lap(args);
        assert_eq!(came.status, Some(0), "lap {args:?}: {came}");
        came.stdout
    }

    /// Returns the variable that marks this test's processes, for those that are started elsewhere.
    pub fn mark(&self) -> (&str, &str) {
        (MARK, &self.mark)
    }

    /// Starts the tool with both streams caught.
    pub fn start(&self, args: &[&str]) -> Child {
        self.command(args).stdout(Stdio::piped()).stderr(Stdio::piped()).spawn().unwrap()
    }

    /// Returns the names of the processes that carry this test's mark.
    pub fn running(&self) -> Vec<String> {
        let wanted = format!("{MARK}={}", self.mark);
        let marked = |entry: fs::DirEntry| {
            let env = fs::read(entry.path().join("environ")).ok()?;
            env.split(|&b| b == 0).find(|var| *var == wanted.as_bytes())?;
            let command = fs::read(entry.path().join("cmdline")).ok()?;
            Some(String::from_utf8_lossy(&command).replace('\0', " "))
        };
        fs::read_dir("/proc").unwrap().filter_map(|entry| marked(entry.ok()?)).collect()
    }

    /// Waits until no process of this test runs any more; fails if one still does after 10 s.
    pub fn assert_nothing_runs(&self) {
        let deadline = Instant::now() + Duration::from_secs(10);
        while Instant::now() < deadline {
            if self.running().is_empty() {
                return;
            }
            std::thread::sleep(Duration::from_millis(20));
        }
        panic!("still running: {:?}", self.running());
    }
}

/// Compiles the C program `source` to `to`, with the system's compiler.
pub fn compiled(source: &str, to: &Path, more: &[&str]) {
    compiled_by("cc", source, to, more);
}

/// As [`compiled`], by the compiler of that name.
pub fn compiled_by(compiler: &str, source: &str, to: &Path, more: &[&str]) {
    let output = Command::new(compiler)
        .args(["-O2", "-o"])
        .arg(to)
        .arg(source)
        .args(more)
        .output()
        .unwrap_or_else(|err| panic!("{compiler}: {err}; scripts/test installs it"));
    let said = String::from_utf8_lossy(&output.stderr);
    assert!(output.status.success(), "{source} cannot be compiled: {said}");
}

impl From<Output> for CommandResult {
    fn from(output: Output) -> Self {
        let text = |bytes: &[u8]| String::from_utf8_lossy(bytes).into_owned();
        Self {
            stdout: text(&output.stdout),
            stderr: text(&output.stderr),
            status: output.status.code(),
        }
    }
}

/// Both streams and the exit status in one, for a snapshot.
impl std::fmt::Display for CommandResult {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        write!(f, "{}", self.stdout)?;
        for line in self.stderr.lines() {
            writeln!(f, "! {line}")?;
        }
        match self.status {
            Some(status) => write!(f, "[exit status: {status}]"),
            None => write!(f, "[ended by a signal]"),
        }
    }
}
