//! A PostgreSQL server of a test's own, in a temporary folder, run by an ordinary user.

use crate::admin::is_administrator;
use std::fs;
use std::net::TcpListener;
use std::os::unix::fs::PermissionsExt;
use std::path::{Path, PathBuf};
use std::process::{Child, Command, Stdio};
use std::time::{Duration, Instant};
use tempfile::TempDir;

/// The user as whom it runs where the test is run by the administrator, which the server refuses.
const USER: &str = "postgres";

/// A running server; ended when it is dropped.
pub struct Postgres {
    dir: TempDir,
    port: u16,
    server: Child,
}

impl Postgres {
    /// Starts a server with an empty database `laps`, and a role for each of `roles`. Whoever asks is believed who he is.
    pub fn start(roles: &[&str]) -> Self {
        Self::start_with(roles, false)
    }

    /// Starts one that takes encrypted connections alone. Its certificate is of `store.harbour`, and follows from that in
    /// [`Postgres::authority`].
    pub fn start_encrypted(roles: &[&str]) -> Self {
        Self::start_with(roles, true)
    }

    /// Returns the file with the certificate that the server's own follows from.
    pub fn authority(&self) -> PathBuf {
        self.dir.path().join("authority.pem")
    }

    fn start_with(roles: &[&str], encrypted: bool) -> Self {
        let dir = tempfile::tempdir().unwrap();
        fs::set_permissions(dir.path(), fs::Permissions::from_mode(0o777)).unwrap();
        let data = dir.path().join("data");
        let made = user(&program("initdb"))
            .args([
                "--auth=trust",
                "--username=keeper",
                "--encoding=UTF8",
                "--locale=C",
                "--no-sync",
            ])
            .arg("-D")
            .arg(&data)
            .current_dir(dir.path())
            .output()
            .unwrap();
        assert!(made.status.success(), "initdb: {}", String::from_utf8_lossy(&made.stderr));
        if encrypted {
            encrypt(dir.path());
        }
        let port = TcpListener::bind("127.0.0.1:0").unwrap().local_addr().unwrap().port();
        let server = started(dir.path(), port);
        let mut postgres = Self { dir, port, server };
        postgres.wait();
        postgres.sql("keeper", "postgres", "CREATE DATABASE laps");
        for role in roles {
            postgres.sql("keeper", "laps", &format!("CREATE ROLE \"{role}\" LOGIN"));
        }
        postgres
    }

    /// Returns the address of the database `laps` for a role; `keeper` owns it.
    pub fn address(&self, role: &str) -> String {
        format!("postgresql://{role}@127.0.0.1:{}/laps", self.port)
    }

    /// Returns what a role's SQL comes to, or the server's words against it.
    pub fn try_sql(&self, role: &str, database: &str, sql: &str) -> Result<String, String> {
        let address = format!("postgresql://{role}@127.0.0.1:{}/{database}", self.port);
        let told = Command::new("psql")
            .args(["-X", "-A", "-t", "-q", "-v", "ON_ERROR_STOP=1", "-c", sql, &address])
            .output()
            .expect("psql is there: scripts/test installs it");
        match told.status.success() {
            true => Ok(String::from_utf8_lossy(&told.stdout).trim().to_owned()),
            false => Err(String::from_utf8_lossy(&told.stderr).into_owned()),
        }
    }

    /// Runs SQL that must go well.
    pub fn sql(&self, role: &str, database: &str, sql: &str) -> String {
        self.try_sql(role, database, sql).unwrap_or_else(|err| panic!("{sql}: {err}"))
    }

    /// Kills the server as a power cut would, and starts it again.
    pub fn crash(&mut self) {
        // Its children end themselves when it is gone.
        let _ = self.server.kill();
        let _ = self.server.wait();
        let deadline = Instant::now() + Duration::from_secs(20);
        loop {
            self.server = started(self.dir.path(), self.port);
            if self.is_up(Duration::from_secs(3)) {
                return;
            }
            // What was left of the one before still had its memory.
            assert!(Instant::now() < deadline, "the server does not come back");
            let _ = self.server.kill();
            let _ = self.server.wait();
        }
    }

    fn wait(&mut self) {
        assert!(self.is_up(Duration::from_secs(30)), "the server does not come up");
    }

    fn is_up(&mut self, patience: Duration) -> bool {
        let deadline = Instant::now() + patience;
        while Instant::now() < deadline {
            if self.try_sql("keeper", "postgres", "SELECT 1").is_ok() {
                return true;
            }
            if self.server.try_wait().unwrap().is_some() {
                return false;
            }
            std::thread::sleep(Duration::from_millis(50));
        }
        false
    }
}

impl Drop for Postgres {
    fn drop(&mut self) {
        let pid = self.server.id().to_string();
        let _ = Command::new("kill").args(["-QUIT", &pid]).status();
        let _ = self.server.wait();
    }
}

/// Makes certificates, and lets the server take connections that are encrypted with them and no others.
fn encrypt(dir: &Path) {
    let script = "
        openssl req -x509 -newkey ec -pkeyopt ec_paramgen_curve:P-256 -nodes -days 2 -subj '/CN=Harbour' \
            -keyout authority.key -out authority.pem
        openssl req -newkey ec -pkeyopt ec_paramgen_curve:P-256 -nodes -subj '/CN=store.harbour' \
            -keyout data/server.key -out server.csr
        printf 'subjectAltName=DNS:store.harbour\n' >names
        openssl x509 -req -in server.csr -CA authority.pem -CAkey authority.key -CAcreateserial -days 2 \
            -extfile names -out data/server.crt
        chmod 600 data/server.key
        printf 'ssl = on\n' >>data/postgresql.conf
        printf 'local all all trust\nhostssl all all 127.0.0.1/32 trust\n' >data/pg_hba.conf";
    let made = user(Path::new("sh")).args(["-ec", script]).current_dir(dir).output().unwrap();
    assert!(made.status.success(), "openssl: {}", String::from_utf8_lossy(&made.stderr));
}

fn started(dir: &Path, port: u16) -> Child {
    user(&program("postgres"))
        .arg("-D")
        .arg(dir.join("data"))
        .args([
            "-p",
            &port.to_string(),
            "-k",
            dir.to_str().unwrap(),
            "-c",
            "listen_addresses=127.0.0.1",
        ])
        // Killed processes lose nothing that was written; only a power cut would.
        .args(["-c", "fsync=off", "-c", "max_connections=60", "-c", "shared_buffers=64MB"])
        .current_dir(dir)
        .stdin(Stdio::null())
        .stdout(Stdio::null())
        .stderr(fs::File::create(dir.join("log")).unwrap())
        .spawn()
        .unwrap()
}

/// Returns a command that an ordinary user runs.
fn user(program: &Path) -> Command {
    if !is_administrator() {
        return Command::new(program);
    }
    let mut command = Command::new("setpriv");
    command.args([&format!("--reuid={USER}"), "--clear-groups", "--"]).arg(program);
    command
}

/// Returns where a program of the server is: Debian keeps them by version, out of the way.
fn program(name: &str) -> PathBuf {
    let versions = fs::read_dir("/usr/lib/postgresql").into_iter().flatten();
    let mut found: Vec<PathBuf> =
        versions.filter_map(|version| Some(version.ok()?.path().join("bin").join(name))).collect();
    found.retain(|path| path.exists());
    found.sort();
    found.pop().unwrap_or_else(|| PathBuf::from(name))
}
