//! The machine as found: read from the files in which Linux describes itself.

use super::conditions::governor;
use super::machine::Machine;
use super::sensor::meminfo_bytes;
use honest_lap_core::record::RigFound;
use sha2::{Digest, Sha256};
use std::collections::BTreeSet;

/// Returns what `machine` says of itself.
pub fn read_rig(machine: &Machine) -> RigFound {
    let read = |path: &str| machine.read(path);
    let cpus = read("proc/cpuinfo").unwrap_or_default();
    let field = |block: &str, name: &str| {
        block.lines().find_map(|line| {
            let (key, value) = line.split_once(':')?;
            (key.trim() == name).then(|| value.trim().to_owned())
        })
    };
    let blocks: Vec<&str> =
        cpus.split("\n\n").filter(|b| field(b, "processor").is_some()).collect();
    let cores: BTreeSet<_> = blocks
        .iter()
        .filter_map(|block| Some((field(block, "physical id")?, field(block, "core id")?)))
        .collect();
    let count = |n: usize| u32::try_from(n).ok().filter(|&n| n > 0);
    RigFound {
        machine: read("etc/machine-id").map(|id| fingerprint(&id)),
        processor: blocks.first().and_then(|block| field(block, "model name")),
        cores: count(cores.len()),
        threads: count(blocks.len()),
        memory_bytes: read("proc/meminfo").and_then(|text| meminfo_bytes(&text, "MemTotal")),
        system: read("etc/os-release").and_then(|text| pretty_name(&text)),
        kernel: read("proc/sys/kernel/osrelease").map(|release| format!("Linux {release}")),
        governor: governor(machine),
    }
}

/// Returns a number that tells machines apart without giving the machine's own away.
fn fingerprint(id: &str) -> String {
    let sum = Sha256::digest(format!("honest-lap rig {id}"));
    sum.iter().take(8).map(|byte| format!("{byte:02x}")).collect()
}

fn pretty_name(os_release: &str) -> Option<String> {
    let value = os_release.lines().find_map(|line| line.strip_prefix("PRETTY_NAME="))?;
    Some(value.trim_matches('"').to_owned())
}

#[cfg(test)]
mod tests {
    use super::*;
    use std::fs;

    #[test]
    fn reads_a_machine_and_leaves_the_unknown_unknown() {
        let root = tempfile::tempdir().unwrap();
        assert_eq!(read_rig(&Machine::below(root.path())), RigFound::default());
        let write = |path: &str, text: &str| {
            let path = root.path().join(path);
            fs::create_dir_all(path.parent().unwrap()).unwrap();
            fs::write(path, text).unwrap();
        };
        let cpu = |n: u32, core: u32| {
            format!(
                "processor\t: {n}\nmodel name\t: Lark 12\nphysical id\t: 0\ncore id\t\t: {core}\n\n"
            )
        };
        write("proc/cpuinfo", &[cpu(0, 0), cpu(1, 1), cpu(2, 0), cpu(3, 1)].concat());
        write("proc/meminfo", "MemTotal:       1024 kB\n");
        write("etc/machine-id", "0123456789abcdef\n");
        write("etc/os-release", "NAME=x\nPRETTY_NAME=\"Harbour OS 3\"\n");
        let found = read_rig(&Machine::below(root.path()));
        assert_eq!((found.cores, found.threads), (Some(2), Some(4)));
        assert_eq!(found.processor.as_deref(), Some("Lark 12"));
        assert_eq!(found.system.as_deref(), Some("Harbour OS 3"));
        assert_eq!(found.memory_bytes, Some(1_048_576));
        assert_eq!(found.governor, None);
        let machine = found.machine.unwrap();
        assert!(machine.len() == 16 && !machine.contains("0123"), "{machine}");
    }
}
