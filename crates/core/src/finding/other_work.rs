//! *Other work*: laps of one variant produced different things, so they may not have done the same. Files are held against
//! each other by size, by content, and by what they show.

use super::doubt::Doubt;
use super::evidence::{Evidence, counted};
use super::parts::Copies;
use super::raised::{Raised, Remedy};
use crate::lab::{Lap, Run};
use crate::record::{LapName, Produced, Settings};
use std::collections::{BTreeMap, BTreeSet};

/// Sizes that differ by no more than this are an encoder's whim.
const LEAST_SIZE: f64 = 0.02;
/// Contents of a file that are told.
const TOLD: usize = 3;

/// What one file was, in one lap.
struct Made<'a> {
    lap: Lap<'a>,
    produced: &'a Produced,
}

/// Returns what variants raise whose laps produced files of different sizes, or whose files differ though each is
/// otherwise made the same again and again.
pub(super) fn find(evidence: &Evidence<'_>) -> Vec<Raised> {
    let mut files: BTreeMap<(&str, &Settings, u32, &str), Vec<Made<'_>>> = BTreeMap::new();
    // Most laps produce nothing that is looked at.
    let produced = |run: &Run<'_>| !run.alike.produced().is_empty();
    for run in counted(evidence.series).filter(produced) {
        let alike = run.alike;
        for (lap, produced) in
            run.laps().flat_map(|lap| alike.produced().iter().map(move |p| (lap, p)))
        {
            let key = (lap.workload(), lap.settings(), lap.series.task, produced.file.as_str());
            files.entry(key).or_default().push(Made { lap, produced });
        }
    }
    let mut found = Vec::new();
    for ((workload, settings, _, file), made) in files {
        let within = evidence.study.same_picture(workload, file);
        let shown = made.iter().any(|made| made.produced.picture.is_some());
        let differs = match within.filter(|_| shown) {
            // Pictures that show the same may be other files.
            Some(within) => pictures_differ(file, settings, &made, within),
            None => sizes_differ(file, settings, &made)
                .or_else(|| contents_differ(file, settings, &made)),
        };
        let Some((doubt, laps)) = differs else { continue };
        let rigs: BTreeSet<&String> = laps.iter().map(|lap| &lap.session.rig).collect();
        let remedy = Remedy::RunAgain { rigs: rigs.into_iter().cloned().collect() };
        found.push(Raised { workload: workload.to_owned(), laps, doubt, remedy });
    }
    found
}

/// Returns the picture that lies furthest from the first, where that is too far.
fn pictures_differ(
    file: &str,
    settings: &Settings,
    made: &[Made<'_>],
    within: f64,
) -> Option<(Doubt, Vec<LapName>)> {
    let mut pictures = made.iter().filter_map(|m| Some((m.produced.picture.as_ref()?, m.lap)));
    let (first, lap) = pictures.next()?;
    let others = pictures.map(|(other, lap)| (first.apart(other), lap));
    let (apart, other) = others.max_by(|(a, _), (b, _)| a.share.total_cmp(&b.share))?;
    (apart.share > within).then(|| {
        let (file, settings) = (file.to_owned(), settings.clone());
        let laps = vec![lap.name(), other.name()];
        (Doubt::OtherPicture { file, settings, apart, within }, laps)
    })
}

fn sizes_differ(
    file: &str,
    settings: &Settings,
    made: &[Made<'_>],
) -> Option<(Doubt, Vec<LapName>)> {
    let sized = || made.iter().filter_map(|m| Some((m.produced.bytes?, m.lap)));
    let (least, small) = sized().min_by_key(|(bytes, _)| *bytes)?;
    let (most, large) = sized().max_by_key(|(bytes, _)| *bytes)?;
    (most as f64 > least as f64 * (1.0 + LEAST_SIZE)).then(|| {
        let (file, settings) = (file.to_owned(), settings.clone());
        let laps = vec![small.name(), large.name()];
        (Doubt::OtherSize { file, settings, least, most }, laps)
    })
}

/// A file that comes out differently every time says nothing; one that mostly comes out the same,
/// and not everywhere, does.
fn contents_differ(
    file: &str,
    settings: &Settings,
    made: &[Made<'_>],
) -> Option<(Doubt, Vec<LapName>)> {
    let mut by_sum: BTreeMap<&str, Vec<Lap<'_>>> = BTreeMap::new();
    for m in made {
        by_sum.entry(m.produced.sha256.as_deref()?).or_default().push(m.lap);
    }
    let repeated: usize = by_sum.values().map(Vec::len).filter(|&laps| laps > 1).sum();
    if by_sum.len() < 2 || repeated * 2 <= made.len() {
        return None;
    }
    let copies = |(sum, laps): (&&str, &Vec<Lap<'_>>)| {
        let rigs: BTreeSet<&str> = laps.iter().map(|lap| lap.rig()).collect();
        let rigs = rigs.into_iter().map(str::to_owned).collect();
        Copies { sha256: (*sum).to_owned(), rigs, laps: laps.len() }
    };
    let more = by_sum.len() > TOLD;
    let (file, settings) = (file.to_owned(), settings.clone());
    let copies = by_sum.iter().take(TOLD).map(copies).collect();
    let laps = by_sum.values().filter_map(|laps| Some(laps.first()?.name())).collect();
    Some((Doubt::OtherContent { file, settings, copies, more }, laps))
}

#[cfg(test)]
mod tests {
    use super::super::testing::Lab;
    use super::*;

    fn lab(made: &[(&str, u64, &str)]) -> Lab {
        let mut lab =
            Lab::default().session("heron-1", &[1.0, 1.0, 1.0]).session("wren-1", &[1.0, 1.0, 1.0]);
        for (name, bytes, sum) in made {
            lab.facts(name).produced = vec![Produced {
                file: "still.png".into(),
                bytes: Some(*bytes),
                sha256: Some((*sum).into()),
                picture: None,
            }];
        }
        lab
    }

    #[test]
    fn a_smaller_output_is_less_work() {
        let found = lab(&[("heron-1.1", 100_000, "a"), ("wren-1.1", 60_000, "b")]).found(find);
        let Doubt::OtherSize { least, most, .. } = found[0].doubt else { panic!("{found:?}") };
        assert_eq!((least, most), (60_000, 100_000));
        assert_eq!(found[0].laps[0].to_string(), "wren-1.1");
        assert_eq!(lab(&[("heron-1.1", 100_000, "a"), ("wren-1.1", 101_000, "b")]).found(find), []);
    }

    #[test]
    fn another_checksum_is_told_unless_every_lap_has_its_own() {
        let same = [("heron-1.1", 9, "aaaaaaaaaa"), ("heron-1.2", 9, "aaaaaaaaaa")];
        let other = [same[0], same[1], ("wren-1.1", 9, "bbbbbbbbbb")];
        let found = lab(&other).found(find);
        let Doubt::OtherContent { copies, more, .. } = &found[0].doubt else { panic!("{found:?}") };
        assert_eq!((copies.len(), copies[0].laps, copies[1].rigs[0].as_str()), (2, 2, "wren"));
        assert!(!more);
        assert_eq!(lab(&same).found(find), []);
        // Two that were made within a second have one date in them; the others each have their own.
        let dated = [
            ("heron-1.1", 9, "a"),
            ("heron-1.2", 9, "a"),
            ("heron-1.3", 9, "b"),
            ("wren-1.1", 9, "c"),
        ];
        assert_eq!(lab(&dated).found(find), []);
        let whim = [("heron-1.1", 9, "a"), ("heron-1.2", 9, "b"), ("wren-1.1", 9, "c")];
        assert_eq!(lab(&whim).found(find), []);
    }
}
