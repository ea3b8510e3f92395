//! Keeping the starter small: until it becomes its own program a child shares our memory, so its
//! recorded peak can never be less than ours was.

use std::fs;

/// Lets go of program text and constants that are in memory and may not be needed again.
///
/// What is needed is read back from the page cache when it is next executed or read.
pub(crate) fn shrink() {
    let Ok(maps) = fs::read_to_string("/proc/self/smaps") else { return };
    for (start, length) in clean_mappings(&maps) {
        let_go(start, length);
    }
}

/// Returns start and length of every mapping in the text of `/proc/self/smaps` that is a file as it stands on the disk:
/// read or executed, never written to, not a page of it our own.
fn clean_mappings(smaps: &str) -> Vec<(usize, usize)> {
    let mut found = Vec::new();
    let mut last: Option<(usize, usize)> = None;
    for line in smaps.lines() {
        match line.split_once(':') {
            // Relocations and what was written to exist nowhere else.
            Some(("Private_Dirty" | "Anonymous", amount)) if amount.trim() != "0 kB" => last = None,
            // The last line of a mapping.
            Some(("VmFlags", _)) => found.extend(last.take()),
            _ => last = mapping(line).or(last),
        }
    }
    found
}

/// Returns start and length of a mapping of a file that cannot be written to, from its first line.
fn mapping(line: &str) -> Option<(usize, usize)> {
    let mut fields = line.split_ascii_whitespace();
    let (range, rights) = (fields.next()?, fields.next()?);
    let file = fields.nth(3)?;
    if !matches!(rights, "r-xp" | "r--p") || !file.starts_with('/') {
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
    // SAFETY: the range is a private mapping of a file that cannot be written to and no page of which is
    // our own, so each can be read back from the file and holds then what it holds now.
    let _ = unsafe { rustix::mm::madvise(address, length, rustix::mm::Advice::LinuxDontNeed) };
}

/// Sets our recorded peak back to what we hold now. Where the kernel cannot, the floor stays higher
/// and is reported so.
pub(crate) fn reset_peak() {
    let _ = fs::write("/proc/self/clear_refs", "5");
}

/// Returns the most memory this process has held since its peak was last set back; 0 if unknown.
pub(crate) fn peak_bytes() -> u64 {
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
    fn only_what_a_file_still_holds_is_let_go() {
        let block = |rights: &str, file: &str, dirty: &str, anonymous: &str| {
            format!(
                "55a0-55b0 {rights} 00001000 fe:00 42 {file}\nSize: 4 kB\nPrivate_Dirty: {dirty} kB\n\
                 Anonymous: {anonymous} kB\nVmFlags: rd mr\n"
            )
        };
        let lap = "/usr/bin/lap";
        for rights in ["r-xp", "r--p"] {
            assert_eq!(clean_mappings(&block(rights, lap, "0", "0")), [(0x55a0, 0x10)]);
        }
        for (rights, file, dirty, anonymous) in [
            ("r--p", lap, "8", "0"),
            ("r--p", lap, "0", "4"),
            ("rw-p", lap, "0", "0"),
            ("r-xp", "[vdso]", "0", "0"),
            ("r-xp", "", "0", "0"),
        ] {
            let smaps = block(rights, file, dirty, anonymous);
            assert_eq!(clean_mappings(&smaps), [], "{smaps}");
            // One that is left alone says nothing of the next.
            let two = smaps + &block("r-xp", lap, "0", "0");
            assert_eq!(clean_mappings(&two).len(), 1);
        }
        assert_eq!(clean_mappings("garbage"), []);
    }

    #[test]
    fn a_program_survives_letting_go_of_its_text() {
        shrink();
        assert!(peak_bytes() > 0);
    }
}
