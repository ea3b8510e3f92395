//! What the numbers of a column are: durations or moments; told by its heading, its values, or the user.

use crate::columns::{Column, LEAST_ODD, Shape};
use crate::error::LogError;
use crate::words::As;

/// Returns what the numbers of `column` are, where the user does not say it.
///
/// Many values that rise are moments. A few may rise by luck: then the heading says it, or only one of the two makes
/// sense.
pub(crate) fn reading(column: &Column) -> Result<As, LogError> {
    let rising = matches!(column.shape, Shape::Rising | Shape::Index);
    if column.values >= LEAST_ODD {
        return Ok(if rising { As::Moments } else { As::Durations });
    }
    if let Some(said) = column.said.reading {
        return Ok(said);
    }
    let falls = !rising && column.values > 1 && !column.ascends;
    // In some unit nearly everything makes sense.
    let sense = |reading| column.said.unit.and(column.sensible_unit(reading)).is_some();
    match (falls, sense(As::Durations), sense(As::Moments)) {
        (true, ..) => Ok(As::Durations),
        (false, true, false) if column.values > 2 => Ok(As::Durations),
        (false, false, true) if column.values > 2 => Ok(As::Moments),
        _ => Err(LogError::asks(
            format!(
                "{} has {}, too few to see whether they are durations or moments",
                column.name(),
                match column.values {
                    1 => "one value".to_owned(),
                    n => format!("{n} values"),
                }
            ),
            "say it: --as durations or --as moments",
        )),
    }
}
