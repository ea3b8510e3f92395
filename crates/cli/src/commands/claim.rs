//! `lap claim`: checks sentences against the laps.

use crate::args::{Cli, FormatArg, OutputArgs};
use crate::choice::ChoiceArgs;
use crate::commands::compare::margin;
use crate::ctx::Ctx;
use crate::error::{CmdError, Exit};
use crate::source::SourceArgs;
use crate::study_file::read_study;
use honest_lap_core::analysis::{Analysis, Question, Unread, analyse};
use honest_lap_core::claim::Answer;
use honest_lap_core::record::{PublishedClaim, Study};
use honest_lap_view::sheet;
use honest_lap_view::table::Role;

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
    choice: ChoiceArgs,
    #[command(flatten)]
    source: SourceArgs,
    #[command(flatten)]
    output: OutputArgs,
}

pub fn run(args: &ClaimArgs, cli: &Cli, ctx: &Ctx) -> Result<Exit, CmdError> {
    let open = read_study(cli, ctx)?;
    let study = &open.study;
    let question = Question {
        claims: claims(args, study)?,
        margin: args.margin,
        despite: args.despite.clone(),
        ..Question::default()
    };
    let (lab, _) = args.source.lab(&open, study, ctx)?;
    let lab = lab.chosen(&args.choice.choice())?;
    let analysis = analyse(&lab, &question)?;
    let Analysis { answered, unread, findings, assume, .. } = &analysis;
    for Unread { published, problem, remedy } in unread {
        ctx.ui.say_labelled(
            "error",
            Role::Failed,
            &format!("in \"{}\": {problem}", published.says),
        );
        ctx.ui.say_labelled("help", Role::Heading, remedy);
    }
    if answered.is_empty() && args.output.format != FormatArg::Json {
        return Ok(Exit::Request);
    }
    let all_hold = answered.iter().all(|answered| answered.found.answer == Answer::Holds);
    let sheet = || sheet::carrying(sheet::claims(study, answered, findings, assume), &analysis);
    ctx.ui.print_answer(&analysis, args.output.format, sheet)?;
    Ok(match (unread.is_empty(), all_hold) {
        (false, _) => Exit::Request,
        (true, true) => Exit::Done,
        (true, false) => Exit::No,
    })
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
