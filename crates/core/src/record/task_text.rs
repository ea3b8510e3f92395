//! A task as it is written down: one flat table, in which what a kind alone has stands beside what all have.
//!
//! Its keys and their order are those of every logbook so far: they are part of what is sealed.

use super::{
    Capacity, Display, Endurance, EnduranceRule, FrameLog, FrameSource, Framed, Kind, KindName,
    Launch, LoadRule, Presented, Product, ReadingRule, Splits, Task, Template, Work,
};
use serde::{Deserialize, Deserializer, Serialize, Serializer};

#[derive(Serialize, Deserialize)]
struct TaskText {
    kind: KindName,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    command: Option<Launch>,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    by_hand: Option<String>,
    before: Vec<Launch>,
    after: Vec<Launch>,
    folder: Option<Template>,
    environment: Vec<(String, Template)>,
    stdin: Option<Template>,
    exit_codes: Vec<i32>,
    produces: Vec<Product>,
    work: Option<Work>,
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    readings: Vec<ReadingRule>,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    splits: Option<Splits>,
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    fills_cache: bool,
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    terminal: bool,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    frames: Option<FrameLog>,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    presented: Option<Presented>,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    plays_at: Option<f64>,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    display: Option<Display>,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    load: Option<LoadRule>,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    endurance: Option<EnduranceRule>,
}

impl From<Task> for TaskText {
    fn from(task: Task) -> Self {
        let kind = task.kind.name();
        let (load, endurance) = (task.kind.load().cloned(), task.kind.endurance().cloned());
        let framed = task.kind.framed().cloned().unwrap_or_default();
        let (frames, presented) = match framed.source {
            Some(FrameSource::Log(log)) => (Some(log), None),
            Some(FrameSource::Presented(presented)) => (None, Some(presented)),
            None => (None, None),
        };
        Self {
            kind,
            command: task.command,
            by_hand: task.by_hand,
            before: task.before,
            after: task.after,
            folder: task.folder,
            environment: task.environment,
            stdin: task.stdin,
            exit_codes: task.exit_codes,
            produces: task.produces,
            work: task.work,
            readings: task.readings,
            splits: task.splits,
            fills_cache: task.fills_cache,
            terminal: task.terminal,
            frames,
            presented,
            plays_at: framed.plays_at,
            display: framed.display,
            load,
            endurance,
        }
    }
}

impl TryFrom<TaskText> for Task {
    type Error = String;

    fn try_from(text: TaskText) -> Result<Self, String> {
        let source = match (text.frames, text.presented) {
            (Some(log), None) => Some(FrameSource::Log(log)),
            (None, Some(presented)) => Some(FrameSource::Presented(presented)),
            (None, None) => None,
            (Some(_), Some(_)) => {
                return Err("a task whose frames are logged and presented".to_owned());
            }
        };
        let framed = Framed { source, plays_at: text.plays_at, display: text.display };
        let kind = match (text.kind, text.load, text.endurance) {
            (KindName::Task, None, None) if framed == Framed::default() => Kind::Task,
            (KindName::Score, None, None) if framed == Framed::default() => Kind::Score,
            (KindName::Frames, None, None) => Kind::Frames(framed),
            (KindName::Capacity, Some(load), None) => Kind::Capacity(Capacity { load, framed }),
            (KindName::Endurance, None, Some(rule)) => Kind::Endurance(Endurance { rule, framed }),
            (kind, ..) => {
                return Err(format!(
                    "a task of kind {kind:?} with what belongs to another, or without its own"
                ));
            }
        };
        Ok(Self {
            kind,
            command: text.command,
            by_hand: text.by_hand,
            before: text.before,
            after: text.after,
            folder: text.folder,
            environment: text.environment,
            stdin: text.stdin,
            exit_codes: text.exit_codes,
            produces: text.produces,
            work: text.work,
            readings: text.readings,
            splits: text.splits,
            fills_cache: text.fills_cache,
            terminal: text.terminal,
        })
    }
}

impl Serialize for Task {
    fn serialize<S: Serializer>(&self, writer: S) -> Result<S::Ok, S::Error> {
        TaskText::from(self.clone()).serialize(writer)
    }
}

impl<'de> Deserialize<'de> for Task {
    fn deserialize<D: Deserializer<'de>>(reader: D) -> Result<Self, D::Error> {
        Self::try_from(TaskText::deserialize(reader)?).map_err(serde::de::Error::custom)
    }
}

#[cfg(test)]
mod tests {
    use super::super::{Broke, Choice, Loads};
    use super::*;
    use crate::unit::Nanos;

    fn task(kind: Kind) -> Task {
        Task { kind, ..Task::of(Launch::Direct(vec![Template::parse("render").expect("fine")])) }
    }

    #[test]
    fn every_kind_is_written_as_it_always_was_and_read_back() {
        let presented = Presented { choice: Choice::default(), ..Presented::default() };
        let framed = Framed {
            source: Some(FrameSource::Presented(presented)),
            plays_at: Some(24.0),
            display: Some(Display { hz: 60.0 }),
        };
        let load = LoadRule {
            loads: Loads::Named(vec!["half".into(), "full".into()]),
            unit: String::new(),
            strained: None,
            broke: Broke { exit_codes: vec![3], limit: false, signals: false },
            most: 36,
        };
        let (lasts, look_every) = (Nanos::from_seconds(60), Nanos::from_seconds(1));
        let rule = EnduranceRule { lasts, look_every, on_battery: false, idle: false };
        let start = "\"command\":{\"direct\":[\"render\"]},\"before\":[],\"after\":[],\"folder\":null,\
                     \"environment\":[],\"stdin\":null,\"exit_codes\":[0],\"produces\":[],\"work\":null";
        for (kind, name, keys) in [
            (Kind::Task, "task", &[][..]),
            (Kind::Score, "score", &[]),
            (Kind::Frames(framed.clone()), "frames", &["presented", "plays_at", "display"]),
            (Kind::Capacity(Capacity { load, framed: Framed::default() }), "capacity", &["load"]),
            (
                Kind::Endurance(Endurance { rule, framed }),
                "endurance",
                &["presented", "plays_at", "display", "endurance"],
            ),
        ] {
            let text = serde_json::to_string(&task(kind.clone())).unwrap();
            assert!(text.starts_with(&format!("{{\"kind\":\"{name}\",{start}")), "{text}");
            let places: Vec<usize> =
                keys.iter().map(|key| text.find(&format!(",\"{key}\":")).unwrap()).collect();
            assert!(places.is_sorted(), "{text}");
            assert_eq!(serde_json::from_str::<Task>(&text).unwrap(), task(kind));
        }
    }

    #[test]
    fn a_task_with_what_belongs_to_another_kind_is_refused() {
        let text = serde_json::to_string(&task(Kind::Task)).unwrap();
        for (from, to) in [
            ("\"kind\":\"task\"", "\"kind\":\"capacity\""),
            ("\"work\":null", "\"work\":null,\"display\":{\"hz\":60.0}"),
        ] {
            let wrong = text.replace(from, to);
            assert_ne!(wrong, text);
            assert!(serde_json::from_str::<Task>(&wrong).is_err(), "{wrong}");
        }
    }
}
