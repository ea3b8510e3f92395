//! The head and tail of a stream that may carry any amount.

use crate::os::now;
use crate::spool::Spool;
use honest_lap_core::record::Captured;
use honest_lap_core::unit::Stamp;
use std::collections::VecDeque;
use std::io::{self, Read};

/// Bytes kept from the beginning of a stream.
const HEAD_BYTES: usize = 32 << 10;
/// Bytes kept from its end, where it is longer.
const TAIL_BYTES: usize = 32 << 10;

/// A stream being drained.
pub(super) struct Stream<R> {
    from: Option<R>,
    head: Vec<u8>,
    tail: VecDeque<u8>,
    total: u64,
    spool: Option<Spool>,
    begun: Stamp,
}

impl<R: Read> Stream<R> {
    pub(super) fn new(from: R, spool: Option<Spool>) -> Self {
        Self {
            spool,
            begun: Stamp(0),
            from: Some(from),
            head: Vec::with_capacity(HEAD_BYTES),
            tail: VecDeque::with_capacity(TAIL_BYTES),
            total: 0,
        }
    }

    /// Says when the program was started.
    pub(super) fn begin(&mut self, at: Stamp) {
        self.begun = at;
    }

    /// Returns the stream while it is open.
    pub(super) fn open(&self) -> Option<&R> {
        self.from.as_ref()
    }

    /// Imports one bufferful of what waits; returns whether there may be more at once.
    pub(super) fn drain_once(&mut self, buffer: &mut [u8]) -> bool {
        let Some(from) = &mut self.from else { return false };
        match from.read(buffer) {
            Ok(0) => self.from = None,
            Ok(n) => {
                if let Some(spool) = &mut self.spool {
                    spool.take(&buffer[..n], now().since(self.begun).unwrap_or_default());
                }
                self.keep(&buffer[..n]);
                return true;
            }
            Err(err) if err.kind() == io::ErrorKind::WouldBlock => {}
            Err(err) if err.kind() == io::ErrorKind::Interrupted => return true,
            Err(_) => self.from = None,
        }
        false
    }

    fn keep(&mut self, bytes: &[u8]) {
        self.total += bytes.len() as u64;
        let (first, rest) = bytes.split_at(bytes.len().min(HEAD_BYTES - self.head.len()));
        self.head.extend_from_slice(first);
        let rest = &rest[rest.len().saturating_sub(TAIL_BYTES)..];
        let surplus = (self.tail.len() + rest.len()).saturating_sub(TAIL_BYTES);
        self.tail.drain(..surplus);
        self.tail.extend(rest);
    }

    pub(super) fn finish(self) -> Captured {
        Captured { head: self.head, tail: self.tail.into(), total: self.total }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn drained(bytes: &[u8], step: usize) -> Captured {
        let mut stream = Stream::new(bytes, None);
        let mut buffer = vec![0; step];
        while stream.drain_once(&mut buffer) {}
        stream.finish()
    }

    #[test]
    fn keeps_both_ends_of_a_long_stream_whatever_its_steps() {
        let bytes: Vec<u8> = (0..300_000u32).map(|i| (i % 251) as u8).collect();
        for step in [1_000, 7, 65_536, 300_000] {
            let kept = drained(&bytes, step);
            assert_eq!(kept.total, 300_000);
            assert_eq!(kept.head, bytes[..HEAD_BYTES]);
            assert_eq!(kept.tail, bytes[300_000 - TAIL_BYTES..]);
        }
        let short = drained(b"hello", 2);
        assert_eq!((short.head.as_slice(), short.tail.len(), short.total), (&b"hello"[..], 0, 5));
    }
}
