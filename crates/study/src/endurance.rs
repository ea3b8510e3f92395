//! How long an endurance lap lasts: `lasts`, `look_every`, `on_battery`, `idle`.

use crate::section::Section;
use honest_lap_core::record::{EnduranceRule, KindName, Launch, Template};
use honest_lap_core::unit::{Nanos, parse_span};
use toml::Spanned;

/// Time between two looks at the machine, until the workload says otherwise.
const LOOK_EVERY: Nanos = Nanos::from_seconds(1);
/// Looking more often would be seen in the result.
const LEAST_LOOK_EVERY: Nanos = Nanos(1_000_000);
/// What a program that runs for the whole time may take beyond it.
const BEYOND: Nanos = Nanos::from_seconds(600);

/// Reads what a workload of this `kind` says of how long it lasts.
pub(crate) fn endurance(section: &Section, kind: Option<KindName>) -> Option<EnduranceRule> {
    let wanted = kind == Some(KindName::Endurance);
    for key in ["lasts", "look_every", "on_battery", "idle"] {
        if let (Some(value), false, true) = (section.get(key), wanted, kind.is_some()) {
            let remedy = "a lap lasts by kind = \"endurance\"; remove it, or change the kind";
            section.mistakes.add(value.span(), format!("`{key}` belongs to another kind"), remedy);
        }
    }
    if !wanted {
        return None;
    }
    for key in ["readings", "splits", "fills_cache"] {
        if let Some(value) = section.get(key) {
            let remedy =
                "an endurance lap yields rates over its time; remove it, or change the kind";
            section.mistakes.add(value.span(), format!("`{key}` belongs to another kind"), remedy);
        }
    }
    if section.get("lasts").is_none() {
        let remedy = "say for how long it is run: lasts = \"2h\"";
        let problem = format!("{} does not say how long it lasts", section.what);
        section.mistakes.add(section.span.clone(), problem, remedy);
    }
    let some_time = |key: &str, least: Nanos, remedy: &'static str| {
        let span = section.quantity(key, parse_span)?;
        if span < least {
            let place = section.get(key).map_or(0..0, Spanned::span);
            section.mistakes.add(place, format!("`{key}` is too short"), remedy);
        }
        Some(span)
    };
    let look_every = some_time(
        "look_every",
        LEAST_LOOK_EVERY,
        "a look a millisecond is the most: look_every = \"100ms\"",
    );
    let lasts = some_time("lasts", Nanos(1), "give it some time: lasts = \"30min\"");
    let idle = section.flag("idle").unwrap_or(false);
    let on_battery = section.flag("on_battery").unwrap_or(false);
    if let (true, Some(value)) = (idle, section.get("command").or(section.get("by_hand"))) {
        let remedy = "remove the command, or idle = true";
        section.mistakes.add(value.span(), "an idle wait runs nothing", remedy);
    }
    if let (true, false, Some(value)) = (idle, on_battery, section.get("idle")) {
        let remedy = "an idle wait is about the battery: on_battery = true";
        section.mistakes.add(value.span(), "an idle wait on mains yields nothing", remedy);
    }
    if let Some(value) = section.get("by_hand") {
        let remedy = "an endurance lap is run by the tool: command = [\"program\", \"argument\"]";
        section.mistakes.add(value.span(), "nobody can repeat a task by hand for hours", remedy);
    }
    let look_every = look_every.unwrap_or(LOOK_EVERY);
    Some(EnduranceRule { lasts: lasts?, look_every, on_battery, idle })
}

/// Returns the command of an idle wait.
pub(crate) fn idle_wait(rule: Option<&EnduranceRule>) -> Option<Launch> {
    let rule = rule.filter(|rule| rule.idle)?;
    let words = ["sleep".to_owned(), rule.lasts.seconds().to_string()];
    // Neither word has a brace in it.
    Some(Launch::Direct(words.iter().filter_map(|word| Template::parse(word).ok()).collect()))
}

/// Returns the limit of a lap's program: one that runs for the whole time may take that and a little more.
pub(crate) fn whole_limit(
    limit: Nanos,
    own: Option<Nanos>,
    endurance: Option<&EnduranceRule>,
    draws: bool,
) -> Nanos {
    match (endurance, own) {
        (Some(rule), None) if rule.idle || draws => limit.max(rule.lasts.plus(BEYOND)),
        _ => limit,
    }
}
