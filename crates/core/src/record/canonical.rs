//! The one byte encoding that records are sealed over.
//!
//! ```text
//! honest-lap lap 5␊
//! before t64:7ca1…␊
//! number n1:7␊
//! form h64:90d2…␊
//! ```
//!
//! A line says what kind of record it is and the version of the encoding; then comes a line for each field: its name,
//! its type (`n`umber, `t`ext, `h`ash), the length of its value in bytes, and the value. Names are fixed words, so nothing in a value can be
//! taken for another field. A field that holds nothing has no line: a field that is added later leaves the bytes
//! of older records as they were, and cannot be slipped into one.

/// The version of the encoding. Seals of forms 1 to 4 were made over others.
pub const CANONICAL: u32 = 5;

/// A record in its one encoding.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Canonical(Vec<u8>);

impl Canonical {
    /// Begins the record of a kind, which is one word.
    pub fn new(kind: &str) -> Self {
        Self(format!("honest-lap {kind} {CANONICAL}\n").into_bytes())
    }

    /// Begins fields that are to be added to records, by themselves.
    pub fn fields() -> Self {
        Self(Vec::new())
    }

    /// Adds fields that were made before.
    pub fn add(&mut self, fields: &Self) {
        self.0.extend_from_slice(&fields.0);
    }

    /// Adds a whole number, in decimal digits.
    pub fn number(&mut self, name: &str, value: i64) {
        let mut digits = [0; DIGITS];
        let from = decimal(value.unsigned_abs(), value < 0, &mut digits);
        self.field(name, b" n", &digits[from..]);
    }

    /// Adds a text as it stands.
    pub fn text(&mut self, name: &str, value: &[u8]) {
        self.field(name, b" t", value);
    }

    /// Adds the SHA-256, in hexadecimal digits, of a value that is long, or that many records share.
    pub fn digest(&mut self, name: &str, sha256: &str) {
        self.field(name, b" h", sha256.as_bytes());
    }

    fn field(&mut self, name: &str, kind: &[u8], value: &[u8]) {
        // Put together by hand: a hundred thousand laps have three million fields.
        let mut digits = [0; DIGITS];
        let from = decimal(value.len() as u64, false, &mut digits);
        for part in [name.as_bytes(), kind, &digits[from..], b":", value, b"\n"] {
            self.0.extend_from_slice(part);
        }
    }

    /// Returns the bytes.
    pub fn bytes(&self) -> &[u8] {
        &self.0
    }
}

/// Characters that a whole number of 64 bits has at most.
const DIGITS: usize = 20;

/// Writes a number at the end of `digits`; returns where it begins.
fn decimal(mut number: u64, negative: bool, digits: &mut [u8; DIGITS]) -> usize {
    let mut at = DIGITS;
    loop {
        at -= 1;
        digits[at] = b'0' + (number % 10) as u8;
        number /= 10;
        if number == 0 {
            break;
        }
    }
    if negative {
        at -= 1;
        digits[at] = b'-';
    }
    at
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_record_is_readable_and_no_value_can_pass_for_a_field() {
        let mut plain = Canonical::new("lap");
        plain.number("number", -7);
        plain.text("outcome", b"done");
        plain.digest("form", "ff");
        let wanted = "honest-lap lap 5\nnumber n2:-7\noutcome t4:done\nform h2:ff\n";
        assert_eq!(String::from_utf8_lossy(plain.bytes()), wanted);
        let mut forged = Canonical::new("lap");
        forged.number("number", -7);
        forged.text("outcome", b"done\nform h2:ff");
        assert_ne!(forged, plain);
    }

    #[test]
    fn numbers_are_written_as_they_are_read() {
        for number in [0, 9, 10, -1, i64::MAX, i64::MIN] {
            let mut record = Canonical::fields();
            record.number("n", number);
            let text = number.to_string();
            assert_eq!(record.bytes(), format!("n n{}:{text}\n", text.len()).as_bytes());
        }
    }
}
