//! Every reference case that this crate claims to support, within 1e-10 relative.
//!
//! The cases come from the file that `LAP_REFERENCE` names, or from the project's own copy. An
//! operation not built yet is listed on standard output and passed over; a wrong figure fails.
//!
//! Runs in under a second.

#![expect(clippy::unwrap_used, reason = "a test's helpers are test code")]

use honest_lap_core::estimate::Estimate;
use honest_lap_core::frame;
use honest_lap_core::judge::{self, Cell, Verdict};
use honest_lap_core::stat::{self, StatError};
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
fn found(op: &str, case: &Case) -> Option<Result<Value, StatError>> {
    Some(match op {
        "summary" => summary(case),
        "percentile_type7" => stat::quantile(&case.sorted("x"), case.param("percent") / 100.0)
            .map(|value| json!({ "value": value })),
        "t_quantile" => {
            stat::t_quantile(case.param("p"), case.param("df")).map(|t| json!({ "t": t }))
        }
        "t_interval_log" => t_interval(case),
        "median_order_interval" => median_interval(case),
        "welch_log_ratio" => {
            ratio(stat::welch(&case.series("a"), &case.series("b")), case.param("conf"))
        }
        "paired_log_ratio" => {
            ratio(stat::paired(&case.series("a"), &case.series("b")), case.param("conf"))
        }
        "tost_log_ratio" => tost(case),
        "verdict" => verdict(case),
        "laps_needed" => laps_needed(case),
        "session_welch_log" => sessions(case),
        "single_session_floor" => floor(case),
        "mad_z_log" => modified_z(case),
        "odd_lap_flags" => {
            let (threshold, least) = (case.param("threshold"), case.param("min_deviation_percent"));
            stat::odd_laps(&case.series("x"), threshold, least / 100.0)
                .map(|flags| json!({ "flags": flags }))
        }
        "leave_one_out_t" => left_out(case),
        "mann_kendall" => kendall(case),
        "mann_kendall_ties" => stat::trend(&case.series("x")).map(|found| {
            let variance = found.variance.expect("tied values");
            json!({
                "S": found.s, "var": variance, "p_normal": found.p,
                "z": stat::continuity_z(found.s, variance),
            })
        }),
        "average_fps" => Ok(average_fps(case)),
        "frame_lows" => frame_lows(case),
        "time_weighted_percentile" => {
            frame::time_weighted(&case.sorted("ms"), case.param("slow_time_share"))
                .map(|slowest| json!({ "ms": slowest.threshold, "frames": slowest.frames }))
        }
        "yuen20_log_ratio" => ratio_without_t(
            stat::trimmed_ratio(&case.series("a"), &case.series("b"), case.param("trim")),
            case.param("conf"),
        ),
        "hodges_lehmann_ratio" => shift(case),
        "holm" => Ok(json!({ "adjusted": stat::holm(&case.series("p")) })),
        "rank_ranges" => ranks(case),
        "weighted_geo_index" | "weighted_geo_index_interval" => index(case),
        _ => return None,
    })
}

fn ratio_without_t(
    found: Result<stat::LogRatio, StatError>,
    conf: f64,
) -> Result<Value, StatError> {
    let mut all = ratio(found, conf)?;
    all.as_object_mut().expect("an object").remove("t");
    Ok(all)
}

fn shift(case: &Case) -> Result<Value, StatError> {
    let found = stat::shift_ratio(&case.series("a"), &case.series("b"), case.param("conf"))?;
    Ok(json!({
        "ratio": found.ratio, "k": found.k, "lo": found.interval.map(|interval| interval.low),
        "hi": found.interval.map(|interval| interval.high), "U": found.u, "p_exact": found.p,
        "achieved": found.achieved,
    }))
}

fn ranks(case: &Case) -> Result<Value, StatError> {
    let names: Vec<&str> =
        case.inputs["machines"].as_array().unwrap().iter().filter_map(Value::as_str).collect();
    let series = |name: &&str| -> Vec<f64> {
        serde_json::from_value(case.datasets[*name].clone()).expect("a series")
    };
    let all: Vec<Vec<f64>> = names.iter().map(series).collect();
    let logs = all.iter().map(|values| stat::logs(values)).collect::<Result<Vec<_>, _>>()?;
    let squares =
        |logs: &Vec<f64>| Ok((logs.len() - 1) as f64 * stat::standard_deviation(logs)?.powi(2));
    let freedom: f64 = logs.iter().map(|logs| (logs.len() - 1) as f64).sum();
    let pooled: f64 = logs.iter().map(squares).sum::<Result<f64, StatError>>()? / freedom;
    let (mut pairs, mut welch, mut by_pool) = (Vec::new(), Vec::new(), Vec::new());
    // The case asks for the less sure of two tests; the tool itself judges a pair by its one estimate.
    let mut estimates = Vec::new();
    for a in 0..all.len() {
        for b in a + 1..all.len() {
            pairs.push([a + 1, b + 1]);
            let own = stat::welch(&all[a], &all[b])?;
            welch.push(own.p()?);
            let share = 1.0 / all[a].len() as f64 + 1.0 / all[b].len() as f64;
            let of_all = Estimate { log: own.log, variance: pooled * share, degrees: freedom };
            by_pool.push(of_all.p()?);
            let own = Estimate { log: own.log, variance: own.se.powi(2), degrees: own.df };
            estimates.push(if own.p()? > of_all.p()? { own } else { of_all });
        }
    }
    let larger: Vec<f64> = welch.iter().zip(&by_pool).map(|(a, b)| a.max(*b)).collect();
    let apart = judge::told_apart(all.len(), &estimates, case.param("alpha"))?;
    let ranks = judge::ranks(all.len(), &apart);
    Ok(json!({
        "pairs": pairs,
        "p_welch": welch,
        "p_pooled": by_pool,
        "p_adjusted": stat::holm(&larger),
        "rank_lo": ranks.iter().map(|places| places.best).collect::<Vec<_>>(),
        "rank_hi": ranks.iter().map(|places| places.worst).collect::<Vec<_>>(),
    }))
}

fn index(case: &Case) -> Result<Value, StatError> {
    let weights: Vec<f64> = serde_json::from_value(case.params["weights"].clone()).unwrap();
    let Some(pairs) = case.inputs["pairs"].as_array() else {
        let ratios = case.series("ratios");
        let part = |(ratio, weight): (&f64, &f64)| stat::Part {
            weight: *weight,
            log: ratio.ln(),
            cells: Vec::new(),
        };
        let parts: Vec<stat::Part> = ratios.iter().zip(&weights).map(part).collect();
        return Ok(json!({ "index": stat::index(&parts)?.ratio() }));
    };
    let mut parts = Vec::new();
    for (pair, weight) in pairs.iter().zip(&weights) {
        let series = |place: usize| -> Vec<f64> {
            let name = pair[place].as_str().expect("a dataset");
            serde_json::from_value(case.datasets[name].clone()).expect("a series")
        };
        let (a, b) = (stat::logs(&series(0))?, stat::logs(&series(1))?);
        let cell = |logs: &[f64]| -> Result<stat::CellError, StatError> {
            let n = logs.len() as f64;
            let variance = stat::standard_deviation(logs)?.powi(2) / n;
            Ok(stat::CellError { variance, freedom: n - 1.0 })
        };
        let log = stat::mean(&b)? - stat::mean(&a)?;
        parts.push(stat::Part { weight: *weight, log, cells: vec![cell(&a)?, cell(&b)?] });
    }
    let found = stat::index(&parts)?;
    let interval = found.interval(case.param("conf"))?;
    Ok(json!({
        "index": found.ratio(), "se_log": found.se, "df": found.df, "lo": interval.low,
        "hi": interval.high,
    }))
}

fn average_fps(case: &Case) -> Value {
    let ms = case.series("ms");
    let frames: Vec<u64> = ms.iter().map(|ms| (ms * 1e6).round() as u64).collect();
    let rate = frame::average_rate(&frames);
    // What the tool never prints; worked out here to show by how much it would mislead.
    let mean = ms.iter().map(|ms| 1e3 / ms).sum::<f64>() / ms.len() as f64;
    json!({
        "frames_over_time": rate, "mean_instantaneous": mean,
        "bias_percent": (mean / rate - 1.0) * 100.0,
    })
}

fn frame_lows(case: &Case) -> Result<Value, StatError> {
    let (ms, p) = (case.sorted("ms"), case.param("p"));
    let slowest = frame::slowest(&ms, p)?;
    let by_time = frame::time_weighted(&ms, p)?;
    Ok(json!({
        "n": ms.len(), "low_percentile": frame::low_percentile(&ms, p)? * 1e3,
        "tail_frames": slowest.frames, "low_mean_slowest": slowest.rate * 1e3,
        "tw_frames": by_time.frames, "tw_threshold_ms": by_time.threshold,
        "tw_threshold_fps": 1e3 / by_time.threshold, "low_time_share": by_time.rate * 1e3,
    }))
}

fn summary(case: &Case) -> Result<Value, StatError> {
    let found = stat::summary(&case.series("x"))?;
    Ok(json!({
        "n": found.n, "mean": found.mean, "sd": found.sd, "cv_percent": found.cv.map(|cv| cv * 100.0),
        "median": found.median, "geomean": found.typical, "sd_log": found.sd_log,
        "min": found.min, "max": found.max,
    }))
}

fn modified_z(case: &Case) -> Result<Value, StatError> {
    let found = stat::modified_z(&case.series("x"))?;
    let most = found.z.as_ref().and_then(|z| {
        let sizes = z.iter().map(|z| z.abs()).enumerate();
        sizes.max_by(|a, b| a.1.total_cmp(&b.1))
    });
    Ok(json!({
        "median_log": found.median_log, "mad_log": found.mad_log, "z": found.z,
        "max_abs_z": most.map(|(_, size)| size), "argmax": most.map(|(place, _)| place),
    }))
}

fn kendall(case: &Case) -> Result<Value, StatError> {
    let x = case.series("x");
    let (found, slope) = (stat::trend(&x)?, stat::slope(&x)?);
    let pairs = (x.len() * (x.len() - 1) / 2) as f64;
    Ok(json!({
        "S": found.s, "tau": found.s as f64 / pairs, "p_exact": found.p,
        "theil_sen_log_per_lap": slope.slope_log,
        "drift_first_to_last_percent": slope.first_to_last * 100.0,
    }))
}

fn left_out(case: &Case) -> Result<Value, StatError> {
    let found = stat::left_out(&case.series("x"), case.param("index") as usize)?;
    Ok(json!({
        "t": found.t, "df": found.df, "p_one_sided": found.p_slower,
        "critical_any_lap_5pct": stat::left_out_critical(case.series("x").len())?, "excess_percent": found.excess * 100.0,
    }))
}

fn t_interval(case: &Case) -> Result<Value, StatError> {
    let (x, conf) = (case.series("x"), case.param("conf"));
    let found = stat::typical_interval(&x, conf)?;
    let half = (found.high / found.low).ln() / 2.0;
    Ok(json!({
        "geomean": stat::summary(&x)?.typical, "lo": found.low, "hi": found.high,
        "half_width_percent": half.exp_m1() * 100.0,
    }))
}

fn median_interval(case: &Case) -> Result<Value, StatError> {
    let found = stat::median_interval(&case.sorted("x"), case.param("conf"))?;
    Ok(json!({
        "rank_lo": found.rank_low, "rank_hi": found.rank_high,
        "lo": found.interval.low, "hi": found.interval.high, "achieved": found.achieved,
    }))
}

fn ratio(found: Result<stat::LogRatio, StatError>, conf: f64) -> Result<Value, StatError> {
    let found = found?;
    let interval = found.interval(conf)?;
    Ok(json!({
        "ratio": found.ratio(), "lo": interval.low, "hi": interval.high,
        "t": found.t(), "df": found.df, "p": found.p()?,
    }))
}

fn tost(case: &Case) -> Result<Value, StatError> {
    let welch = stat::welch(&case.series("a"), &case.series("b"))?;
    let found = stat::same_within(&welch, case.param("margin"))?;
    let inside = welch.interval(0.9)?;
    Ok(json!({
        "p_lower": found.p_lower, "p_upper": found.p_upper, "p": found.p(),
        "lo90": inside.low, "hi90": inside.high, "same": found.p() < 0.05,
    }))
}

fn sessions(case: &Case) -> Result<Value, StatError> {
    let typical = |name: &str| -> Result<Vec<f64>, StatError> {
        case.sessions(name).iter().map(|laps| Ok(stat::summary(laps)?.typical)).collect()
    };
    let (a, b) = (typical("a_sessions")?, typical("b_sessions")?);
    // What a cell makes of its sessions is the same.
    for (name, values) in [("a_sessions", &a), ("b_sessions", &b)] {
        let cell = Cell::from_sessions(case.sessions(name))?;
        assert!(cell.sessions() < 2 || cell.values() == *values, "{name}");
    }
    ratio(stat::welch(&a, &b), case.param("conf"))
}

/// The ratio b / a with a between-session variance that is given and not estimated, added to both sides.
fn floor(case: &Case) -> Result<Value, StatError> {
    let own = stat::welch(&case.series("a"), &case.series("b"))?;
    // The case adds half-widths, not variances: h² = (t·se)² + 2·(z·τ)².
    let given = Estimate::of_parts(0.0, []).widened(2.0 * case.param("tau").powi(2));
    let half = own.half_width(0.95)?.hypot(given.half_width(0.95)?);
    Ok(json!({ "ratio": own.ratio(), "lo": (own.log - half).exp(), "hi": (own.log + half).exp() }))
}

fn verdict(case: &Case) -> Result<Value, StatError> {
    let own = stat::welch(&case.series("a"), &case.series("b"))?;
    let ratio = Estimate { log: own.log, variance: own.se.powi(2), degrees: own.df };
    let said = judge::verdict(&ratio, case.param("margin"), 0.05)?;
    let words = match said {
        Verdict::Faster => "b faster",
        Verdict::Slower => "a faster",
        Verdict::FasterWithin(_) => "b faster, but within margin",
        Verdict::SlowerWithin(_) => "a faster, but within margin",
        Verdict::SameWithin(_) => "same within margin",
        Verdict::TooClose => "too close to call",
        Verdict::Refused(_) => "refused",
    };
    Ok(json!({ "verdict": words }))
}

fn laps_needed(case: &Case) -> Result<Value, StatError> {
    let part = |name: &str| {
        let x = case.series(name);
        let sd = stat::summary(&x)?.sd_log;
        let sd = sd.ok_or(StatError::TooFew { needed: 2, found: x.len() })?;
        Ok((sd.powi(2), (x.len() - 1) as f64))
    };
    let ((va, dfa), (vb, dfb)) = (part("a")?, part("b")?);
    let pooled = ((va * dfa + vb * dfb) / (dfa + dfb)).sqrt();
    let below = stat::chi_squared_quantile(1.0 - case.param("assurance"), dfa + dfb)?;
    let need = stat::laps_needed(pooled, dfa + dfb, case.param("half_width"))?;
    Ok(json!({
        "s_pooled_log": pooled, "n_plain": need.plain,
        "s_upper80": pooled * ((dfa + dfb) / below).sqrt(), "n_assured": need.assured,
    }))
}

fn agrees(wanted: &Value, found: &Value) -> bool {
    match (wanted.as_f64(), found.as_f64()) {
        (Some(0.0), Some(found)) => found == 0.0,
        (Some(wanted), Some(found)) => {
            (wanted - found).abs() <= TOLERANCE * wanted.abs().max(f64::MIN_POSITIVE)
        }
        _ => match (wanted.as_array(), found.as_array()) {
            (Some(wanted), Some(found)) => {
                wanted.len() == found.len() && wanted.iter().zip(found).all(|(w, f)| agrees(w, f))
            }
            _ => wanted == found,
        },
    }
}

#[test]
fn reproduces_every_case_it_claims_to() {
    let own = concat!(env!("CARGO_MANIFEST_DIR"), "/tests/judgement/reference/statistics.json");
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
        // What is refused has no figures: every one of them must be wanted as null.
        let found = found.unwrap_or(Value::Null);
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
