//! What a page carries so that it can be checked: the logbook it was made of, and what was asked of it.
//!
//! `lap verify` makes the page anew of both and holds it against the file.

use base64::Engine;
use base64::engine::general_purpose::STANDARD;
use honest_lap_core::lab::Choice;
use serde::{Deserialize, Serialize};
use std::io::Read;

/// What a page was made of.
#[derive(Clone, Debug, PartialEq)]
pub struct Evidence {
    /// The logbook: zstd, as base64.
    pub logbook: String,
    /// What was asked of it, and when.
    pub made: Made,
}

/// What was asked of a logbook for a page.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct Made {
    /// The version that made it.
    pub version: String,
    /// When, RFC 3339: how old results were then.
    pub moment: String,
    pub baseline: Option<String>,
    pub despite: Option<String>,
    /// Of which part of it.
    #[serde(default, skip_serializing_if = "Choice::is_everything")]
    pub choice: Choice,
}

/// The name under which a page's head says what was asked.
pub(super) const META: &str = "lap-page";
/// The name under which the logbook can be saved from it.
pub(super) const LOGBOOK: &str = "logbook.db.zst";
/// What stands ahead of the logbook, and of the study, in a page.
const AHEAD_OF_LOGBOOK: &str = "download=\"logbook.db.zst\" href=\"data:application/zstd;base64,";
const AHEAD_OF_STUDY: &str = "download=\"study.toml\" href=\"data:application/toml;base64,";
const AHEAD_OF_MADE: &str = "<meta name=\"lap-page\" content=\"";

/// How hard is packed for: the last level that takes a tenth of a second for the demo's logbook.
const LEVEL: i32 = 12;
/// No logbook of a page is larger than this when it is unpacked.
const MOST_BYTES: u64 = 1 << 30;

impl Evidence {
    /// Packs a logbook's file.
    pub fn pack(logbook: &[u8], made: Made) -> Self {
        let packed = zstd::encode_all(logbook, LEVEL).expect("memory takes what is written");
        Self { logbook: STANDARD.encode(packed), made }
    }

    /// Returns the logbook's file; `None` where it is damaged, or too large to be one.
    pub fn unpacked(&self) -> Option<Vec<u8>> {
        let packed = STANDARD.decode(&self.logbook).ok()?;
        let mut bytes = Vec::new();
        let mut limited = zstd::Decoder::new(packed.as_slice()).ok()?.take(MOST_BYTES + 1);
        limited.read_to_end(&mut bytes).ok()?;
        (bytes.len() as u64 <= MOST_BYTES).then_some(bytes)
    }

    /// Returns what a page carries, and the study as it was written; `None` where it carries no logbook.
    pub fn read(page: &str) -> Option<(Self, String)> {
        let value = |ahead: &str| page.split_once(ahead)?.1.split_once('"').map(|(value, _)| value);
        let made = value(AHEAD_OF_MADE)?;
        let made = made.replace("&quot;", "\"").replace("&lt;", "<").replace("&gt;", ">");
        let made = serde_json::from_str(&made.replace("&amp;", "&")).ok()?;
        let study = String::from_utf8(STANDARD.decode(value(AHEAD_OF_STUDY)?).ok()?).ok()?;
        Some((Self { logbook: value(AHEAD_OF_LOGBOOK)?.to_owned(), made }, study))
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_is_packed_comes_back_and_damage_is_none() {
        let made = Made {
            version: "0.1.0".into(),
            moment: "2026-11-30T06:00:00Z".into(),
            baseline: Some("the \"old\" <rig>".into()),
            despite: None,
            choice: Choice::default(),
        };
        let evidence = Evidence::pack(b"a logbook", made.clone());
        assert_eq!(evidence.unpacked().as_deref(), Some(&b"a logbook"[..]));
        let head = serde_json::to_string(&made).unwrap();
        let head = head.replace('&', "&amp;").replace('"', "&quot;").replace('<', "&lt;");
        let page = format!(
            "{AHEAD_OF_MADE}{}\">{AHEAD_OF_STUDY}{}\"{AHEAD_OF_LOGBOOK}{}\"",
            head.replace('>', "&gt;"),
            STANDARD.encode("[study]"),
            evidence.logbook
        );
        assert_eq!(Evidence::read(&page), Some((evidence.clone(), "[study]".to_owned())));
        assert_eq!(Evidence::read("<html>"), None);
        let damaged = Evidence { logbook: evidence.logbook[..8].to_owned(), ..evidence };
        assert_eq!(damaged.unpacked(), None);
    }
}
