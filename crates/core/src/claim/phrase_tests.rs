//! Sentences as people say them, and what each is taken to say.

use super::super::grammar::parse_all;
use super::super::sentence::{Bound, Claim, Saying, Scope, Side, Sort};
use super::*;
use crate::record::{Better, Measure};

fn names() -> Names {
    let words = |all: &[&str]| all.iter().map(|word| (*word).to_owned()).collect();
    let measure = |name: &str, unit: &str, better| Measure {
        name: name.to_owned(),
        unit: unit.to_owned(),
        better,
    };
    Names {
        rigs: words(&["heron", "wren", "kestrel", "plover", "osprey-mk-ii"]),
        titles: vec![("The Osprey".to_owned(), "osprey-mk-ii".to_owned())],
        workloads: words(&["reel-export", "fly-through", "dome-still", "suite"]),
        measures: vec![
            Measure::time(),
            measure("average rate", "fps", Better::More),
            measure("low 1%", "fps", Better::More),
            measure("score", "points", Better::More),
            measure("mean power", "W", Better::Less),
            measure("energy", "J", Better::Less),
            measure("frame time 99%", "ms", Better::Less),
            measure("plays on time", "%", Better::More),
        ],
    }
}

fn side(side: &Side) -> String {
    match side.settings.is_empty() {
        true => side.rig.clone(),
        false => format!("{}[{}]", side.rig, side.settings),
    }
}

fn bound(bound: Bound) -> String {
    match bound {
        Bound::AtLeast => ">=".to_owned(),
        Bound::AtMost => "<=".to_owned(),
        Bound::About => "~".to_owned(),
        Bound::Above => ">".to_owned(),
        Bound::Below => "<".to_owned(),
        Bound::Between(to) => format!("to {} from", short(to)),
        Bound::UpTo => "up to".to_owned(),
    }
}

fn short(value: f64) -> String {
    let text = format!("{value:.3}");
    text.trim_end_matches('0').trim_end_matches('.').to_owned()
}

/// Returns what a claim says, in signs.
fn told(claim: &Claim) -> String {
    let saying = match &claim.saying {
        Saying::Ratio { a, b, sort, bound: said, ratio, .. } => {
            let of = if *sort == Sort::Better { "speed" } else { "values" };
            format!("{of} {}/{} {} {}", side(a), side(b), bound(*said), short(*ratio))
        }
        Saying::Same { a, b, within } => {
            format!("{} = {} within {}", side(a), side(b), short(*within))
        }
        Saying::Place { a, best, worst, from_last } => {
            format!(
                "{} place {best}-{worst}{}",
                side(a),
                if *from_last { " from last" } else { "" }
            )
        }
        Saying::Value { a, bound: said, value, unit } => {
            format!("{} {} {} {unit}", side(a), bound(*said), short(*value))
        }
    };
    let scope = match &claim.scope {
        Scope::Overall => "overall".to_owned(),
        Scope::Every => "every".to_owned(),
        Scope::One { workload, settings } if settings.is_empty() => workload.clone(),
        Scope::One { workload, settings } => format!("{workload}[{settings}]"),
    };
    let measure = claim.measure.as_ref().map(|name| format!(", {name}")).unwrap_or_default();
    format!("{saying} ({scope}{measure})")
}

/// What is said, and all that it is taken to say.
const SAID: [(&str, &[&str]); 66] = [
    ("Heron beats Wren on dome-still", &["speed heron/wren > 1 (dome-still)"]),
    ("heron outperforms wren everywhere", &["speed heron/wren > 1 (every)"]),
    ("heron beats wren by 20% on dome-still", &["speed heron/wren ~ 1.2 (dome-still)"]),
    ("heron beats wren by at least 20 % overall", &["speed heron/wren >= 1.2 (overall)"]),
    ("Heron is ahead of Wren in reel-export.", &["speed heron/wren > 1 (reel-export)"]),
    ("wren trails heron by 10% on dome-still", &["speed wren/heron ~ 0.9 (dome-still)"]),
    ("wren lags behind heron on Dome Still", &["speed wren/heron < 1 (dome-still)"]),
    ("wren is behind heron overall", &["speed wren/heron < 1 (overall)"]),
    ("heron leads wren overall", &["speed heron/wren > 1 (overall)"]),
    ("heron has a 20% lead over wren overall", &["speed heron/wren ~ 1.2 (overall)"]),
    ("heron is as fast as wren on dome-still", &["speed heron/wren ~ 1 (dome-still)"]),
    ("heron is just as fast as wren overall", &["speed heron/wren ~ 1 (overall)"]),
    ("heron is at least as fast as wren on every task", &["speed heron/wren >= 1 (every)"]),
    ("heron is twice as fast as wren on dome-still", &["speed heron/wren ~ 2 (dome-still)"]),
    ("heron has 1.6 times the speed of wren overall", &["speed heron/wren ~ 1.6 (overall)"]),
    ("heron is about 1.6x the speed of wren overall", &["speed heron/wren ~ 1.6 (overall)"]),
    (
        "wren takes twice as long as heron on dome-still",
        &["values wren/heron ~ 2 (dome-still, time)"],
    ),
    ("wren takes as long as heron on dome-still", &["values wren/heron ~ 1 (dome-still, time)"]),
    (
        "heron takes at most half as long as wren on dome-still",
        &["values heron/wren <= 0.5 (dome-still, time)"],
    ),
    (
        "heron takes 40 % less time than wren on dome-still",
        &["values heron/wren ~ 0.6 (dome-still, time)"],
    ),
    (
        "heron needs less time than wren on dome-still",
        &["values heron/wren < 1 (dome-still, time)"],
    ),
    ("wren takes longer than heron on dome-still", &["values wren/heron > 1 (dome-still, time)"]),
    (
        "wren takes 20% longer than heron on dome-still",
        &["values wren/heron ~ 1.2 (dome-still, time)"],
    ),
    ("heron uses less energy than wren overall", &["values heron/wren < 1 (overall, energy)"]),
    (
        "heron consumes half the energy of wren overall",
        &["values heron/wren ~ 0.5 (overall, energy)"],
    ),
    (
        "heron uses twice as much energy as wren overall",
        &["values heron/wren ~ 2 (overall, energy)"],
    ),
    (
        "heron draws 10 to 20% less energy than wren overall",
        &["values heron/wren to 0.9 from 0.8 (overall, energy)"],
    ),
    ("heron is up to 6x as fast as wren", &["speed heron/wren up to 6 (every)"]),
    ("heron is up to 30% faster than wren", &["speed heron/wren up to 1.3 (every)"]),
    (
        "heron is between 20 and 30 % faster than wren on dome-still",
        &["speed heron/wren to 1.3 from 1.2 (dome-still)"],
    ),
    (
        "heron is 20 to 30% faster than wren on dome-still",
        &["speed heron/wren to 1.3 from 1.2 (dome-still)"],
    ),
    (
        "heron is 20–30% faster than wren on dome-still",
        &["speed heron/wren to 1.3 from 1.2 (dome-still)"],
    ),
    (
        "heron is 1.5 to 2 times as fast as wren overall",
        &["speed heron/wren to 2 from 1.5 (overall)"],
    ),
    ("heron is 20 per cent quicker than wren overall", &["speed heron/wren ~ 1.2 (overall)"]),
    ("heron is roughly 20% faster compared to wren overall", &["speed heron/wren ~ 1.2 (overall)"]),
    ("heron is approximately 20% faster than wren overall", &["speed heron/wren ~ 1.2 (overall)"]),
    ("heron is ~20% faster than wren overall", &["speed heron/wren ~ 1.2 (overall)"]),
    ("heron is faster than wren by 20% overall", &["speed heron/wren ~ 1.2 (overall)"]),
    ("heron is significantly faster than wren overall", &["speed heron/wren > 1 (overall)"]),
    ("heron is no less than 20% faster than wren overall", &["speed heron/wren >= 1.2 (overall)"]),
    ("heron is 3rd fastest overall", &["heron place 3-3 (overall)"]),
    ("heron is third overall", &["heron place 3-3 (overall)"]),
    ("heron is 2nd on dome-still", &["heron place 2-2 (dome-still)"]),
    ("heron comes in second place on dome-still", &["heron place 2-2 (dome-still)"]),
    ("heron ranks first overall", &["heron place 1-1 (overall)"]),
    ("heron is the fastest rig on dome-still", &["heron place 1-1 (dome-still)"]),
    ("heron is the quickest of all rigs overall", &["heron place 1-1 (overall)"]),
    ("The fastest rig on dome-still is heron", &["heron place 1-1 (dome-still)"]),
    ("wren is the slowest machine overall", &["wren place 1-1 from last (overall)"]),
    ("The Osprey is faster than wren overall", &["speed osprey-mk-ii/wren > 1 (overall)"]),
    (
        "heron and kestrel are faster than wren overall",
        &["speed heron/wren > 1 (overall)", "speed kestrel/wren > 1 (overall)"],
    ),
    (
        "heron beats wren, plover and kestrel on dome-still",
        &[
            "speed heron/wren > 1 (dome-still)",
            "speed heron/plover > 1 (dome-still)",
            "speed heron/kestrel > 1 (dome-still)",
        ],
    ),
    (
        "heron is faster than wren on dome-still and reel-export",
        &["speed heron/wren > 1 (dome-still)", "speed heron/wren > 1 (reel-export)"],
    ),
    (
        "heron is faster than wren on reel-export with encoder=quick",
        &["speed heron/wren > 1 (reel-export[encoder=quick])"],
    ),
    (
        "heron with encoder=quick is faster than heron with encoder=fine on reel-export",
        &["speed heron[encoder=quick]/heron[encoder=fine] > 1 (reel-export)"],
    ),
    ("heron and wren are the same within 2% overall", &["heron = wren within 0.02 (overall)"]),
    ("heron's low 1% on fly-through is above 60 fps", &["heron >= 60 fps (fly-through, low 1%)"]),
    (
        "heron has a low 1% of at least 60 fps on fly-through",
        &["heron >= 60 fps (fly-through, low 1%)"],
    ),
    ("heron runs at over 60 fps on fly-through", &["heron >= 60 fps (fly-through, average rate)"]),
    ("heron reaches 60 fps on fly-through", &["heron ~ 60 fps (fly-through, average rate)"]),
    ("heron scores more than 8000 points on suite", &["heron >= 8000 points (suite, score)"]),
    ("heron scores at least 8000 on suite", &["heron >= 8000 points (suite, score)"]),
    ("heron draws at most 95 W on dome-still", &["heron <= 95 W (dome-still, mean power)"]),
    (
        "frame time 99% of heron is at most 20 ms on fly-through",
        &["heron <= 20 ms (fly-through, frame time 99%)"],
    ),
    ("heron holds real time on fly-through", &["heron >= 100 % (fly-through, plays on time)"]),
    ("heron renders dome-still in at most 90 s", &["heron <= 90 s (dome-still, time)"]),
];

/// What must not be taken for anything, and the words that are named.
const UNCLEAR: [(&str, &str); 14] = [
    ("heron draws up to 95 W on dome-still", "up to"),
    ("heron reaches up to 60 fps on fly-through", "up to"),
    ("heron is lovely", "lovely"),
    ("heron is faster than ever", "ever"),
    ("heron is not faster than wren", "not faster than wren"),
    ("heron is never slower than wren", "never"),
    ("heron may be faster than wren", "may be faster"),
    ("heron is faster than wren and prettier", "prettier"),
    ("heron halves the render time of wren", "halves"),
    ("nothing beats heron", "nothing"),
    ("heron is 20% faster", "too soon"),
    ("heron is faster than wren on ironing", "ironing"),
    ("heron reaches 60 furlongs on fly-through", "furlongs"),
    ("heron is between 30 and 20% faster than wren", "nothing is left"),
];

#[test]
fn sentences_are_understood_as_people_say_them_and_none_wrongly() {
    let mut wrong = Vec::new();
    for (said, meant) in SAID {
        let found: Vec<String> = match parse_all(said, &names()) {
            Ok(all) => all.iter().map(|(_, claim)| told(claim)).collect(),
            Err(err) => vec![format!("not understood: {err}")],
        };
        if found != meant {
            wrong.push(format!("{said}\n    is {found:?}\n    and not {meant:?}"));
        }
    }
    assert!(wrong.is_empty(), "{} of {}:\n{}", wrong.len(), SAID.len(), wrong.join("\n"));
}

#[test]
fn what_is_not_understood_names_the_words_and_is_taken_for_nothing() {
    for (said, words) in UNCLEAR {
        let err = parse_all(said, &names()).expect_err(said);
        assert!(err.problem.contains(words), "{said}: {err}");
    }
}

#[test]
fn each_of_several_sentences_can_be_said_alone() {
    let all = parse_all("heron and kestrel are faster than wren on dome-still", &names()).unwrap();
    let says: Vec<&str> = all.iter().map(|(says, _)| says.as_str()).collect();
    assert_eq!(
        says,
        ["heron is faster than wren on dome-still", "kestrel is faster than wren on dome-still"]
    );
    for (says, claim) in &all {
        assert_eq!(&parse_all(says, &names()).unwrap()[0].1, claim);
    }
}
