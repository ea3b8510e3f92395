//! Pressure stall information as the kernel writes it, of the whole machine and of a control group alike.

use honest_lap_core::unit::Nanos;

/// Returns how long something has waited since the machine, or the group, began.
pub(super) fn stalled(text: &str) -> Option<Nanos> {
    let line = text.lines().find(|line| line.starts_with("some "))?;
    let micros = line.split_ascii_whitespace().find_map(|field| field.strip_prefix("total="))?;
    micros.parse::<u64>().ok()?.checked_mul(1_000).map(Nanos)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn reads_pressure_as_the_kernel_writes_it() {
        let text = "some avg10=0.10 avg60=0.05 avg300=0.01 total=1500000\n\
                    full avg10=0.00 avg60=0.00 avg300=0.00 total=7\n";
        assert_eq!(stalled(text), Some(Nanos(1_500_000_000)));
        assert_eq!(stalled("full total=7"), None);
        assert_eq!(stalled("some total=18446744073709551615"), None);
    }
}
