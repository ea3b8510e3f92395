//! *Capped*: a pass shows the display, not the rig.

use super::{Doubt, Known, by_fact};
use crate::lab::LapFacts;
use crate::record::LapHead;

/// Returns a doubt for every workload and rig with passes whose rate is pinned to a display.
pub(super) fn find(known: &[Known<'_>]) -> Vec<Doubt> {
    let says = |_: &LapHead, facts: &LapFacts| {
        let digest = facts.frames.as_deref()?;
        let cap = digest.cap?;
        let display = match cap.stated {
            true => format!("a display of {} Hz", cap.hz),
            false => format!("a display of {} Hz, which is common", cap.hz),
        };
        let each = match cap.refreshes {
            1 => "most one".to_owned(),
            n => format!("most of them {n}"),
        };
        let busy = digest.busy.as_ref().map(|busy| {
            format!("; by its busy times it could have shown {:.0} a second", busy.rate)
        });
        Some(format!(
            "shows the display, not the rig: {:.0} % of its frames take a whole number of refreshes of \
             {display}, {each}{}",
            cap.share * 100.0,
            busy.unwrap_or_default()
        ))
    };
    let settle = |rig: &str, workload: &str| {
        format!(
            "on {rig}: drive {workload} with the display's sync and every limit of the rate switched \
             off; or compare busy times: lap frames {workload}"
        )
    };
    by_fact(known, "capped", says, settle)
}

#[cfg(test)]
mod tests {
    use super::super::testing::Lab;
    use super::*;
    use crate::record::{Against, Cut, Digest, Pass};

    #[test]
    fn a_pass_at_the_displays_rate_is_told_and_a_free_one_is_not() {
        let mut lab = Lab::default().session("kestrel-1", &[1.0, 1.0]);
        let digest = |ns: u64| {
            let pass = Pass { shown: vec![ns; 2_000], ..Pass::default() };
            Digest::of(&pass, &Cut::default(), Against::display(60.0)).map(Box::new)
        };
        lab.facts("kestrel-1.1").frames = digest(16_670_000);
        lab.facts("kestrel-1.2").frames = digest(14_100_000);
        let found = lab.found_in_facts(find);
        assert_eq!((found.len(), found[0].laps.len()), (1, 1));
        assert!(
            found[0].evidence.contains("lap kestrel-1.1 shows the display, not the rig: 100 %")
        );
    }
}
