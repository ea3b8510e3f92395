//! An OpenSSH server of a test's own on loopback, with keys of its own, and several hosts in front of it.

use crate::admin::is_administrator;
use std::fs;
use std::net::{TcpListener, TcpStream};
use std::path::{Path, PathBuf};
use std::process::{Child, Command, Stdio};
use std::time::{Duration, Instant};
use tempfile::TempDir;

/// A running server; ended when it is dropped, with every connection.
pub struct Sshd {
    dir: TempDir,
    port: u16,
    server: Child,
}

impl Sshd {
    /// Starts a server that lets this user in.
    pub fn start() -> Self {
        let dir = tempfile::tempdir().unwrap();
        for key in ["host", "user"] {
            let made = Command::new("ssh-keygen")
                .args(["-q", "-t", "ed25519", "-N", "", "-f"])
                .arg(dir.path().join(key))
                .status()
                .expect("ssh-keygen is there: scripts/test installs it");
            assert!(made.success());
        }
        let port = TcpListener::bind("127.0.0.1:0").unwrap().local_addr().unwrap().port();
        let at = |name: &str| dir.path().join(name).display().to_string();
        let config = format!(
            "Port {port}\nListenAddress 127.0.0.1\nHostKey {}\nAuthorizedKeysFile {}\nPidFile none\n\
             UsePAM no\nStrictModes no\nPermitRootLogin yes\nPasswordAuthentication no\n\
             MaxStartups 100\nAcceptEnv *\n",
            at("host"),
            at("user.pub"),
        );
        fs::write(dir.path().join("sshd_config"), config).unwrap();
        let host = fs::read_to_string(dir.path().join("host.pub")).unwrap();
        fs::write(dir.path().join("known"), format!("[127.0.0.1]:{port} {host}")).unwrap();
        if is_administrator() {
            fs::create_dir_all("/run/sshd").unwrap();
        }
        // It starts itself again for each connection, by its full path.
        let server = Command::new("/usr/sbin/sshd")
            .args(["-D", "-e", "-f"])
            .arg(dir.path().join("sshd_config"))
            .stdin(Stdio::null())
            .stdout(Stdio::null())
            .stderr(fs::File::create(dir.path().join("log")).unwrap())
            .spawn()
            .expect("sshd is there: scripts/test installs it");
        let mut sshd = Self { dir, port, server };
        let deadline = Instant::now() + Duration::from_secs(20);
        while TcpStream::connect(("127.0.0.1", port)).is_err() {
            let ended = sshd.server.try_wait().unwrap();
            assert!(ended.is_none() && Instant::now() < deadline, "{}", sshd.log());
            std::thread::sleep(Duration::from_millis(20));
        }
        sshd
    }

    fn log(&self) -> String {
        fs::read_to_string(self.dir.path().join("log")).unwrap_or_default()
    }

    /// Returns a command line that runs a command on a machine called `name`, in whose environment `variables` are, and
    /// the folder that is that machine's own.
    pub fn host(&self, name: &str, variables: &[(&str, &str)]) -> (String, PathBuf) {
        let folder = self.dir.path().join(format!("of-{name}"));
        fs::create_dir_all(&folder).unwrap();
        let at = |file: &str| self.dir.path().join(file).display().to_string();
        let own = |file: &str| folder.join(file).display().to_string();
        let mut set = vec![
            format!("HOME={}", folder.display()),
            format!("XDG_CACHE_HOME={}", own(".cache")),
            format!("XDG_CONFIG_HOME={}", own(".config")),
            format!("LAP_MACHINE_LOCK={}", own("machine.lock")),
            format!("TMPDIR={}", folder.display()),
        ];
        set.extend(variables.iter().map(|(name, value)| format!("{name}={value}")));
        let config = format!(
            "Host {name}\nHostName 127.0.0.1\nPort {}\nIdentityFile {}\nIdentitiesOnly yes\n\
             UserKnownHostsFile {}\nBatchMode yes\nConnectTimeout 10\nLogLevel ERROR\nSetEnv {}\n",
            self.port,
            at("user"),
            at("known"),
            set.join(" "),
        );
        let path = self.dir.path().join(format!("{name}.config"));
        fs::write(&path, config).unwrap();
        (format!("ssh -F {} {name}", path.display()), folder)
    }

    /// Ends every connection at once, as a cable that is pulled out would, and returns how many there were.
    pub fn cut(&self) -> usize {
        let children = |pid: &str| {
            let path = format!("/proc/{pid}/task/{pid}/children");
            fs::read_to_string(path).unwrap_or_default()
        };
        let of_server = children(&self.server.id().to_string());
        let mut cut = 0;
        for pid in of_server.split_whitespace() {
            // The one that speaks for the user is below it, where there are two.
            let below = children(pid);
            for pid in below.split_whitespace().filter(|pid| is_sshd(pid)).chain([pid]) {
                let _ = Command::new("kill").args(["-KILL", pid]).status();
            }
            cut += 1;
        }
        cut
    }
}

fn is_sshd(pid: &str) -> bool {
    fs::read_to_string(Path::new("/proc").join(pid).join("comm"))
        .is_ok_and(|name| name.trim().starts_with("sshd"))
}

impl Drop for Sshd {
    fn drop(&mut self) {
        self.cut();
        let _ = self.server.kill();
        let _ = self.server.wait();
    }
}
