//! Records as JSON.

use serde::Serialize;

/// Returns `value` as JSON. Our records have text keys and finite numbers, which always write.
pub(crate) fn json<T: Serialize + ?Sized>(value: &T) -> String {
    serde_json::to_string(value).expect("a plain record of ours is always JSON")
}
