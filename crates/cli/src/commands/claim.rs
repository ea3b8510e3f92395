//! `lap claim`: checks sentences against the laps.

use crate::args::{Cli, OutputArgs};
use crate::commands::compare::margin;
use crate::ctx::Ctx;
use crate::error::{CmdError, Exit};
use crate::lab::{Asked, Judged, Lab, weighing};
use crate::study_file::read_study;
use honest_lap_core::claim::{Answer, Names, Stand, check, parse};
use honest_lap_core::record::{PublishedClaim, Study};
use honest_lap_logbook::Logbook;
use honest_lap_view::sheet;
use std::collections::BTreeSet;

/// Check a sentence against the laps: it holds, it does not, or it cannot be said
#[derive(clap::Args, Debug)]
#[command(
    after_help = "Examples:\n  lap claim \"heron is at least 20% faster than wren on reel-export\"\n  \
                        lap claim \"plover and kestrel are the same within 2% on every task\"\n  \
                        lap claim \"low 1% of kestrel in fly-through is above 60\"\n  \
                        lap claim \"dunlin uses at most half the energy of heron overall\"\n  \
                        lap claim \"heron takes at most 90 s on catalogue-build\"    a gate in CI\n  \
                        lap claim                              every [[claim]] of the study\n\n\
                        Exit status: 0 all of it holds; 1 something does not, or cannot be said.\n\
                        docs/claims.md describes the sentences"
)]
pub struct ClaimArgs {
    /// Sentences in quotes; those of the study if left out
    #[arg(value_name = "SENTENCE")]
    sentences: Vec<String>,
    /// How close counts as the same, such as 1% [default: the study's]
    #[arg(long, value_name = "SHARE", value_parser = margin)]
    margin: Option<f64>,
    /// Compare what is not comparable anyway; the reason is carried into the output
    #[arg(long, value_name = "WHY")]
    despite: Option<String>,
    #[command(flatten)]
    output: OutputArgs,
}

pub fn run(args: &ClaimArgs, cli: &Cli, ctx: &Ctx) -> Result<Exit, CmdError> {
    let open = read_study(cli, ctx)?;
    let study = &open.study;
    let claims = claims(args, study)?;
    let logbook = Logbook::open(&open.logbook())?;
    let mut lab = Lab::read(study, &logbook, ctx)?;
    // Doubts do not depend on the measure that a claim is about.
    let asked = Asked { margin: args.margin, despite: args.despite.clone(), ..Asked::default() };
    let (answered, judged) = answered(claims, study, &mut lab, &asked)?;
    let all_hold = answered.iter().all(|answered| answered.found.answer == Answer::Holds);
    let sheet = sheet::claims(study, &answered, &judged.doubts, &judged.assume);
    ctx.ui.print(&sheet::carrying(sheet, args.despite.as_deref()), args.output.format)?;
    Ok(if all_hold { Exit::Done } else { Exit::No })
}

/// Returns each of `claims` with its answer, and what the laps come to.
pub fn answered(
    claims: Vec<PublishedClaim>,
    study: &Study,
    lab: &mut Lab,
    asked: &Asked,
) -> Result<(Vec<sheet::Answered>, Judged), CmdError> {
    let names = |all: BTreeSet<&str>| all.into_iter().map(str::to_owned).collect();
    let rigs = lab.laps.iter().map(|lap| lap.name.session.rig.as_str()).collect();
    let workloads = lab.laps.iter().map(|lap| lap.workload.as_str()).collect();
    let known = Names { rigs: names(rigs), workloads: names(workloads), measures: lab.measures() };
    let mut understood = Vec::new();
    for claim in &claims {
        let parsed = parse(&claim.says, &known).map_err(|err| not_a_claim(&claim.says, err))?;
        understood.push(parsed);
    }
    let measures: Vec<String> = understood.iter().filter_map(|c| c.measure.clone()).collect();
    lab.add_energy(&measures);
    let judged = lab.judged(asked, study);
    let mut answered = Vec::new();
    for (published, claim) in claims.into_iter().zip(understood) {
        let asked = Asked { measures: claim.measure.iter().cloned().collect(), ..asked.clone() };
        let ask = lab.ask(&asked, study);
        let tables = honest_lap_core::judge::tables(&lab.laps, &ask);
        let weighing = weighing(study, &ask, judged.assume);
        let stand =
            Stand { tables: &tables, ask: &ask, assume: judged.assume, weighing: &weighing };
        let found = check(&claim, &stand).map_err(|err| not_a_claim(&published.says, err))?;
        answered.push(sheet::Answered { published, claim, found });
    }
    Ok((answered, judged))
}

/// Returns the sentences to check: those given, which may have come without quotes, or the study's.
fn claims(args: &ClaimArgs, study: &Study) -> Result<Vec<PublishedClaim>, CmdError> {
    let said = |says: String| PublishedClaim { says, who: None };
    let words = args.sentences.iter().all(|text| !text.contains(char::is_whitespace));
    let claims: Vec<PublishedClaim> = match args.sentences.as_slice() {
        [] => study.claims.clone(),
        sentences if words && sentences.len() > 1 => vec![said(sentences.join(" "))],
        sentences => sentences.iter().cloned().map(said).collect(),
    };
    if claims.is_empty() {
        return Err(CmdError::request(
            "there is no sentence to check",
            "give one in quotes (lap claim --help has some), or keep them in study.toml as [[claim]]",
        ));
    }
    Ok(claims)
}

fn not_a_claim(sentence: &str, err: honest_lap_core::claim::ClaimError) -> CmdError {
    CmdError::request(format!("in \"{sentence}\": {}", err.problem), err.remedy)
}
