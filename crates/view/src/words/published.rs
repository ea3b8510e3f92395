//! What stands beside a number from elsewhere, in words.

use super::common::percent_of;
use honest_lap_core::analysis::{Ours, Published};

/// Returns how ours stands to a number from elsewhere: `ours 96 %`, or our best, `kestrel 94 %`; nothing where nothing does.
pub fn ours_words(published: &Published) -> Option<String> {
    let Ours { rig, is_same, share } = published.ours.as_ref()?;
    let who = if *is_same { "ours" } else { rig };
    Some(format!("{who} {}", percent_of(*share)))
}
