//! The whole file: syntax first, then every table, telling all mistakes at once.

use crate::keys::{STUDY, TOP};
use crate::mistake::{Mistake, nearest};
use crate::others::{claims, elsewhere};
use crate::reading::meter;
use crate::rig::rig;
use crate::section::{Mistakes, Section};
use crate::workload::{Defaults, laps, limit, rest, warm_up, workload};
use honest_lap_core::record::{DEFAULT_MARGIN, Rig, Study, is_rig_name};
use honest_lap_core::unit::{Nanos, parse_amount, parse_span};
use std::ops::Range;
use toml::Spanned;
use toml::de::{DeTable, DeValue};

/// A study larger than this is not one that a person wrote.
pub const MOST_STUDY_BYTES: u64 = 4 << 20;

/// Returns the study that `text` writes, or all its mistakes in the order of the text.
pub fn read(text: &str) -> Result<Study, Vec<Mistake>> {
    let (document, errors) = DeTable::parse_recoverable(text);
    let mistakes = Mistakes::default();
    for error in &errors {
        let span = error.span().unwrap_or(0..0);
        let (problem, remedy) = syntax_words(text, &span, error.message());
        mistakes.add(span, problem, remedy);
    }
    let span = document.span();
    let document = Spanned::new(span, DeValue::Table(document.into_inner()));
    let study = study(&mistakes, &document);
    let found = mistakes.into_sorted();
    match study {
        Some(study) if found.is_empty() => Ok(study),
        _ => Err(found),
    }
}

/// Returns a syntax error in our words: one name used twice is the one that testers make.
fn syntax_words(text: &str, span: &Range<usize>, message: &str) -> (String, String) {
    if message.contains("duplicate key") {
        let name = text.get(span.clone()).unwrap_or_default().trim_matches('"');
        let remedy = "every workload, rig and key has a name of its own: rename or remove one";
        return (format!("`{name}` is there twice"), remedy.to_owned());
    }
    let remedy = "see docs/formats/study.md, or `lap init` for a study that reads well";
    (format!("this is not TOML: {message}"), remedy.to_owned())
}

fn study(mistakes: &Mistakes, document: &Spanned<DeValue<'_>>) -> Option<Study> {
    let top = Section::open(mistakes, "a study", document, &TOP)?;
    let header = match top.get("study") {
        Some(value) => Some(Section::open(mistakes, "[study]", value, &STUDY)?),
        None => None,
    };
    let header = header.as_ref();
    let defaults = Defaults {
        laps: header.and_then(laps).unwrap_or(6),
        warm_up: header.and_then(warm_up).unwrap_or(1),
        rest: header.and_then(rest).unwrap_or_default(),
        limit: header.and_then(limit).unwrap_or(Nanos::from_seconds(3_600)),
        assume_cv: header.and_then(|h| h.share("assume_cv", "2%")),
    };
    let mut workloads = Vec::new();
    for (name, span, value) in top.entries("workload") {
        if named(mistakes, "workload", name, span) {
            workloads.extend(workload(mistakes, name, value, &defaults));
        }
    }
    if top.get("workload").is_none() {
        mistakes.add(
            0..0,
            "the study has no workload",
            "add one: [workload.NAME] with kind = \"task\" and a command",
        );
    }
    let mut rigs = Vec::new();
    for (name, span, value) in top.entries("rig") {
        if named(mistakes, "rig", name, span) {
            rigs.extend(rig(mistakes, name, value, &workloads));
        }
    }
    let mut meters = Vec::new();
    for (name, span, value) in top.entries("meter") {
        if named(mistakes, "meter", name, span) {
            meters.extend(meter(mistakes, name, value));
        }
    }
    let baseline = header.and_then(|h| h.text("baseline"));
    if let (Some(header), Some(base)) = (header, baseline) {
        known_rig(header, "baseline", base, &rigs);
    }
    let expect: Vec<String> = header.map(|h| expect(h, &rigs)).unwrap_or_default();
    Some(Study {
        title: header.and_then(|h| h.text("title")).map(str::to_owned),
        question: header.and_then(|h| h.text("question")).map(str::to_owned),
        baseline: baseline.map(str::to_owned),
        margin: header.and_then(|h| h.share("margin", "2%")).unwrap_or(DEFAULT_MARGIN),
        between_sessions: header.and_then(|h| h.share("between_sessions", "0.6%")),
        workloads,
        rigs,
        meters,
        expect,
        stale_after: header.and_then(|h| h.quantity("stale_after", parse_span)),
        hour: header.and_then(|h| h.quantity("hour_worth", parse_amount)),
        store: header.and_then(|h| h.text("store")).map(str::to_owned),
        claims: claims(mistakes, &top),
        elsewhere: elsewhere(mistakes, &top),
    })
}

/// Tells of a rig's name under `key` that names none of `rigs`, where there are any.
fn known_rig(header: &Section, key: &str, name: &str, rigs: &[Rig]) {
    if rigs.is_empty() || rigs.iter().any(|rig| rig.name == name) {
        return;
    }
    let names = rigs.iter().map(|rig| rig.name.as_str());
    let remedy = match nearest(name, names.clone()) {
        Some(near) => format!("did you mean \"{near}\"?"),
        None => format!("name one of: {}", names.collect::<Vec<_>>().join(", ")),
    };
    let span = header.get(key).map_or(0..0, Spanned::span);
    header.mistakes.add(span, format!("no rig is called \"{name}\""), remedy);
}

fn expect(header: &Section, rigs: &[Rig]) -> Vec<String> {
    let items = header.list("expect").unwrap_or_default();
    let names: Vec<&str> = items.iter().filter_map(|item| header.text_of("expect", item)).collect();
    for name in &names {
        known_rig(header, "expect", name, rigs);
    }
    names.into_iter().map(str::to_owned).collect()
}

/// Returns the share above nothing and below all that `key` states.
fn named(mistakes: &Mistakes, what: &str, name: &str, span: Range<usize>) -> bool {
    let good = is_rig_name(name);
    if !good {
        mistakes.add(
            span,
            format!("\"{name}\" cannot name a {what}"),
            "use 1 to 40 letters, digits, `-` and `_`, with a letter or digit first",
        );
    }
    good
}
