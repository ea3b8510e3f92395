//! Logs: what times are compared on.

use super::error::StatError;

/// Returns the natural logs of `times`.
///
/// * Shape: `n` values in, `n` out.
/// * Errors: [`StatError::NotPositive`] at the first value that is not finite and above zero.
pub fn logs(times: &[f64]) -> Result<Vec<f64>, StatError> {
    // With room for all from the start: how many of them have a log is not known, and nearly always all do.
    let mut logs = Vec::with_capacity(times.len());
    for &value in times {
        if !(value.is_finite() && value > 0.0) {
            return Err(StatError::NotPositive { value });
        }
        logs.push(value.ln());
    }
    Ok(logs)
}
