//! Sentences and what they are taken to say.

use super::super::sentence::{Bound, Saying, Scope, Sort};
use super::*;
use crate::record::{Better, Measure, Settings};

fn names() -> Names {
    let words = |all: &[&str]| all.iter().map(|word| (*word).to_owned()).collect();
    let measure = |name: &str, unit: &str, better| Measure {
        name: name.to_owned(),
        unit: unit.to_owned(),
        better,
    };
    Names {
        rigs: words(&["heron", "wren", "kestrel", "plover", "dunlin"]),
        titles: Vec::new(),
        workloads: words(&["reel-export", "fly-through", "dome-still"]),
        measures: vec![
            Measure::time(),
            measure("low 1%", "fps", Better::More),
            measure("energy", "J", Better::Less),
            measure("frame time 99%", "ms", Better::Less),
            measure("hitches", "", Better::Less),
            measure("hitches a minute", "1/min", Better::Less),
            measure("hours on battery", "h", Better::More),
            measure("plays on time", "%", Better::More),
        ],
    }
}

fn claim(text: &str) -> Claim {
    parse(text, &names()).unwrap_or_else(|err| panic!("{text}: {err} | {}", err.remedy))
}

/// Returns bound and ratio of a claim about a ratio, and what it is of.
fn ratio(text: &str) -> (Bound, f64, Sort) {
    match claim(text).saying {
        Saying::Ratio { bound, ratio, sort, .. } => (bound, (ratio * 1e6).round() / 1e6, sort),
        other => panic!("{text}: {other:?}"),
    }
}

#[test]
fn ratios_of_speed_in_the_words_that_people_use() {
    use Bound::{About, Above, AtLeast, AtMost, Below};
    for (text, bound, times) in [
        ("heron is at least 20% faster than wren on reel-export", AtLeast, 1.2),
        ("heron is 20 % faster than wren on reel-export.", About, 1.2),
        ("heron is more than 20 percent faster than wren overall", AtLeast, 1.2),
        ("heron is faster than wren on every task", Above, 1.0),
        ("heron is slower than wren everywhere", Below, 1.0),
        ("heron is at least 20% slower than wren overall", AtMost, 0.8),
        ("heron is at least 1.6x as fast as wren overall", AtLeast, 1.6),
        ("heron is about 1.6 times as fast as wren overall", About, 1.6),
        ("heron is twice as fast as wren overall", About, 2.0),
        ("heron is at most half as good as wren overall", AtMost, 0.5),
        ("heron is 3x faster than wren overall", About, 3.0),
    ] {
        assert_eq!(ratio(text), (bound, times, Sort::Better), "{text}");
    }
}

#[test]
fn ratios_of_a_measure() {
    use Bound::{About, AtLeast, AtMost};
    for (text, bound, times) in [
        ("dunlin uses at most half the energy of heron overall", AtMost, 0.5),
        ("dunlin uses a third of the energy of heron overall", About, 0.333333),
        ("heron takes 40% less time than wren on reel-export", About, 0.6),
        ("heron takes at least 40% less time than wren on reel-export", AtMost, 0.6),
        ("wren takes at least 40% more time than heron on reel-export", AtLeast, 1.4),
    ] {
        assert_eq!(ratio(text), (bound, times, Sort::Values), "{text}");
    }
}

#[test]
fn sameness_places_and_values() {
    let same = claim("plover and kestrel are the same within 2% on every task");
    let Saying::Same { a, b, within } = &same.saying else { panic!("{same:?}") };
    assert_eq!((a.rig.as_str(), b.rig.as_str(), *within), ("plover", "kestrel", 0.02));
    assert_eq!(same.scope, Scope::Every);
    let place = |text: &str| match claim(text).saying {
        Saying::Place { best, worst, from_last, .. } => (best, worst, from_last),
        other => panic!("{other:?}"),
    };
    assert_eq!(place("heron is second fastest overall"), (2, 2, false));
    assert_eq!(place("heron is the fastest on dome-still threads=2"), (1, 1, false));
    assert_eq!(place("heron is second to fourth fastest overall"), (2, 4, false));
    assert_eq!(place("wren is slowest everywhere"), (1, 1, true));
    let low = claim("low 1% of kestrel in fly-through is above 60");
    assert_eq!(low.measure.as_deref(), Some("low 1%"));
    let Saying::Value { bound, value, .. } = low.saying else { panic!("{low:?}") };
    assert_eq!((bound, value), (Bound::AtLeast, 60.0));
    let gate = claim("wren takes at most 1:30 on reel-export");
    assert!(matches!(gate.saying, Saying::Value { bound: Bound::AtMost, value: 90.0, .. }));
}

#[test]
fn settings_narrow_a_side_or_the_workload() {
    let two = claim("heron threads=2 is at least 1.8x as fast as heron threads=1 on dome-still");
    let Saying::Ratio { a, b, .. } = &two.saying else { panic!("{two:?}") };
    assert_eq!((a.settings.get("threads"), b.settings.get("threads")), (Some("2"), Some("1")));
    let one = claim("heron is faster than wren on dome-still threads=2");
    let threads = Settings::new(vec![("threads".into(), "2".into())]);
    assert_eq!(one.scope, Scope::One { workload: "dome-still".into(), settings: threads });
    let low = claim("heron is better than wren on fly-through in low 1%");
    assert_eq!(low.measure.as_deref(), Some("low 1%"));
}

#[test]
fn wording_that_is_commonly_wrong_is_pointed_at() {
    let slower = Caution::PercentSlower { said: "20 %".into(), speed: 0.8 };
    for (text, caution) in [
        ("heron is 3x faster than wren overall", Caution::TimesFaster { times: 3.0 }),
        ("heron is 20% faster than wren on average", Caution::AverageOfPercentages),
        ("heron is 20% slower than wren overall", slower),
        ("heron is faster than wren", Caution::NowhereSaid),
    ] {
        assert_eq!(claim(text).cautions, [caution], "{text}");
    }
    assert!(claim("heron is 20% faster than wren overall").cautions.is_empty());
}

#[test]
fn what_is_not_understood_says_which_words_and_shows_sentences_that_are() {
    for (text, problem) in [
        ("", "the sentence ends too soon"),
        ("eagle is faster than wren", "`eagle` is no rig that has laps"),
        ("heron is faster than wren on ironing", "no workload is called `ironing`"),
        ("heron is lovely", "`lovely` is not understood here"),
        ("heron is faster than wren and prettier", "`and prettier` is not understood here"),
        ("heron and wren are the same on dome-still", "the same within what?"),
        ("heron uses half the noise of wren", "`noise` is not a measure that the laps have"),
        ("heron is 100% slower than wren", "nothing is left of it"),
        ("heron is faster than wren overall on dome-still", "it says twice where it holds"),
        ("low 1% of heron in fly-through is above 60 J", "`J` is not the unit of this measure"),
    ] {
        let err = parse(text, &names()).unwrap_err();
        assert!(err.problem.starts_with(problem), "{text}: {err}");
        assert!(!err.remedy.is_empty());
    }
}

#[test]
fn a_value_in_another_unit_is_turned_into_that_of_the_measure_or_refused() {
    let value = |text: &str| match claim(text).saying {
        Saying::Value { value, unit, .. } => (value, unit),
        other => panic!("{text}: {other:?}"),
    };
    let frame_time =
        |said: &str| value(&format!("frame time 99% of wren is below {said} on fly-through"));
    assert_eq!(frame_time("20 ms"), (20.0, "ms".to_owned()));
    assert_eq!(frame_time("0.02 s"), (20.0, "ms".to_owned()));
    let text = "low 1% of wren is above 60 ms on fly-through";
    let refused = parse(text, &names()).unwrap_err();
    assert!(refused.problem.contains("`ms` is not the unit"), "{refused:?}");
    assert!(refused.remedy.contains("fps"), "{refused:?}");
}

#[test]
fn names_of_measures_are_read_whole_whatever_their_words_mean_elsewhere() {
    for name in ["hitches a minute", "hours on battery", "plays on time", "hitches"] {
        let text = format!("{name} of kestrel in fly-through is above 2");
        assert_eq!(claim(&text).measure.as_deref(), Some(name), "{text}");
        let text = format!("kestrel is at least 2x as good as heron on fly-through in {name}");
        assert_eq!(claim(&text).measure.as_deref(), Some(name), "{text}");
    }
}
