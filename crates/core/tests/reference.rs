//! Every reference case that this crate claims to support, within 1e-10 relative.
//!
//! The cases come from the file that `LAP_REFERENCE` names, or from the project's own copy. An
//! operation not built yet is listed on standard output and passed over; a wrong figure fails.

#![expect(clippy::unwrap_used, reason = "a test's helpers are test code")]

use honest_lap_core::judge::{Assumptions, Cell, SessionSpread, Verdict, across_rigs};
use honest_lap_core::stat;
use serde_json::{Map, Value, json};
use std::collections::BTreeSet;

const TOLERANCE: f64 = 1e-10;

struct Case<'a> {
    datasets: &'a Map<String, Value>,
    inputs: &'a Value,
    params: &'a Value,
}

impl Case<'_> {
    fn series(&self, name: &str) -> Vec<f64> {
        let given = &self.inputs[name];
        let list = given.as_str().map_or(given, |dataset| &self.datasets[dataset]);
        list.as_array().expect("a series").iter().map(|v| v.as_f64().expect("a number")).collect()
    }

    fn sessions(&self, name: &str) -> Vec<Vec<f64>> {
        serde_json::from_value(self.inputs[name].clone()).expect("a list of series")
    }

    fn sorted(&self, name: &str) -> Vec<f64> {
        let mut series = self.series(name);
        series.sort_by(f64::total_cmp);
        series
    }

    fn param(&self, name: &str) -> f64 {
        self.params[name].as_f64().unwrap_or_else(|| panic!("parameter {name}"))
    }
}

/// Returns what this crate makes of the case, or `None` for an operation not built yet.
fn found(op: &str, case: &Case) -> Option<Value> {
    Some(match op {
        "summary" => summary(case),
        "percentile_type7" => {
            json!({ "value": stat::quantile(&case.sorted("x"), case.param("percent") / 100.0).unwrap() })
        }
        "t_quantile" => {
            json!({ "t": stat::t_quantile(case.param("p"), case.param("df")).unwrap() })
        }
        "t_interval_log" => t_interval(case),
        "median_order_interval" => {
            let found = stat::median_interval(&case.sorted("x"), case.param("conf")).unwrap();
            json!({
                "rank_lo": found.rank_low, "rank_hi": found.rank_high,
                "lo": found.interval.low, "hi": found.interval.high, "achieved": found.achieved,
            })
        }
        "welch_log_ratio" => {
            ratio(&stat::welch(&case.series("a"), &case.series("b")).unwrap(), case.param("conf"))
        }
        "paired_log_ratio" => {
            ratio(&stat::paired(&case.series("a"), &case.series("b")).unwrap(), case.param("conf"))
        }
        "tost_log_ratio" => tost(case),
        "verdict" => verdict(case),
        "laps_needed" => laps_needed(case),
        "session_welch_log" => {
            let cell = |name| Cell::from_sessions(case.sessions(name)).unwrap();
            let (a, b) = (cell("a_sessions"), cell("b_sessions"));
            ratio(&stat::welch(&a.values(), &b.values()).unwrap(), case.param("conf"))
        }
        "single_session_floor" => {
            let said = judged(case, SessionSpread::Assumed(case.param("tau")), 0.02);
            let speed = said.interval.expect("several laps");
            // The case states time b / a; a difference states speed, time a / b.
            json!({ "ratio": 1.0 / said.speed.unwrap(), "lo": 1.0 / speed.high, "hi": 1.0 / speed.low })
        }
        _ => return None,
    })
}

fn summary(case: &Case) -> Value {
    let found = stat::summary(&case.series("x")).unwrap();
    json!({
        "n": found.n, "mean": found.mean, "sd": found.sd, "cv_percent": found.cv.map(|cv| cv * 100.0),
        "median": found.median, "geomean": found.typical, "sd_log": found.sd_log,
        "min": found.min, "max": found.max,
    })
}

fn t_interval(case: &Case) -> Value {
    let (x, conf) = (case.series("x"), case.param("conf"));
    let found = stat::typical_interval(&x, conf).unwrap();
    let half = (found.high / found.low).ln() / 2.0;
    json!({
        "geomean": stat::summary(&x).unwrap().typical, "lo": found.low, "hi": found.high,
        "half_width_percent": half.exp_m1() * 100.0,
    })
}

fn ratio(found: &stat::LogRatio, conf: f64) -> Value {
    let interval = found.interval(conf).unwrap();
    json!({
        "ratio": found.ratio(), "lo": interval.low, "hi": interval.high,
        "t": found.t(), "df": found.df, "p": found.p().unwrap(),
    })
}

fn tost(case: &Case) -> Value {
    let welch = stat::welch(&case.series("a"), &case.series("b")).unwrap();
    let found = stat::same_within(&welch, case.param("margin")).unwrap();
    let inside = welch.interval(0.9).unwrap();
    json!({
        "p_lower": found.p_lower, "p_upper": found.p_upper, "p": found.p(),
        "lo90": inside.low, "hi90": inside.high, "same": found.p() < 0.05,
    })
}

/// The difference of b against a, with laps of one session each.
fn judged(
    case: &Case,
    session_spread: SessionSpread,
    margin: f64,
) -> honest_lap_core::judge::Difference {
    let cell = |name| Cell::from_sessions(vec![case.series(name)]).unwrap();
    across_rigs(&cell("a"), &cell("b"), &Assumptions { margin, session_spread })
}

fn verdict(case: &Case) -> Value {
    let said = judged(case, SessionSpread::Assumed(0.0), case.param("margin")).verdict;
    let words = match said {
        Verdict::Faster => "b faster",
        Verdict::Slower => "a faster",
        Verdict::FasterWithin(_) => "b faster, but within margin",
        Verdict::SlowerWithin(_) => "a faster, but within margin",
        Verdict::SameWithin(_) => "same within margin",
        Verdict::TooClose => "too close to call",
        Verdict::Refused(_) => "refused",
    };
    json!({ "verdict": words })
}

fn laps_needed(case: &Case) -> Value {
    let (a, b) = (case.series("a"), case.series("b"));
    let part =
        |x: &[f64]| (stat::summary(x).unwrap().sd_log.unwrap().powi(2), (x.len() - 1) as f64);
    let ((va, dfa), (vb, dfb)) = (part(&a), part(&b));
    let pooled = ((va * dfa + vb * dfb) / (dfa + dfb)).sqrt();
    let upper =
        (dfa + dfb) / stat::chi_squared_quantile(1.0 - case.param("assurance"), dfa + dfb).unwrap();
    let need = stat::laps_needed(pooled, dfa + dfb, case.param("half_width")).unwrap();
    json!({
        "s_pooled_log": pooled, "n_plain": need.plain,
        "s_upper80": pooled * upper.sqrt(), "n_assured": need.assured,
    })
}

fn agrees(wanted: &Value, found: &Value) -> bool {
    match (wanted.as_f64(), found.as_f64()) {
        (Some(wanted), Some(found)) => {
            (wanted - found).abs() <= TOLERANCE * wanted.abs().max(f64::MIN_POSITIVE)
        }
        _ => wanted == found,
    }
}

#[test]
fn reproduces_every_case_it_claims_to() {
    let own = concat!(env!("CARGO_MANIFEST_DIR"), "/tests/reference/statistics.json");
    let path = std::env::var("LAP_REFERENCE").unwrap_or_else(|_| own.to_owned());
    let text = std::fs::read_to_string(&path).unwrap_or_else(|err| panic!("{path}: {err}"));
    let file: Value = serde_json::from_str(&text).unwrap();
    let datasets = file["datasets"].as_object().unwrap();
    let (mut checked, mut wrong, mut later) = (0, Vec::new(), BTreeSet::new());
    for entry in file["cases"].as_array().unwrap() {
        let (id, op) = (entry["id"].as_str().unwrap(), entry["op"].as_str().unwrap());
        let case = Case { datasets, inputs: &entry["inputs"], params: &entry["params"] };
        let Some(found) = found(op, &case) else {
            later.insert(op);
            continue;
        };
        for (key, wanted) in entry["expected"].as_object().unwrap() {
            checked += 1;
            if !agrees(wanted, &found[key]) {
                wrong.push(format!("{id}: {key} is {}, wanted {wanted}", found[key]));
            }
        }
    }
    println!("{checked} figures checked; operations not built yet: {later:?}");
    assert!(checked > 100, "only {checked} figures were found in {path}");
    assert!(wrong.is_empty(), "{}", wrong.join("\n"));
}
