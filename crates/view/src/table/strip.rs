//! A strip: a series as one line of text.

/// The marks of a strip, from the lowest to the highest.
///
/// A whole block is not among them: strips under one another would run together.
const MARKS: [char; 7] = ['▁', '▂', '▃', '▄', '▅', '▆', '▇'];

/// Returns `values` as a line with a mark for each; a value of `top` or more fills its place, and
/// one that is not there leaves it blank.
pub fn strip(values: &[Option<f64>], top: f64) -> String {
    let mark = |value: &Option<f64>| match value {
        Some(value) if top > 0.0 => {
            let level = (value / top * MARKS.len() as f64).ceil() as usize;
            MARKS[level.clamp(1, MARKS.len()) - 1]
        }
        Some(_) => MARKS[0],
        None => ' ',
    };
    values.iter().map(mark).collect()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_highest_value_fills_its_place() {
        let values = [Some(0.0), Some(1.0), Some(4.0), None, Some(7.0), Some(99.0)];
        assert_eq!(strip(&values, 7.0), "▁▁▄ ▇▇");
        assert_eq!(strip(&[Some(0.0)], 0.0), "▁");
    }
}
