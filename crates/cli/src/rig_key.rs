//! This machine's key: what its sessions are signed with. It is made at the first run, and only its owner can read it.

use crate::ctx::Ctx;
use crate::error::CmdError;
use honest_lap_logbook::{Logbook, OpenSession, public_key};
use honest_lap_view::table::Role;
use std::fs::Permissions;
use std::io::Write;
use std::os::unix::fs::{DirBuilderExt, PermissionsExt};
use std::path::Path;
use tempfile::Builder;

const FILE: &str = "rig.key";
/// Nobody but its owner.
const OWNER: u32 = 0o600;

/// A rig's key.
pub struct RigKey([u8; 32]);

impl RigKey {
    /// Returns the key that is kept in `folder`, if there is one.
    pub fn kept(folder: &Path) -> Result<Option<Self>, CmdError> {
        let path = folder.join(FILE);
        let meta = match std::fs::symlink_metadata(&path) {
            Ok(meta) => meta,
            Err(err) if err.kind() == std::io::ErrorKind::NotFound => return Ok(None),
            Err(err) => return Err(CmdError::io("read", &path, &err)),
        };
        if !meta.is_file() || meta.permissions().mode() & 0o077 != 0 {
            return Err(CmdError::request(
                format!("others can read the key in {}", path.display()),
                format!(
                    "`chmod 600 {0}` if it is still yours alone; else remove it, and a new one is made",
                    path.display()
                ),
            ));
        }
        let text =
            std::fs::read_to_string(&path).map_err(|err| CmdError::io("read", &path, &err))?;
        let damaged = || {
            CmdError::request(
                format!("{} is no key", path.display()),
                "restore it from a copy, or remove it: a new one is made, which studies must be told",
            )
        };
        secret(text.trim()).map(Self).map(Some).ok_or_else(damaged)
    }

    /// Returns the key that is kept in `folder`, making one where there is none.
    pub fn kept_or_new(folder: &Path, ctx: &Ctx) -> Result<Self, CmdError> {
        if let Some(key) = Self::kept(folder)? {
            return Ok(key);
        }
        let path = folder.join(FILE);
        let mut bytes = [0; 32];
        for part in bytes.chunks_exact_mut(8) {
            part.copy_from_slice(&ctx.random()?.to_le_bytes());
        }
        let text: String = bytes.iter().map(|byte| format!("{byte:02x}")).collect();
        let made = std::fs::DirBuilder::new()
            .recursive(true)
            .mode(0o700)
            .create(folder)
            .and_then(|()| {
                Builder::new().permissions(Permissions::from_mode(OWNER)).tempfile_in(folder)
            })
            .and_then(|mut file| {
                writeln!(file, "{text}")?;
                file.as_file().sync_all()?;
                Ok(file)
            })
            .map_err(|err| CmdError::io("write", &path, &err))?;
        match made.persist_noclobber(&path) {
            Ok(_) => Ok(Self(bytes)),
            // Another run was first: its key is this machine's.
            Err(err) if err.error.kind() == std::io::ErrorKind::AlreadyExists => {
                Self::kept(folder)?.ok_or_else(|| CmdError::io("read", &path, &err.error))
            }
            Err(err) => Err(CmdError::io("write", &path, &err.error)),
        }
    }

    /// Returns the public key, in hexadecimal.
    pub fn public(&self) -> String {
        public_key(&self.0)
    }
}

fn secret(text: &str) -> Option<[u8; 32]> {
    if text.len() != 64 || !text.is_ascii() {
        return None;
    }
    let mut bytes = [0; 32];
    for (at, byte) in bytes.iter_mut().enumerate() {
        *byte = u8::from_str_radix(&text[2 * at..2 * at + 2], 16).ok()?;
    }
    Some(bytes)
}

/// Signs what was recorded of `session`; a machine that cannot keep a key says so, and its laps stand all the same.
pub fn sign(logbook: &mut Logbook, sessions: &[&OpenSession], ctx: &Ctx) -> Result<(), CmdError> {
    let key = match ctx.config_folder() {
        Some(folder) => RigKey::kept_or_new(&folder, ctx),
        None => Err(CmdError::request(
            "there is no folder for this machine's key",
            "set HOME, or XDG_CONFIG_HOME",
        )),
    };
    match key {
        Ok(RigKey(secret)) => Ok(logbook.sign(sessions, &secret)?),
        Err(CmdError::Failed(failure)) => {
            let names: Vec<String> =
                sessions.iter().take(3).map(|session| session.name.to_string()).collect();
            let line = format!("session {} is not signed: {}", names.join(", "), failure.problem);
            ctx.ui.say_labelled("note", Role::Open, &line);
            if let Some(help) = &failure.help {
                ctx.ui.say_labelled("help", Role::Heading, help);
            }
            Ok(())
        }
        Err(other) => Err(other),
    }
}
