//! Keeping the starter small: until it becomes its own program a child shares our memory, so its
//! recorded peak can never be less than ours was.

use std::fs;

/// Lets go of program text that is in memory and may not be needed again.
///
/// What is needed is read back from the page cache when it is next executed.
pub(super) fn shrink() {
    let Ok(maps) = fs::read_to_string("/proc/self/maps") else { return };
    for (start, length) in maps.lines().filter_map(text_mapping) {
        let_go(start, length);
    }
}

/// Returns start and length of a mapping of program text, from its line in `/proc/self/maps`.
fn text_mapping(line: &str) -> Option<(usize, usize)> {
    let mut fields = line.split_ascii_whitespace();
    let (range, rights) = (fields.next()?, fields.next()?);
    // Text of a file only: other read-only mappings hold relocations that exist nowhere else.
    let file = fields.nth(3)?;
    if rights != "r-xp" || !file.starts_with('/') {
        return None;
    }
    let (start, end) = range.split_once('-')?;
    let address = |text| usize::from_str_radix(text, 16).ok();
    let (start, end) = (address(start)?, address(end)?);
    Some((start, end.checked_sub(start)?))
}

#[expect(unsafe_code, reason = "madvise takes an address")]
fn let_go(start: usize, length: usize) {
    let address = std::ptr::with_exposed_provenance_mut(start);
    // SAFETY: the range is a private mapping of a file, executable and never written to, so each
    // page can be read back from the file; no reference of ours points to memory it would change.
    let _ = unsafe { rustix::mm::madvise(address, length, rustix::mm::Advice::LinuxDontNeed) };
}

/// Sets our recorded peak back to what we hold now. Where the kernel cannot, the floor stays higher
/// and is reported so.
pub(super) fn reset_peak() {
    let _ = fs::write("/proc/self/clear_refs", "5");
}

/// Returns the most memory this process has held since its peak was last set back; 0 if unknown.
pub(super) fn peak_bytes() -> u64 {
    let status = fs::read_to_string("/proc/self/status").unwrap_or_default();
    let peak = || {
        let line = status.lines().find(|line| line.starts_with("VmHWM:"))?;
        line.split_ascii_whitespace().nth(1)?.parse::<u64>().ok()
    };
    peak().map_or(0, |kib| kib * 1024)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn only_text_of_files_is_let_go() {
        let line = "55a0-55b0 r-xp 00001000 fe:00 42                         /usr/bin/lap";
        assert_eq!(text_mapping(line), Some((0x55a0, 0x10)));
        for other in [
            "55a0-55b0 r--p 00001000 fe:00 42 /usr/bin/lap",
            "55a0-55b0 rw-p 00001000 fe:00 42 /usr/bin/lap",
            "55a0-55b0 r-xp 00000000 00:00 0 [vdso]",
            "55a0-55b0 r-xp 00000000 00:00 0",
            "",
        ] {
            assert_eq!(text_mapping(other), None, "{other}");
        }
    }

    #[test]
    fn a_program_survives_letting_go_of_its_text() {
        shrink();
        assert!(peak_bytes() > 0);
    }
}
