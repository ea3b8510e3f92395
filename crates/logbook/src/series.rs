//! Long series of a lap: the repetitions of an endurance lap, and samples too many to be written as text.

use crate::chunks::put;
use crate::error::LogbookError;
use crate::json::json;
use crate::open::Logbook;
use honest_lap_core::endurance::{Endured, Evidence};
use honest_lap_core::record::{LapBody, Quantity, Repeat, Samples, Settings, Task, Trace, Traces};
use honest_lap_core::unit::Nanos;
use rusqlite::{Row, Transaction};
use serde::{Deserialize, Serialize};
use std::collections::HashMap;

const BEGAN: &str = "repeat-began";
const TOOK: &str = "repeat-took";
const MOMENTS: &str = "sample-at";

/// How the text of packed traces begins.
pub(crate) const PACKED: &str = "{\"packed\"";
/// Traces with more samples are packed.
const TEXT_SAMPLES: usize = 120;
/// Decimals that a packed channel may have.
const DECIMALS: u32 = 6;
/// Whole numbers beyond this are not exact in a float.
const EXACT: f64 = 4_503_599_627_370_496.0;

/// Traces whose samples are packed: what their text says.
#[derive(Serialize, Deserialize)]
struct PackedTraces {
    packed: Vec<PackedChannel>,
}

#[derive(Serialize, Deserialize)]
struct PackedChannel {
    quantity: Quantity,
    #[serde(default, skip_serializing_if = "String::is_empty")]
    which: String,
    #[serde(default, skip_serializing_if = "String::is_empty")]
    unit: String,
    /// How many decimals its packed values have; none where its values stand as text.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    decimals: Option<u32>,
    #[serde(default, skip_serializing_if = "Samples::is_empty")]
    values: Samples,
}

/// Returns the text of `traces`, and the channels whose values are to be packed beside it.
pub(crate) fn traces_text(traces: &Traces) -> (String, bool) {
    if traces.is_empty() {
        return ("{}".to_owned(), false);
    }
    if traces.at_ms.len() <= TEXT_SAMPLES {
        return (json(traces), false);
    }
    let channel = |trace: &Trace| {
        let decimals = decimals(&trace.values);
        let values = if decimals.is_none() { trace.values.clone() } else { Samples::default() };
        let (quantity, which, unit) = (trace.quantity, trace.which.clone(), trace.unit.clone());
        PackedChannel { quantity, which, unit, decimals, values }
    };
    (json(&PackedTraces { packed: traces.channels.iter().map(channel).collect() }), true)
}

/// Returns the fewest decimals that tell every one of `values` exactly.
fn decimals(values: &Samples) -> Option<u32> {
    let exact = |decimals: &u32| {
        let scale = 10_f64.powi(*decimals as i32);
        values.known().all(|value| {
            let whole = (value * scale).round();
            whole.abs() < EXACT && whole / scale == value
        })
    };
    (0..=DECIMALS).find(exact)
}

/// Returns a value as a whole number: 0 is none, then the numbers about 0 by turns.
fn folded(value: Option<f64>, scale: f64) -> u64 {
    let Some(value) = value else { return 0 };
    let whole = (value * scale).round() as i64;
    (((whole << 1) ^ (whole >> 63)) as u64) + 1
}

fn unfolded(number: u64, scale: f64) -> Option<f64> {
    let number = number.checked_sub(1)?;
    let whole = (number >> 1) as i64 ^ -((number & 1) as i64);
    Some(whole as f64 / scale)
}

fn sample(channel: usize) -> String {
    format!("sample-{channel}")
}

/// Writes the long series of the lap `id`; its traces too, where they are `packed`.
pub(crate) fn insert(
    tx: &Transaction<'_>,
    id: i64,
    body: &LapBody,
    packed: bool,
) -> rusqlite::Result<()> {
    let nanos = |of: fn(&Repeat) -> Nanos| body.repeats.iter().map(|r| of(r).0).collect::<Vec<_>>();
    put(tx, id, BEGAN, &nanos(|repeat| repeat.began))?;
    put(tx, id, TOOK, &nanos(|repeat| repeat.took))?;
    if !packed {
        return Ok(());
    }
    put(tx, id, MOMENTS, &body.traces.at_ms)?;
    for (place, trace) in body.traces.channels.iter().enumerate() {
        if let Some(decimals) = decimals(&trace.values) {
            let scale = 10_f64.powi(decimals as i32);
            let numbers: Vec<u64> = trace.values.iter().map(|value| folded(value, scale)).collect();
            put(tx, id, &sample(place), &numbers)?;
        }
    }
    Ok(())
}

impl Logbook {
    /// Returns the repetitions of the lap `id`.
    pub(crate) fn repeats(&self, id: i64) -> Result<Vec<Repeat>, LogbookError> {
        let (began, took) = (self.numbers(id, BEGAN)?, self.numbers(id, TOOK)?);
        if began.len() != took.len() || !began.is_sorted() {
            return Err(self.damaged("the repetitions of a lap"));
        }
        let one = |(began, took)| Repeat { began: Nanos(began), took: Nanos(took) };
        Ok(began.into_iter().zip(took).map(one).collect())
    }

    /// Returns the traces that `text` tells, of the lap `id`.
    pub(crate) fn traces(&self, id: i64, text: &str) -> Result<Traces, LogbookError> {
        if !text.starts_with(PACKED) {
            return self.parsed(text, "the samples of a lap");
        }
        let told: PackedTraces = self.parsed(text, "the samples of a lap")?;
        let at_ms = self.numbers(id, MOMENTS)?;
        let mut channels = Vec::new();
        for (place, channel) in told.packed.into_iter().enumerate() {
            let values = match channel.decimals {
                None => channel.values,
                Some(decimals) => {
                    let scale = 10_f64.powi(decimals.min(DECIMALS) as i32);
                    let numbers = self.numbers(id, &sample(place))?;
                    numbers.into_iter().map(|number| unfolded(number, scale)).collect()
                }
            };
            if values.len() != at_ms.len() {
                return Err(self.damaged("the samples of a lap"));
            }
            let PackedChannel { quantity, which, unit, .. } = channel;
            channels.push(Trace { quantity, which, unit, values });
        }
        Ok(Traces { at_ms, channels })
    }

    /// Returns what every endurance lap comes to, by its number here; of `condition`'s laps only. What an older or newer
    /// version noted is worked out anew from what was recorded.
    pub(crate) fn endured(
        &self,
        condition: &str,
        values: &[&dyn rusqlite::ToSql],
    ) -> Result<HashMap<i64, Endured>, LogbookError> {
        const TASKS: &str = "SELECT id FROM task WHERE form ->> '$.kind' = 'endurance'";
        if self.one(TASKS, &[], |row| row.get::<_, u32>(0))?.is_none() {
            return Ok(HashMap::new());
        }
        let query = format!(
            "SELECT lap, endured FROM lap_detail WHERE lap IN (
                SELECT id FROM lap WHERE task IN ({TASKS}) AND id IN (SELECT id FROM lap {condition}))"
        );
        let laps = self.rows(&query, values, |row| {
            Ok((row.get::<_, i64>(0)?, row.get::<_, Option<String>>(1)?))
        })?;
        let mut all = HashMap::new();
        for (id, noted) in laps {
            let endured = match noted.filter(|text| is_current(text)) {
                Some(text) => Some(self.parsed(&text, "what an endurance lap comes to")?),
                None => self.worked_out(id)?,
            };
            all.extend(endured.map(|endured| (id, endured)));
        }
        Ok(all)
    }

    /// Returns what the lap `id` comes to, if it is an endurance lap, from all that was recorded of it.
    fn worked_out(&self, id: i64) -> Result<Option<Endured>, LogbookError> {
        let query = "SELECT t.form, v.settings, d.traces FROM lap l JOIN task t ON t.id = l.task
                     JOIN variant v ON v.id = l.variant JOIN lap_detail d ON d.lap = l.id WHERE l.id = ?1";
        let texts = |row: &Row<'_>| Ok([row.get::<_, String>(0)?, row.get(1)?, row.get(2)?]);
        let Some([task, settings, traces]) = self.one(query, &[&id], texts)? else {
            return Ok(None);
        };
        let task: Task = self.parsed(&task, "a workload's task")?;
        let settings: Settings = self.parsed(&settings, "a variant")?;
        let (repeats, frames) = (self.repeats(id)?, self.shown(id)?);
        let traces = self.traces(id, &traces)?;
        let evidence = Evidence { repeats: &repeats, frames: &frames, traces: &traces };
        Ok(Endured::of(&task, &settings, &evidence))
    }
}

/// Returns whether what was noted of an endurance lap was worked out as endurance laps are now.
fn is_current(noted: &str) -> bool {
    #[derive(Deserialize)]
    struct Noted {
        version: u32,
    }
    serde_json::from_str(noted).is_ok_and(|noted: Noted| noted.version == Endured::VERSION)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::Broken;
    use crate::tests::{begin, body, lap, open, tamper, task};
    use honest_lap_core::record::{Endurance, EnduranceRule, Framed, Kind};
    use honest_lap_core::stat::SplitMix;

    /// An endurance lap with so many samples of three channels, one of which no decimals tell exactly.
    fn hauled(samples: u64) -> LapBody {
        let mut random = SplitMix::new(5);
        let mut channel = |quantity, of: &mut dyn FnMut(&mut SplitMix) -> Option<f64>| {
            let values = (0..samples).map(|_| of(&mut random)).collect();
            Trace { quantity, which: "0".into(), unit: String::new(), values }
        };
        let clock = |random: &mut SplitMix| {
            Some((3_000_000.0 + random.below(900_000) as f64).round() / 1e3)
        };
        let heat = |random: &mut SplitMix| {
            (random.below(9) > 0).then(|| (random.below(90_000) as f64 - 10_000.0) / 1e3)
        };
        let mut channels = vec![
            channel(Quantity::CoreClock, &mut { clock }),
            channel(Quantity::Temperature, &mut { heat }),
        ];
        channels.push(channel(Quantity::Meter, &mut |random| Some(random.unit())));
        let traces = Traces { at_ms: (0..samples).map(|at| at * 100).collect(), channels };
        let repeat = |n: u64| Repeat {
            began: Nanos(n * 1_000_000_007),
            took: Nanos(999_000_000 + n * 31 % 997),
        };
        LapBody { traces, repeats: (0..300).map(repeat).collect(), ..body() }
    }

    fn night_shift() -> Task {
        let (lasts, look_every) = (Nanos::from_seconds(300), Nanos(100_000_000));
        let rule = EnduranceRule { lasts, look_every, on_battery: false, idle: false };
        let kind = Kind::Endurance(Endurance { rule, framed: Framed::default() });
        Task { kind, ..task("night-shift") }
    }

    #[test]
    fn repetitions_and_samples_come_back_whole_and_are_sealed() {
        let (_dir, mut logbook) = open();
        let session = begin(&mut logbook, "wren", "mark-1");
        let form = night_shift();
        let settings = Settings::default();
        for (samples, at) in [(70_000, 1), (1_000, 2)] {
            let body = hauled(samples);
            let lap = lap(at, ("night-shift", &form), &settings, &body);
            logbook.append_lap(&session, &lap).unwrap();
            let page = logbook.lap(&session.lap(at)).unwrap().unwrap();
            assert!(page.body.traces == body.traces && page.body.repeats == body.repeats);
            // 60 repetitions a minute, where no work is stated: a second each.
            let rate = page.head.value("settled rate").unwrap();
            assert!((rate - 60.06).abs() < 0.01, "{rate}");
        }
        let packed: u32 = logbook
            .one("SELECT count(DISTINCT series) FROM chunk WHERE lap = 1", &[], |row| row.get(0))
            .unwrap()
            .unwrap();
        assert_eq!(packed, 5, "two of repetitions, the moments, two of the three channels");
        let bytes = "SELECT sum(length(packed)) FROM chunk WHERE lap = 1 AND series = 'sample-0'";
        let bytes: u32 = logbook.one(bytes, &[], |row| row.get(0)).unwrap().unwrap();
        // A clock that is all noise, of 900,000 values: no more than its 20 bits.
        assert!(f64::from(bytes) < 2.6 * 70_000.0, "{bytes}");
        assert_eq!(logbook.verify().unwrap()[0].broken, None);
        tamper(
            &logbook,
            "UPDATE chunk SET part = 7 WHERE lap = 1 AND series = 'sample-0' AND part = 1",
        );
        let first = session.lap(1);
        assert_eq!(logbook.verify().unwrap()[0].broken, Some(Broken::Lap(first)));
    }

    #[test]
    fn a_comparison_reads_what_an_endurance_lap_comes_to_and_not_its_details() {
        let kept = std::path::Path::new(env!("CARGO_MANIFEST_DIR")).join("kept/format-7.db");
        let dir = tempfile::tempdir().unwrap();
        let path = dir.path().join("logbook.db");
        std::fs::copy(kept, &path).unwrap();
        // Format 7 has no sums: they are worked out anew, and noted from now on.
        let old = Logbook::open(&path).unwrap().endured("", &[]).unwrap();
        let (_dir, mut logbook) = open();
        let session = begin(&mut logbook, "wren", "mark-1");
        let form = night_shift();
        let (settings, body) = (Settings::default(), hauled(1_200));
        logbook.append_lap(&session, &lap(1, ("night-shift", &form), &settings, &body)).unwrap();
        let noted = logbook.endured("", &[]).unwrap();
        assert_eq!((noted.len(), noted.get(&1)), (1, old.get(&2)));
        tamper(&logbook, "UPDATE chunk SET packed = x'00'");
        assert_eq!(logbook.endured("", &[]).unwrap(), noted, "no repetition, no sample was read");
        assert_eq!(
            logbook.known_laps().unwrap().iter().next().unwrap().facts().endured.as_deref(),
            noted.get(&1)
        );
        // What another version noted is no answer.
        tamper(&logbook, "UPDATE lap_detail SET endured = json_set(endured, '$.version', 99)");
        assert!(logbook.endured("", &[]).is_err(), "it is worked out from what is broken now");
    }

    #[test]
    fn values_are_folded_about_zero_and_back() {
        for value in [None, Some(0.0), Some(-0.25), Some(17.5), Some(-40_000.125)] {
            assert_eq!(unfolded(folded(value, 1e3), 1e3), value);
        }
        assert_eq!(decimals(&vec![Some(0.5), None, Some(2.0)].into()), Some(1));
        assert_eq!(decimals(&vec![Some(1.0 / 3.0)].into()), None);
        assert_eq!(decimals(&vec![Some(1e300)].into()), None);
    }
}
