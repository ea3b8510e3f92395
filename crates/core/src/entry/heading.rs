//! What a column is of, by its heading: the study's names in any spelling, and the words that people use.

use super::form::{Form, readings};
use crate::record::{KindName, Measure, Study, TIME, Workload, plain_name};
use std::collections::HashMap;

/// What the values of a column are of; what it leaves open stands in other columns, or is the same for all.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub(super) struct Of {
    pub(super) workload: Option<String>,
    pub(super) settings: Vec<(String, String)>,
    pub(super) measure: Option<String>,
}

/// What a column holds.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(super) enum Column {
    Rig,
    Workload,
    Date,
    Setting(String),
    Value(Of, Option<Form>),
    /// What is said beside the values.
    Note,
}

const RIG: [&str; 16] = [
    "rig",
    "rigs",
    "machine",
    "computer",
    "system",
    "device",
    "host",
    "card",
    "graphics-card",
    "graphics",
    "gpu",
    "cpu",
    "processor",
    "model",
    "pc",
    "laptop",
];
const WORKLOAD: [&str; 6] = ["workload", "test", "task", "scene", "job", "case"];
const DATE: [&str; 7] = ["date", "day", "on", "when", "tested", "tested-on", "measured-on"];
const NOTE: [&str; 9] =
    ["note", "notes", "comment", "comments", "remark", "remarks", "who", "by", "driver"];
/// One of several laps in a row: `run 2`.
const LAP: [&str; 5] = ["run", "lap", "try", "take", "attempt"];

/// Returns whether people head a column so whose cells are said beside the values, whatever the study.
pub(super) fn is_beside(heading: &str) -> bool {
    let name = plain_name(heading);
    [&RIG[..], &DATE, &NOTE].iter().any(|words| words.contains(&name.as_str()))
}

/// Every spelling that is understood.
pub(super) struct Spellings {
    known: HashMap<String, Column>,
    units: Vec<String>,
    /// What the caller calls columns: by their headings.
    called: HashMap<String, String>,
}

/// Returns what may be read of a workload: its time too, whatever its kind.
pub(super) fn measures(workload: &Workload) -> Vec<Measure> {
    let mut all = workload.task.measures();
    if !all.iter().any(|measure| measure.name == TIME) {
        all.insert(0, Measure::time());
    }
    all
}

/// Returns the measure that a value is of where none is named: the time, or of a score its only measure.
pub(super) fn usual_measure(workload: &Workload) -> Option<Measure> {
    if workload.task.kind.name() != KindName::Score {
        return Some(Measure::time());
    }
    match workload.task.measures().as_slice() {
        [only] => Some(only.clone()),
        _ => None,
    }
}

impl Spellings {
    /// Returns those of `study`; `called` gives columns by heading another name, or none: they are left out.
    pub(super) fn of(study: &Study, called: &[(String, String)]) -> Self {
        let mut all = Self {
            known: HashMap::new(),
            units: Vec::new(),
            called: called.iter().map(|(from, to)| (plain_name(from), to.clone())).collect(),
        };
        for workload in &study.workloads {
            all.workload(workload);
        }
        for workload in &study.workloads {
            for (name, _) in &workload.vary {
                all.know(plain_name(name), Column::Setting(name.clone()));
            }
            for measure in measures(workload) {
                let of = Of { measure: Some(measure.name.clone()), ..Of::default() };
                all.know(plain_name(&measure.name), Column::Value(of, None));
                all.units.push(measure.unit);
            }
        }
        let words: [(&[&str], Column); 4] = [
            (&RIG, Column::Rig),
            (&WORKLOAD, Column::Workload),
            (&DATE, Column::Date),
            (&NOTE, Column::Note),
        ];
        for (words, column) in words {
            words.iter().for_each(|word| all.know((*word).to_owned(), column.clone()));
        }
        all
    }

    /// What is known first stays: a workload called `card` is that workload.
    fn know(&mut self, spelling: String, column: Column) {
        self.known.entry(spelling).or_insert(column);
    }

    /// Takes up how a workload's columns may be called: `reel`, `reel software`, `reel encoder=software · score`.
    fn workload(&mut self, workload: &Workload) {
        let mut variants: Vec<Vec<(String, String)>> = vec![Vec::new()];
        let one = |(name, values): &(String, Vec<String>)| {
            values.iter().map(|value| vec![(name.clone(), value.clone())]).collect::<Vec<_>>()
        };
        variants.extend(workload.vary.iter().flat_map(one));
        if workload.vary.len() > 1 {
            let pairs = |settings: &crate::record::Settings| {
                settings.iter().map(|(key, value)| (key.to_owned(), value.to_owned())).collect()
            };
            variants.extend(workload.variants().iter().map(pairs));
        }
        let measures: Vec<Option<String>> = std::iter::once(None)
            .chain(measures(workload).into_iter().map(|m| Some(m.name)))
            .collect();
        for settings in &variants {
            let named: String =
                settings.iter().map(|(key, value)| format!(" {key}={value}")).collect();
            let short: String = settings.iter().map(|(_, value)| format!(" {value}")).collect();
            for measure in &measures {
                let behind = measure.as_deref().unwrap_or_default();
                let of = Of {
                    workload: Some(workload.name.clone()),
                    settings: settings.clone(),
                    measure: measure.clone(),
                };
                for variant in [&named, &short] {
                    let spelling = plain_name(&format!("{}{variant} {behind}", workload.name));
                    self.know(spelling, Column::Value(of.clone(), None));
                }
            }
        }
    }

    /// Returns the units of the study's measures.
    pub(super) fn units(&self) -> Vec<&str> {
        self.units.iter().map(String::as_str).collect()
    }

    /// Returns what a column under `text` holds, if that is known.
    pub(super) fn column(&self, text: &str) -> Option<Column> {
        let units = self.units();
        readings(text, &units).into_iter().find_map(|(name, form)| {
            let column = match self
                .called
                .get(&plain_name(text))
                .or_else(|| self.called.get(&plain_name(name)))
            {
                Some(called) if called.trim().is_empty() => Column::Note,
                Some(called) => return self.called_so(called, form),
                None => {
                    self.known.get(&plain_name(name)).cloned().or_else(|| numbered_lap(name))?
                }
            };
            Some(with_form(column, form))
        })
    }

    /// Returns what a column is that the caller calls `called`; its unit may stand in either name.
    fn called_so(&self, called: &str, form: Option<Form>) -> Option<Column> {
        let units = self.units();
        readings(called, &units).into_iter().find_map(|(name, own)| {
            Some(with_form(
                self.known.get(&plain_name(name)).cloned()?,
                own.or_else(|| form.clone()),
            ))
        })
    }

    /// Returns what a cell in a column of workloads names.
    pub(super) fn workload_in(&self, text: &str) -> Option<Of> {
        match self.column(text)? {
            Column::Value(of, None) if of.workload.is_some() => Some(of),
            _ => None,
        }
    }
}

fn with_form(column: Column, form: Option<Form>) -> Column {
    match column {
        Column::Value(of, None) => Column::Value(of, form),
        other => other,
    }
}

/// Returns a column of values for a heading such as `run 2`.
fn numbered_lap(name: &str) -> Option<Column> {
    let name = plain_name(name);
    let number = LAP.iter().find_map(|word| name.strip_prefix(*word))?;
    let number = number.trim_start_matches('-');
    (!number.is_empty() && number.bytes().all(|b| b.is_ascii_digit()))
        .then(|| Column::Value(Of::default(), None))
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::entry::example::study;

    fn value(workload: Option<&str>, settings: &[(&str, &str)], measure: Option<&str>) -> Of {
        let pair = |(key, value): &(&str, &str)| ((*key).to_owned(), (*value).to_owned());
        Of {
            workload: workload.map(str::to_owned),
            settings: settings.iter().map(pair).collect(),
            measure: measure.map(str::to_owned),
        }
    }

    #[test]
    fn a_column_is_known_by_the_studys_names_in_any_spelling() {
        let called =
            [("Scene 1".to_owned(), "still".to_owned()), ("Who".to_owned(), String::new())];
        let spellings = Spellings::of(&study(), &called);
        let software = [("encoder", "software")];
        let seconds = Some(Form::Unit("s".to_owned()));
        for (text, of, form) in [
            ("reel encoder=software [s]", value(Some("reel"), &software, None), seconds.clone()),
            ("Reel (Software), secs", value(Some("reel"), &software, None), seconds.clone()),
            ("reel software score", value(Some("reel"), &software, Some("score")), None),
            ("still · score", value(Some("still"), &[], Some("score")), None),
            ("Still (m:ss)", value(Some("still"), &[], None), Some(Form::MinutesSeconds)),
            ("scene 1 [s]", value(Some("still"), &[], None), seconds.clone()),
            ("Score", value(None, &[], Some("score")), None),
            ("time in s", value(None, &[], Some("time")), seconds),
            ("run 2", value(None, &[], None), None),
        ] {
            assert_eq!(spellings.column(text), Some(Column::Value(of, form)), "{text}");
        }
        for (text, column) in [
            ("Machine", Column::Rig),
            ("Encoder", Column::Setting("encoder".into())),
            ("Date", Column::Date),
            ("Test", Column::Workload),
            ("who", Column::Note),
            ("Comments", Column::Note),
        ] {
            assert_eq!(spellings.column(text), Some(column), "{text}");
        }
        assert_eq!([spellings.column("Scene 2"), spellings.column("running")], [None, None]);
        assert_eq!(
            spellings.workload_in("Scene 1").and_then(|of| of.workload).as_deref(),
            Some("still")
        );
        assert_eq!(spellings.workload_in("score"), None);
    }
}
