//! The names of loads that are named steps: a capacity counts them from 1.

/// Steps this near to a place are at it: means of several are rounded.
const ROUNDING: f64 = 1e-6;

/// Returns the name of the step that a capacity is, or of the two that it lies between; none where steps have no names.
pub fn step_name(steps: &[String], capacity: f64) -> Option<String> {
    let last = steps.len().checked_sub(1)?;
    let place = (capacity - 1.0).clamp(0.0, last as f64);
    let (below, above) = ((place + ROUNDING).floor(), (place - ROUNDING).ceil());
    let name = |place: f64| steps[place as usize].as_str();
    match below >= above {
        true => Some(name(below).to_owned()),
        false => Some(format!("{} to {}", name(below), name(above))),
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_capacity_is_a_step_or_lies_between_two() {
        let steps = ["low", "medium", "high"].map(str::to_owned);
        let name = |capacity| step_name(&steps, capacity).unwrap();
        assert_eq!([name(1.0), name(2.999_999_9), name(9.0)], ["low", "high", "high"]);
        assert_eq!(name(2.4), "medium to high");
        assert_eq!(step_name(&[], 2.0), None);
    }
}
