//! *Capped*: a pass shows the display, not the rig.

use super::by_fact::ByFact;
use super::doubt::Doubt;
use super::raised::Remedy;
use crate::frame::cap_of;
use crate::lab::{Lap, LapFacts, LapSeries};

/// Returns what passes whose rate is pinned to a display raise, by workload and rig.
pub(super) fn find<'s>(_: &[&'s LapSeries]) -> ByFact<'s> {
    let says = |_: &Lap<'_>, facts: &LapFacts| {
        let digest = facts.frames.as_deref()?;
        let cap = cap_of(digest)?;
        Some(Doubt::Capped {
            hz: cap.hz,
            stated: cap.stated,
            limiter: cap.limiter,
            share: cap.share,
            refreshes: cap.refreshes,
            by_work: digest.busy.as_ref().map(|busy| busy.rate),
        })
    };
    ByFact::of(says, |_| Remedy::CompareOtherwise)
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
        let Doubt::Capped { hz, share, .. } = found[0].doubt else { panic!("{found:?}") };
        assert_eq!((hz, share, found[0].laps[0].to_string().as_str()), (60.0, 1.0, "kestrel-1.1"));
    }

    #[test]
    fn a_film_at_its_own_rate_is_no_doubt() {
        let pass = Pass { shown: vec![16_670_000; 2_000], ..Pass::default() };
        let raised = |plays_at: f64| {
            let mut lab = Lab::default().session("kestrel-1", &[1.0]);
            let against = Against { plays_at: Some(plays_at), ..Against::display(60.0) };
            lab.facts("kestrel-1.1").frames =
                Digest::of(&pass, &Cut::default(), against).map(Box::new);
            lab.found_in_facts(find).len()
        };
        assert_eq!([raised(60.0), raised(59.94), raised(120.0)], [0, 0, 1]);
    }
}
