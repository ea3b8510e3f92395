//! One cell of the overview: a ratio, and a sign of its verdict that needs no colour.

use crate::number::{TimeUnit, decimals, fixed, significant};
use crate::table::Role;
use crate::words::{refusal_words, verdict_role};
use honest_lap_core::judge::{Against, Difference, Refusal, Row, Verdict};
use honest_lap_core::record::Measure;

/// What a verdict comes to, in a sign.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub enum Sign {
    /// It is what the others are held against.
    Baseline,
    /// There is nothing to hold it against.
    Alone,
    Better,
    /// Better, but by less than the margin.
    BetterWithin,
    Same,
    WorseWithin,
    Worse,
    TooClose,
    /// It cannot be judged.
    Refused,
}

impl Sign {
    pub fn of(verdict: Verdict) -> Self {
        match verdict {
            Verdict::Faster => Self::Better,
            Verdict::FasterWithin(_) => Self::BetterWithin,
            Verdict::SameWithin(_) => Self::Same,
            Verdict::SlowerWithin(_) => Self::WorseWithin,
            Verdict::Slower => Self::Worse,
            Verdict::TooClose => Self::TooClose,
            Verdict::Refused(_) => Self::Refused,
        }
    }

    /// Returns the sign as it is printed, one column wide; a blank where the cell says it in words.
    pub fn mark(self) -> &'static str {
        match self {
            Self::Baseline | Self::Alone | Self::Refused => " ",
            Self::Better => "▲",
            Self::BetterWithin => "△",
            Self::Same => "=",
            Self::WorseWithin => "▽",
            Self::Worse => "▼",
            Self::TooClose => "~",
        }
    }

    /// Returns what it means.
    fn words(self) -> Option<&'static str> {
        match self {
            Self::Baseline | Self::Alone | Self::Refused => None,
            Self::Better => Some("better"),
            Self::BetterWithin => Some("better within the margin"),
            Self::Same => Some("same"),
            Self::WorseWithin => Some("worse within the margin"),
            Self::Worse => Some("worse"),
            Self::TooClose => Some("too close to call"),
        }
    }
}

/// Returns what the signs of `cells` mean, each once: `▲ better, ▼ worse, ~ too close to call`.
pub fn signs_words<'a>(cells: impl Iterator<Item = &'a Stand>) -> String {
    let mut signs = Vec::new();
    let mut doubted = false;
    for cell in cells {
        signs.push(cell.sign);
        doubted |= cell.doubted;
    }
    signs.sort_unstable();
    signs.dedup();
    let meant = |sign: &Sign| Some(format!("{} {}", sign.mark(), sign.words()?));
    let mut all: Vec<String> = signs.iter().filter_map(meant).collect();
    all.extend(doubted.then(|| "? doubted".to_owned()));
    all.join(", ")
}

/// How one cell stands.
#[derive(Clone, Debug, PartialEq)]
pub struct Stand {
    /// How many times better it is than what it is held against, where that is known.
    pub ratio: Option<f64>,
    /// The ratio, the value of the baseline, or the reason why there is none.
    pub shown: String,
    pub sign: Sign,
    /// Why there is no verdict, where it cannot be judged.
    pub refused: Option<Refusal>,
    /// Whether a doubt concerns it.
    pub doubted: bool,
}

/// What any cell of a column shows beside its figure, so that all of them have a place for it.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub struct ColumnMarks {
    pub sign: bool,
    pub doubt: bool,
}

impl ColumnMarks {
    /// Returns the places that `cells` need.
    pub fn of<'a>(cells: impl Iterator<Item = &'a Stand>) -> Self {
        cells.fold(Self::default(), |places, cell| Self {
            sign: places.sign || cell.sign.mark() != " ",
            doubt: places.doubt || cell.doubted,
        })
    }

    /// Returns what stands where there is no cell.
    pub fn none(self) -> String {
        let width = usize::from(self.sign) * 2 + usize::from(self.doubt);
        format!("–{}", "\u{a0}".repeat(width))
    }
}

/// The overview shows no more digits behind the point of a ratio.
const MOST_DIGITS: usize = 2;

impl Stand {
    /// Returns how `row` stands, by a measure; `None` where it has no lap and nobody expects one.
    pub(super) fn of_row(row: &Row, measure: &Measure, doubted: bool) -> Option<Self> {
        let cell = |sign, shown| Some(Self { ratio: None, shown, sign, refused: None, doubted });
        let refused = |why, shown| {
            Some(Self { ratio: None, shown, sign: Sign::Refused, refused: Some(why), doubted })
        };
        if row.unsupported.is_some() {
            return refused(Refusal::Unsupported, "unable".to_owned());
        }
        let value = || {
            let value = row.cell.as_ref().map(|cell| cell.typical());
            let value = value.or_else(|| row.plain.as_ref().map(|plain| plain.mean()));
            value.map(|value| value_words(value, measure))
        };
        match &row.against {
            Against::Baseline => cell(Sign::Baseline, value()?),
            Against::Alone => cell(Sign::Alone, value()?),
            Against::Other(difference) => match difference.verdict {
                Verdict::Refused(why) => {
                    let shown = match (why, value()) {
                        (Refusal::NeverRun, None) => return None,
                        // What was measured is worth more than that it is one lap: the doubts say so.
                        (Refusal::FewLaps(_), Some(value)) => value,
                        _ => short_refusal(why),
                    };
                    refused(why, shown)
                }
                // Values without a ratio stand for themselves.
                _ if difference.speed.is_none() => {
                    cell(Sign::of(difference.verdict), value().unwrap_or_else(|| "–".to_owned()))
                }
                _ => Some(Self { doubted, ..Self::of_difference(difference) }),
            },
        }
    }

    /// Returns how something stands by its difference alone.
    pub(super) fn of_difference(difference: &Difference) -> Self {
        let ratio = |ratio| format!("{}×", fixed(ratio, digits(difference)));
        let shown = difference.speed.map_or_else(|| "–".to_owned(), ratio);
        let sign = Sign::of(difference.verdict);
        Self { ratio: difference.speed, shown, sign, refused: None, doubted: false }
    }

    /// Returns what stands in a table: the ratio, its sign, and whether it is doubted, in as many places as its column has.
    pub fn text(&self, places: ColumnMarks) -> String {
        let sign = match (places.sign, self.sign.mark()) {
            (false, _) => String::new(),
            (true, mark) => format!("\u{a0}{mark}").replace(' ', "\u{a0}"),
        };
        let doubt = match (places.doubt, self.doubted) {
            (false, _) => "",
            (true, true) => "?",
            (true, false) => "\u{a0}",
        };
        format!("{}{sign}{doubt}", self.shown)
    }

    /// Returns the role in which it is shown.
    pub fn role(&self) -> Role {
        match self.sign {
            Sign::Baseline | Sign::Alone => Role::Quiet,
            Sign::Better | Sign::BetterWithin => verdict_role(Verdict::Faster),
            Sign::Same => Role::Plain,
            Sign::Worse | Sign::WorseWithin => verdict_role(Verdict::Slower),
            Sign::TooClose | Sign::Refused => verdict_role(Verdict::TooClose),
        }
    }
}

fn digits(difference: &Difference) -> usize {
    let spread = difference.interval.map(|interval| (interval.high - interval.low) / 2.0);
    spread.and_then(decimals).unwrap_or(MOST_DIGITS).clamp(1, MOST_DIGITS)
}

/// Returns a value to three figures, with its unit where that is short: an overview is not where a fourth is read.
fn value_words(value: f64, measure: &Measure) -> String {
    if measure.is_time() {
        let unit = TimeUnit::of(value);
        return format!("{} {}", significant(unit.value(value), 3), unit.symbol);
    }
    let text = significant(value, 3);
    let text = match text.contains('.') {
        true => text.trim_end_matches('0').trim_end_matches('.'),
        false => &text,
    };
    let short = !measure.unit.is_empty() && measure.unit.len() <= SHORT_UNIT;
    if short { format!("{text} {}", measure.unit) } else { text.to_owned() }
}

/// A unit that a cell has room for.
const SHORT_UNIT: usize = 4;

/// Returns why there is no verdict, in a word or two.
fn short_refusal(why: Refusal) -> String {
    match why {
        Refusal::Unsupported => "unable".to_owned(),
        Refusal::NotComparable => "differs".to_owned(),
        Refusal::NoLaps
        | Refusal::Failed
        | Refusal::NeverRun
        | Refusal::FewLaps(_)
        | Refusal::NoRatio => refusal_words(why),
    }
}
