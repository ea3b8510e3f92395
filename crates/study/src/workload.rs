//! The `[workload.NAME]` tables.

use crate::endurance::{endurance, idle_wait, whole_limit};
use crate::frames::{display, frames, plays_at};
use crate::keys::{REST, WORKLOAD};
use crate::launch::{launch, launch_of, launches};
use crate::load::{load, searches};
use crate::modes::modes;
use crate::only::only;
use crate::places::{Places, check_places};
use crate::product::products;
use crate::reading::{check_names, readings, splits};
use crate::section::{Mistakes, Section, Value, number};
use crate::vary::{Varied, vary};
use honest_lap_core::record::{
    CACHE, Capacity, Endurance, EnduranceRule, FrameSource, Framed, Kind, KindName, Launch,
    ReadingRule, Rest, Source, Task, Template, Work, Workload,
};
use honest_lap_core::unit::{Nanos, parse_celsius, parse_span};
use toml::Spanned;

/// What `[study]` says for every workload that does not say it itself.
pub(crate) struct Defaults {
    pub(crate) laps: u32,
    pub(crate) warm_up: u32,
    pub(crate) rest: Rest,
    pub(crate) limit: Nanos,
    pub(crate) assume_cv: Option<f64>,
}

pub(crate) fn workload(
    mistakes: &Mistakes,
    name: &str,
    value: &Value<'_>,
    defaults: &Defaults,
) -> Option<Workload> {
    let section = Section::open(mistakes, format!("workload \"{name}\""), value, &WORKLOAD)?;
    let mut places = Places::default();
    let kind = kind(&section);
    let endurance = endurance(&section, kind);
    let command = launch(&section, "command").map(|placed| places.keep_launch(placed));
    let command = command.or_else(|| idle_wait(endurance.as_ref()));
    let by_hand = section.text("by_hand").map(str::to_owned);
    driven_one_way(&section, endurance.as_ref());
    let mut steps = |key| -> Vec<Launch> {
        launches(&section, key).into_iter().map(|placed| places.keep_launch(placed)).collect()
    };
    let (before, after) = (steps("before"), steps("after"));
    let environment = environment(&section, &mut places);
    let folder = places.keep(section.template("folder"));
    let stdin = places.keep(section.template("stdin"));
    let terminal = section.flag("terminal").unwrap_or(false);
    let (produces, same_pictures) = products(&section, &mut places);
    let versions = versions(&section, &mut places);
    let modes = modes(&section, &mut places);
    let inputs = inputs(&section);
    let readings = readings(&section, &mut places, by_hand.is_some());
    let splits = splits(&section, &mut places, by_hand.is_some());
    check_names(&section, &readings, splits.as_ref());
    if kind == Some(KindName::Score) && section.get("readings").is_none() {
        let remedy = "say what it reports: readings = [{ name = \"score\", after = \"Score:\", better = \"more\" }]";
        mistakes.add(section.span.clone(), format!("{} yields no score", section.what), remedy);
    }
    let mut frames = frames(&section, &mut places, kind);
    let (display, plays_at) = (display(&section, kind), plays_at(&section, kind));
    one_stream_at_a_terminal(&section, terminal, &readings, frames.as_ref());
    let work = work(&section, &mut places);
    let varied = vary(&section);
    let only = only(&section, &varied);
    let fills_cache = fills_cache(&section, &before, &varied);
    check_places(&section, &places, &varied, (kind, fills_cache));
    let about = section.text("about").map(str::to_owned);
    let exit_codes = exit_codes(&section);
    let (own_laps, own_warm_up) = (laps(&section), warm_up(&section));
    let load = load(&section, kind, &readings, own_laps);
    let (laps, warm_up) = match kind {
        // A round is a search, and a search needs no warm-up that is not at a load of its own.
        Some(KindName::Capacity) => (searches(&section), 0),
        // A lap of hours is its own warm-up: how it goes from cold to warm is what is asked.
        Some(KindName::Endurance) => (own_laps.unwrap_or(1), own_warm_up.unwrap_or(0)),
        _ => (own_laps.unwrap_or(defaults.laps), own_warm_up.unwrap_or(defaults.warm_up)),
    };
    let rest = rest(&section).unwrap_or(defaults.rest);
    let own_limit = limit(&section);
    let limit = whole_limit(
        own_limit.unwrap_or(defaults.limit),
        own_limit,
        endurance.as_ref(),
        frames.is_some(),
    );
    if let (Some(rule), Some(FrameSource::Presented(presented))) = (&endurance, &mut frames) {
        presented.ends.time.get_or_insert(rule.lasts);
    }
    let keep = section.flag("keep").unwrap_or(false);
    if let Some(FrameSource::Presented(presented)) = &frames
        && presented.ends.time.is_some_and(|time| time >= limit)
    {
        let span = section.get("frames").map_or(0..0, Spanned::span);
        let remedy = "give it a longer limit, such as limit = \"20min\", or a shorter pass";
        mistakes.add(span, "a pass of this length would be ended at the limit of a lap", remedy);
    }
    let weight = weight(&section).unwrap_or(1.0);
    let group = section.text("group").map(str::to_owned);
    let jobs_a_month = jobs_a_month(&section);
    let assume_cv = section.share("assume_cv", "2%").or(defaults.assume_cv);
    // Only now may a missing piece end the reading: every key has told its own mistakes.
    let framed = Framed { source: frames, plays_at, display };
    let kind = match kind? {
        KindName::Task => Kind::Task,
        KindName::Score => Kind::Score,
        KindName::Frames => Kind::Frames(framed),
        KindName::Capacity => Kind::Capacity(Capacity { load: load?, framed }),
        KindName::Endurance => Kind::Endurance(Endurance { rule: endurance?, framed }),
    };
    if command.is_none() && by_hand.is_none() {
        return None;
    }
    let task = Task {
        kind,
        command,
        by_hand,
        before,
        after,
        folder,
        environment,
        stdin,
        terminal,
        exit_codes,
        produces,
        work,
        readings,
        splits,
        fills_cache,
    };
    let vary = varied.into_iter().map(|setting| (setting.name, setting.values)).collect();
    let name = name.to_owned();
    Some(Workload {
        name,
        about,
        task,
        vary,
        only,
        laps,
        warm_up,
        rest,
        limit,
        versions,
        modes,
        same_pictures,
        inputs,
        keep,
        weight,
        group,
        jobs_a_month,
        assume_cv,
    })
}

/// A workload is started by the tool or done by a person, and says which.
fn driven_one_way(section: &Section, endurance: Option<&EnduranceRule>) {
    if endurance.is_some_and(|rule| rule.idle) {
        return;
    }
    let problem = match (section.get("command"), section.get("by_hand")) {
        (None, None) => "has no command",
        (Some(_), Some(_)) => "has a command and is done by hand",
        _ => return,
    };
    section.mistakes.add(
        section.span.clone(),
        format!("{} {problem}", section.what),
        "say what is timed, command = [\"program\", \"argument\"], or what a person does, \
         by_hand = \"start the export; stop when its bar is full\"",
    );
}

/// At a terminal a program's output and errors are one.
fn one_stream_at_a_terminal(
    section: &Section,
    terminal: bool,
    readings: &[ReadingRule],
    frames: Option<&FrameSource>,
) {
    let span = || section.get("terminal").map_or(0..0, Spanned::span);
    if terminal && section.get("command").is_none() {
        let remedy = "take it away: only what the tool starts is given a terminal";
        section.mistakes.add(span(), "nothing is started that could have a terminal", remedy);
    }
    let errors = readings.iter().any(|rule| rule.source == Source::Errors)
        || matches!(frames, Some(FrameSource::Log(log)) if log.source == Source::Errors);
    if terminal && errors {
        let remedy = "read the output: what goes to a terminal's errors is in it";
        let problem = "at a terminal output and errors are one, and `errors` is read";
        section.mistakes.add(span(), problem, remedy);
    }
}

/// Reads `work`: an amount, or a formula of the variant's settings.
fn work(section: &Section, places: &mut Places) -> Option<Work> {
    let work = section.quantity("work", Work::parse)?;
    let span = section.get("work").map_or(0..0, Spanned::span);
    for name in work.places() {
        places.used.push((name.to_owned(), span.clone()));
    }
    Some(work)
}

fn fills_cache(section: &Section, before: &[Launch], varied: &[Varied]) -> bool {
    let fills = section.flag("fills_cache").unwrap_or(false);
    let span = || section.get("fills_cache").map_or(0..0, Spanned::span);
    if fills && before.is_empty() {
        let remedy = "say what empties the cache ahead of each cold lap: before = [\"rm\", \"-rf\", \"cache\"]";
        section.mistakes.add(span(), "a lap fills a cache that nothing empties", remedy);
    }
    if fills && varied.iter().any(|setting| setting.name == CACHE) {
        let remedy = "remove one: fills_cache varies `cache` over cold and warm by itself";
        section.mistakes.add(span(), "`cache` is varied twice", remedy);
    }
    fills
}

/// Returns the rest between laps: a time, or until a temperature is reached.
pub(crate) fn rest(section: &Section) -> Option<Rest> {
    let value = section.get("rest")?;
    if !value.get_ref().is_table() {
        return section.quantity("rest", parse_span).map(Rest::of);
    }
    let inner =
        Section::open(section.mistakes, format!("`rest` of {}", section.what), value, &REST)?;
    if inner.get("until_below").is_none() {
        let remedy =
            "write rest = { until_below = \"55 °C\", at_most = \"5min\" }, or a time alone";
        section.mistakes.add(value.span(), "a rest in braces says until which temperature", remedy);
    }
    Some(Rest {
        time: inner.quantity("at_least", parse_span).unwrap_or_default(),
        below_c: Some(inner.quantity("until_below", parse_celsius)?),
        at_most: inner.quantity("at_most", parse_span).unwrap_or(Nanos::from_seconds(600)),
    })
}

pub(crate) fn laps(section: &Section) -> Option<u32> {
    section.whole("laps", 1..=10_000)
}

pub(crate) fn warm_up(section: &Section) -> Option<u32> {
    section.whole("warm_up", 0..=1_000)
}

pub(crate) fn limit(section: &Section) -> Option<Nanos> {
    let limit = section.quantity("limit", parse_span)?;
    if limit == Nanos(0) {
        let span = section.get("limit").map_or(0..0, Spanned::span);
        section.mistakes.add(span, "`limit` is no time at all", "give a lap time to end by itself");
    }
    Some(limit)
}

fn kind(section: &Section) -> Option<KindName> {
    let Some(value) = section.get("kind") else {
        section.mistakes.add(
            section.span.clone(),
            format!("{} has no kind", section.what),
            "say what a lap yields: kind = \"task\" for the time to do one piece of work",
        );
        return None;
    };
    match section.text_of("kind", value)? {
        "task" => Some(KindName::Task),
        "score" => Some(KindName::Score),
        "frames" => Some(KindName::Frames),
        "capacity" => Some(KindName::Capacity),
        "endurance" => Some(KindName::Endurance),
        other => {
            let problem = format!("`{other}` is not a kind of workload");
            let remedy = "write kind = \"task\" for a time, \"score\" for numbers it reports, \"frames\" for frame times, \"capacity\" for a largest load, \"endurance\" for a rate over a long time";
            section.mistakes.add(value.span(), problem, remedy);
            None
        }
    }
}

/// Reads `weight`: how much the workload weighs in an index.
fn weight(section: &Section) -> Option<f64> {
    let value = section.get("weight")?;
    let number: Option<f64> = number(value);
    let weight = number.filter(|weight| (0.0..=1_000.0).contains(weight));
    if weight.is_none() {
        let remedy = "write how much it weighs beside the others, which weigh 1: weight = 2; 0 leaves it out";
        section.mistakes.add(value.span(), "`weight` is no weight", remedy);
    }
    weight
}

fn jobs_a_month(section: &Section) -> Option<f64> {
    let value = section.get("jobs_a_month")?;
    let number: Option<f64> = number(value);
    let jobs = number.filter(|jobs| *jobs > 0.0 && jobs.is_finite());
    if jobs.is_none() {
        let remedy = "write how often it is done in a month: jobs_a_month = 120";
        section.mistakes.add(value.span(), "`jobs_a_month` is no number of jobs", remedy);
    }
    jobs
}

fn exit_codes(section: &Section) -> Vec<i32> {
    let Some(items) = section.list("exit_codes") else { return vec![0] };
    if items.is_empty() {
        let span = section.get("exit_codes").map_or(0..0, Spanned::span);
        let remedy = "list the codes that mean the work was done, such as [0]";
        section.mistakes.add(span, "`exit_codes` accepts nothing", remedy);
    }
    items
        .iter()
        .filter_map(|item| section.whole_of("exit_codes", item, 0..=255))
        .filter_map(|code| i32::try_from(code).ok())
        .collect()
}

fn environment(section: &Section, places: &mut Places) -> Vec<(String, Template)> {
    let mut all = Vec::new();
    for (name, span, value) in section.entries("environment") {
        if name.is_empty() || name.contains(['=', '\0']) {
            let remedy = "a variable's name holds no `=` and is not empty";
            section.mistakes.add(span, format!("`{name}` cannot name a variable"), remedy);
            continue;
        }
        if let Some(template) = places.keep(section.template_of(name, value)) {
            all.push((name.to_owned(), template));
        }
    }
    all.sort_by(|a, b| a.0.cmp(&b.0));
    all
}

fn versions(section: &Section, places: &mut Places) -> Vec<(String, Launch)> {
    section
        .entries("versions")
        .filter_map(|(label, _, value)| {
            let placed = launch_of(section, label, value)?;
            for name in placed.launch.templates().iter().flat_map(Template::places) {
                if name != "lap" && name != "study_dir" {
                    section.mistakes.add(
                        placed.span.clone(),
                        format!(
                            "`{{{name}}}` has no value in `versions`, which is asked once a session"
                        ),
                        "use only {lap} and {study_dir} there",
                    );
                }
            }
            places.note(&placed.span, &[]);
            Some((label.to_owned(), placed.launch))
        })
        .collect()
}

fn inputs(section: &Section) -> Vec<Template> {
    let items = section.list("inputs").unwrap_or_default();
    let files = items.iter().filter_map(|item| section.template_of("inputs", item));
    let mut all = Vec::new();
    for file in files {
        for name in file.get_ref().places().filter(|name| *name != "study_dir") {
            let problem =
                format!("`{{{name}}}` has no value in `inputs`, which are read once a session");
            section.mistakes.add(file.span(), problem, "use only {study_dir} there");
        }
        all.push(file.into_inner());
    }
    all
}
