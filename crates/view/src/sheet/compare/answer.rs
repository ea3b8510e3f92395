//! What a group's verdicts say, in a sentence.

use crate::words::{listed, listed_in_short, verdict_of};
use honest_lap_core::judge::{Against, Group, HeldConstant, Row, Verdict};
use honest_lap_core::record::Measure;

/// Returns what the group's verdicts say, in a sentence; rigs of which the same is said share one.
pub fn answer(group: &Group, measure: &Measure) -> Vec<String> {
    match &group.held {
        HeldConstant::Variant(_) => {
            let said = said(group.rows.iter(), measure, |row| row.rig.clone());
            said.map(|said| format!("Against {said}.")).into_iter().collect()
        }
        HeldConstant::Rigs => {
            let mut all: Vec<(String, Vec<String>)> = Vec::new();
            for rows in group.rows.chunk_by(|a, b| a.rig == b.rig) {
                let rig = rows[0].rig.clone();
                let Some(said) = said(rows.iter(), measure, |row| row.settings.to_string()) else {
                    continue;
                };
                match all.iter_mut().find(|(known, _)| *known == said) {
                    Some((_, rigs)) => rigs.push(rig),
                    None => all.push((said, vec![rig])),
                }
            }
            let sentence = |(said, rigs): (String, Vec<String>)| {
                format!("On {}, against {said}.", listed(&rigs))
            };
            all.into_iter().map(sentence).collect()
        }
    }
}

/// Returns `heron: kestrel faster; plover and wren slower`.
fn said<'a>(
    rows: impl Iterator<Item = &'a Row> + Clone,
    measure: &Measure,
    name: impl Fn(&Row) -> String,
) -> Option<String> {
    let base = rows.clone().find(|row| row.against == Against::Baseline)?;
    let mut said: Vec<(String, Vec<String>)> = Vec::new();
    for row in rows {
        let Against::Other(difference) = &row.against else { continue };
        let verdict = match difference.verdict {
            Verdict::Refused(_) => "cannot be judged".to_owned(),
            verdict => verdict_of(measure, verdict),
        };
        match said.iter_mut().find(|(known, _)| *known == verdict) {
            Some((_, names)) => names.push(name(row)),
            None => said.push((verdict, vec![name(row)])),
        }
    }
    let clause =
        |(verdict, names): &(String, Vec<String>)| format!("{} {verdict}", listed_in_short(names));
    let clauses: Vec<String> = said.iter().map(clause).collect();
    (!clauses.is_empty()).then(|| format!("{}: {}", name(base), clauses.join("; ")))
}
