//! Numbers of things, as people read them.

/// Returns a number with its thousands told apart: `4,812`.
pub fn display_count(n: usize) -> String {
    let digits = n.to_string();
    let first = digits.len() % 3;
    let mut out = String::new();
    for (place, digit) in digits.chars().enumerate() {
        if place > 0 && place % 3 == first % 3 {
            out.push(',');
        }
        out.push(digit);
    }
    out
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn thousands_are_told_apart() {
        let all = [1, 12, 123, 1_234, 12_345, 123_456, 1_234_567].map(display_count);
        assert_eq!(all, ["1", "12", "123", "1,234", "12,345", "123,456", "1,234,567"]);
    }
}
