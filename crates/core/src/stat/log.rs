//! Logs: what times are compared on.

use super::error::StatError;

/// Returns the natural logs of `times`.
///
/// * Shape: `n` values in, `n` out.
/// * Errors: [`StatError::NotPositive`] at the first value that is not finite and above zero.
pub fn logs(times: &[f64]) -> Result<Vec<f64>, StatError> {
    times
        .iter()
        .map(|&value| {
            if value.is_finite() && value > 0.0 {
                Ok(value.ln())
            } else {
                Err(StatError::NotPositive { value })
            }
        })
        .collect()
}
