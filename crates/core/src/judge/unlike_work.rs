//! Variants that do unlike amounts of work: what is compared of them is the time of a unit of it.

use super::cell::Cell;
use super::view::Row;
use crate::record::Better;

/// Returns how much work a lap of either row does, where variants do unlike amounts of it.
pub(super) fn unlike_work(base: &Row, row: &Row) -> Option<(f64, f64)> {
    let works = base.work.zip(row.work).filter(|_| base.settings != row.settings)?;
    ((works.0 / works.1 - 1.0).abs() > SAME_WORK).then_some(works)
}

/// Amounts of work that differ by less came out of one formula by two roads.
const SAME_WORK: f64 = 1e-9;

/// Returns two cells as they are held against each other: values of which less is better, for a unit of work where both do
/// unlike amounts of it.
pub(super) fn costs(
    (base, base_cell): (&Row, &Cell),
    (row, cell): (&Row, &Cell),
    better: Better,
) -> (Cell, Cell) {
    let (base_work, work) = unlike_work(base, row).unwrap_or((1.0, 1.0));
    (base_cell.as_cost(better).for_each_of(base_work), cell.as_cost(better).for_each_of(work))
}

/// Returns how much work a lap of each row does, where all are known and some differ: otherwise all count as much.
pub(super) fn each_work(rows: &[Row]) -> fn(&Row) -> f64 {
    let with_values = || rows.iter().filter(|row| row.has_values());
    let known = with_values().all(|row| row.work.is_some());
    let unlike =
        || with_values().zip(with_values().skip(1)).any(|(a, b)| unlike_work(a, b).is_some());
    match known && unlike() {
        true => |row| row.work.unwrap_or(1.0),
        false => |_| 1.0,
    }
}

#[cfg(test)]
mod tests {
    use crate::judge::testing::{ask, difference, laps};
    use crate::judge::{Ask, HeldConstant, Verdict, WorkloadView, compare};
    use crate::record::Work;

    #[test]
    fn variants_that_do_unlike_amounts_of_work_are_held_against_each_other_by_rate() {
        let [one, two, four]: [&[u64]; 3] =
            [&[1000, 1004, 996, 1002], &[2003, 1995, 2001, 1999], &[3000, 3010, 2990, 3002]];
        let all = [
            laps("heron-1", "1", 0, one),
            laps("heron-1", "2", 10, two),
            laps("heron-1", "4", 20, four),
            laps("wren-1", "1", 0, two),
            laps("wren-1", "2", 10, four),
        ]
        .concat();
        let by_time = compare(&all, &ask());
        let variants = |views: &[WorkloadView]| {
            let of = views[0].groups.iter().find(|group| group.held == HeldConstant::Rigs);
            of.unwrap().rows[..3].to_vec()
        };
        let timed = variants(&by_time);
        let named: Vec<&str> =
            timed.iter().map(|row| row.settings.get("threads").unwrap()).collect();
        assert_eq!(named, ["1", "2", "4"]);
        assert_eq!(difference(&timed[1]).verdict, Verdict::Slower);
        assert!(difference(&timed[1]).time_saved().is_some());
        let works = [("still".to_owned(), Work::parse("{threads} Mtile").unwrap())];
        let stated = Ask { works: works.into(), ..ask() };
        let by_rate = compare(&all, &stated);
        let rated = variants(&by_rate);
        // Four times the work in three times the time comes first; twice in twice is the same.
        let named: Vec<&str> =
            rated.iter().map(|row| row.settings.get("threads").unwrap()).collect();
        assert_eq!(named[0], "4");
        let quick = difference(&rated[0]);
        assert!(quick.by_rate && quick.verdict == Verdict::Faster && quick.time_saved().is_none());
        assert!((quick.speed.unwrap() - 4.0 / 3.0).abs() < 0.01, "{quick:?}");
        let at_two = rated.iter().find(|row| row.settings.get("threads") == Some("2")).unwrap();
        assert!(matches!(difference(at_two).verdict, Verdict::SameWithin(_)), "{at_two:?}");
        assert_eq!(rated[0].places.map(|places| (places.best, places.worst)), Some((1, 1)));
        // Rigs at one variant do the same work: nothing changes for them.
        let rigs = |views: &[WorkloadView]| {
            let of = views[0].groups.iter().filter(|group| group.held != HeldConstant::Rigs);
            of.cloned().collect::<Vec<_>>()
        };
        for (timed, rated) in rigs(&by_time).iter().zip(&rigs(&by_rate)) {
            for (a, b) in timed.rows.iter().zip(&rated.rows) {
                assert_eq!((&a.against, a.places), (&b.against, b.places));
            }
        }
    }
}
