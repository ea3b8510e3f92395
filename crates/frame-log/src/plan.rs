//! Which column is read as what. Where two readings are possible, the user is asked.

use crate::columns::{Column, Shape, columns, is_sensible, short_name};
use crate::error::LogError;
use crate::head::Head;
use crate::number::Written;
use crate::reading::reading;
use crate::words::{As, TimeUnit, Worker};

/// A column, by place or by heading.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Which {
    /// Its place, from 1.
    Place(usize),
    /// Its heading, in any case.
    Heading(String),
}

impl Which {
    /// Returns the column that `text` names: a number is a place.
    pub fn parse(text: &str) -> Self {
        match text.parse() {
            Ok(place) if place > 0 => Self::Place(place),
            _ => Self::Heading(text.trim().to_owned()),
        }
    }
}

/// What the user says of a log. Whatever is not said is found out.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Wish {
    /// The column of frame times.
    pub column: Option<Which>,
    /// Its unit.
    pub unit: Option<TimeUnit>,
    /// What its numbers are.
    pub reading: Option<As>,
    /// The column of the processor's busy times.
    pub processor: Option<Which>,
    /// The column of the graphics card's busy times.
    pub graphics: Option<Which>,
}

/// A column to be read.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) struct Pick {
    pub(crate) place: usize,
    pub(crate) unit: TimeUnit,
}

/// What is read from a log, and as what.
#[derive(Clone, Debug, PartialEq)]
pub struct Plan {
    pub(crate) shown: Pick,
    pub(crate) reading: As,
    pub(crate) processor: Option<Pick>,
    pub(crate) graphics: Option<Pick>,
    pub(crate) mark: Option<usize>,
    pub(crate) point: u8,
    /// What counts frames or time beside the frame times, and shows where a recording begins anew.
    pub(crate) witness: Option<Witness>,
    named: String,
    unit_from: UnitFrom,
}

/// A column beside the frame times that goes on as long as the recording does.
#[derive(Clone, Copy, Debug, PartialEq)]
pub(crate) struct Witness {
    pub(crate) place: usize,
    pub(crate) counts: Counts,
}

/// What it counts.
#[derive(Clone, Copy, Debug, PartialEq)]
pub(crate) enum Counts {
    /// Frames, one by one.
    Frames,
    /// Time, so many of its units to a unit of the frame times.
    Time(f64),
}

#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum UnitFrom {
    Said,
    Heading,
    Sense,
}

impl Plan {
    /// Returns whether the user said the unit.
    pub(crate) fn unit_is_said(&self) -> bool {
        self.unit_from == UnitFrom::Said
    }

    /// Returns the columns that are read: of frame times, processor, graphics, in this order.
    pub(crate) fn picks(&self) -> Vec<Pick> {
        [Some(self.shown), self.processor, self.graphics].into_iter().flatten().collect()
    }

    /// Returns the places of the columns that the pass is made of, or that show that it goes on.
    pub(crate) fn places(&self) -> Vec<usize> {
        let picks = self.picks().into_iter().map(|pick| pick.place);
        picks.chain(self.mark).chain(self.witness.map(|witness| witness.place)).collect()
    }

    pub(crate) fn written(&self, pick: Pick) -> Written {
        Written { unit_ns: pick.unit.ns(), point: self.point }
    }

    /// Returns how the log is read, in words.
    pub(crate) fn words(&self, head: &Head) -> String {
        let what = match self.reading {
            As::Durations => "durations",
            As::Moments => "moments",
        };
        let unit = self.shown.unit.name();
        let why = match self.unit_from {
            UnitFrom::Said | UnitFrom::Heading => "",
            UnitFrom::Sense => ", the only unit in which they make sense",
        };
        let mut words = format!("{}, {what} in {unit}{why}", self.named);
        let mut more = |pick: Option<Pick>, what: &str| {
            if let Some(pick) = pick {
                let heading = head.headings.get(pick.place).filter(|heading| !heading.is_empty());
                let heading = heading.map(|h| format!(" `{}`", short_name(h)));
                words += &format!(
                    "; column {}{}, {what} busy times in {}",
                    pick.place + 1,
                    heading.unwrap_or_default(),
                    pick.unit.name()
                );
            }
        };
        more(self.processor, "processor");
        more(self.graphics, "graphics");
        words
    }
}

const HOW: &str = "say which one: --column N, with --as durations or --as moments, and --unit ms";

/// Returns how `head`'s log is read.
pub(crate) fn plan(head: &Head, wish: &Wish) -> Result<Plan, LogError> {
    let columns = columns(head);
    let shown = match &wish.column {
        Some(which) => named(&columns, which)?,
        None => shown(&columns, wish.reading)?,
    };
    if shown.shape == Shape::Words {
        return Err(LogError::unreadable(
            format!("{} holds no numbers", shown.name()),
            format!("choose another: {}", listed(&columns)),
        ));
    }
    let reading = wish.reading.map_or_else(|| reading(shown), Ok)?;
    let (unit, unit_from) = unit(shown, wish.unit, reading)?;
    let worker = |which: &Option<Which>, worker: Worker| match which {
        Some(which) => named(&columns, which).map(|column| busy(column, unit)).map(Some),
        None => Ok(worked(&columns, worker, (shown, reading), unit)),
    };
    Ok(Plan {
        shown: Pick { place: shown.place, unit },
        reading,
        processor: worker(&wish.processor, Worker::Processor)?,
        graphics: worker(&wish.graphics, Worker::Graphics)?,
        mark: columns
            .iter()
            .find(|column| column.said.mark && column.shape == Shape::Words)
            .map(|column| column.place),
        point: point(head, shown, unit, reading)?,
        witness: witness(&columns, shown, reading),
        named: shown.name(),
        unit_from,
    })
}

fn named<'a>(columns: &'a [Column], which: &Which) -> Result<&'a Column, LogError> {
    let found = match which {
        Which::Place(place) => columns.get(place - 1),
        Which::Heading(wanted) => {
            let same = |column: &&Column| {
                column.heading.as_ref().is_some_and(|h| h.to_lowercase() == wanted.to_lowercase())
            };
            let mut found = columns.iter().filter(same);
            let first = found.next();
            if let (Some(_), Some(_)) = (first, found.next()) {
                return Err(LogError::asks(
                    format!("two columns are called `{wanted}`"),
                    format!("say its number instead: {}", listed(columns)),
                ));
            }
            first
        }
    };
    found.ok_or_else(|| {
        let which = match which {
            Which::Place(place) => format!("column {place}"),
            Which::Heading(heading) => format!("column `{heading}`"),
        };
        LogError::unreadable(format!("there is no {which}"), format!("it has: {}", listed(columns)))
    })
}

/// More columns are not listed.
const MOST_LISTED: usize = 12;

fn listed(columns: &[Column]) -> String {
    let mut names: Vec<String> = columns.iter().take(MOST_LISTED).map(Column::name).collect();
    if columns.len() > MOST_LISTED {
        names.push(format!("and {} more", columns.len() - MOST_LISTED));
    }
    names.join(", ")
}

/// Returns the column of frame times, where there can be but one.
fn shown(columns: &[Column], reading: Option<As>) -> Result<&Column, LogError> {
    let headed = columns.iter().any(|column| column.heading.is_some());
    let could = |column: &&Column| {
        let numbers = !matches!(column.shape, Shape::Words | Shape::Index);
        numbers && !column.said.other && column.said.worker.is_none() && !column.said.mark
    };
    let wanted = |column: &&Column| match reading {
        Some(As::Moments) => column.shape == Shape::Rising,
        Some(As::Durations) => column.shape != Shape::Rising,
        None => true,
    };
    let all: Vec<&Column> = columns.iter().filter(could).collect();
    // What the user says of the numbers chooses among several columns; of one it is believed.
    let mut candidates: Vec<&Column> = all.iter().copied().filter(wanted).collect();
    if candidates.is_empty() {
        candidates = all;
    }
    let plainest = candidates.iter().map(|column| plainness(column)).max().unwrap_or(0);
    let plain: Vec<&Column> = candidates
        .iter()
        .copied()
        .filter(|column| !headed || columns.len() == 1 || plainest == 0 || plainness(column) > 0)
        .collect();
    let of = |rising: bool| {
        let all = plain.iter().copied().filter(|column| (column.shape == Shape::Rising) == rising);
        let all: Vec<&Column> = all.collect();
        let best = all.iter().map(|column| plainness(column)).max().unwrap_or(0);
        all.into_iter().filter(|column| plainness(column) == best).collect::<Vec<_>>()
    };
    let (loose, rising) = (of(false), of(true));
    match (loose.as_slice(), rising.as_slice()) {
        ([only], []) => Ok(only),
        ([], [only]) => Ok(only),
        ([only], [moments, ..]) if plainness(only) > 1 || agree(only, moments) => Ok(only),
        // `elapsed; value`: the value is of something else.
        ([only], [moments]) if plainness(moments) > plainness(only) => Ok(moments),
        ([], []) => Err(none(columns)),
        (loose, rising) => {
            let all = || loose.iter().chain(rising);
            let names: Vec<String> = all().take(MOST_LISTED).map(|c| c.name()).collect();
            let more = match all().count() - names.len() {
                0 => String::new(),
                more => format!(", or one of {more} more"),
            };
            Err(LogError::asks(
                format!(
                    "it is not clear where its frame times are: {}{more} could be",
                    names.join(" or ")
                ),
                HOW,
            ))
        }
    }
}

/// Returns how plainly a column speaks of frames: by its heading, and by a unit in it.
fn plainness(column: &Column) -> u8 {
    column.said.shown * 2 + u8::from(column.said.unit.is_some())
}

/// Returns whether durations add up to the span of moments, in some units.
fn agree(durations: &Column, moments: &Column) -> bool {
    if moments.whole <= 0.0 {
        return false;
    }
    let ratio = durations.whole / moments.whole;
    [1e-9, 1e-6, 1e-3, 1.0, 1e3, 1e6, 1e9].iter().any(|unit| (ratio / unit - 1.0).abs() < 0.05)
}

fn none(columns: &[Column]) -> LogError {
    let rates = columns.iter().find(|column| column.said.other && column.shape == Shape::Loose);
    let problem = match rates {
        Some(column) => format!(
            "no column holds frame times; {} holds something else, and the mean of rates is no rate",
            column.name()
        ),
        None => "no column holds frame times".to_owned(),
    };
    LogError::unreadable(
        problem,
        format!("its columns are: {}; if one of them is, {HOW}", listed(columns)),
    )
}

fn unit(
    column: &Column,
    said: Option<TimeUnit>,
    reading: As,
) -> Result<(TimeUnit, UnitFrom), LogError> {
    if let Some(unit) = said {
        return Ok((unit, UnitFrom::Said));
    }
    if let Some(unit) = column.said.unit {
        return Ok((unit, UnitFrom::Heading));
    }
    if let Some(unit) = column.sensible_unit(reading) {
        return Ok((unit, UnitFrom::Sense));
    }
    let (name, about) = (column.name(), short(column.usual(reading)));
    let seen = match reading {
        As::Durations => format!("its numbers are about {about}"),
        As::Moments => format!("its moments come {about} apart"),
    };
    Err(LogError::asks(
        format!("the unit of {name} is not known: {seen}, a frame time in no unit or in several"),
        "say it: --unit s, ms, us or ns",
    ))
}

/// Returns what stands before decimals in the numbers of a log.
///
/// Where all of them may be read with thousands apart as well, `16,700`, only one of the two is a frame time: they are
/// a thousand times from each other.
fn point(head: &Head, shown: &Column, unit: TimeUnit, reading: As) -> Result<u8, LogError> {
    let usual = shown.usual(reading);
    if !head.open_point || is_sensible(usual, unit) {
        return Ok(head.point);
    }
    if is_sensible(usual * 1e3, unit) {
        return Ok(if head.point == b',' { b'.' } else { b',' });
    }
    if head.point == b'.' {
        return Ok(b'.');
    }
    Err(LogError::asks(
        format!(
            "{} may have decimals behind its commas or thousands ahead of them, and neither is a frame time in {}",
            shown.name(),
            unit.name()
        ),
        "say its unit: --unit s, ms, us or ns; or write the numbers with a decimal point",
    ))
}

/// Returns what shows where a recording of durations begins anew.
fn witness(columns: &[Column], shown: &Column, reading: As) -> Option<Witness> {
    if reading == As::Moments {
        return None;
    }
    let counts = |column: &Column| match column.shape {
        Shape::Index => Some(Counts::Frames),
        Shape::Rising if agree(shown, column) => Some(Counts::Time(column.whole / shown.whole)),
        _ => None,
    };
    let beside = columns.iter().filter(|column| column.place != shown.place);
    beside.filter_map(|c| Some(Witness { place: c.place, counts: counts(c)? })).next()
}

fn short(value: f64) -> String {
    if (0.001..1e6).contains(&value) { format!("{value:.3}") } else { format!("{value:.2e}") }
}

fn busy(column: &Column, like: TimeUnit) -> Pick {
    Pick { place: column.place, unit: column.said.unit.unwrap_or(like) }
}

/// How many times the usual frame time busy times are in the mean, at most.
const MOST_BUSY: f64 = 2.0;

/// Returns the column of a worker's busy times, where one says so. A name without a unit may be that of its use in per cent,
/// which is far more than a frame takes in the unit of its time.
fn worked(
    columns: &[Column],
    worker: Worker,
    (shown, reading): (&Column, As),
    like: TimeUnit,
) -> Option<Pick> {
    let frame = shown.usual(reading);
    let is = |column: &&Column| {
        let in_time = column.said.unit.is_some();
        column.said.worker == Some(worker)
            && !column.said.other
            && (in_time || column.usual(As::Durations) <= frame * MOST_BUSY)
            && column.place != shown.place
            && matches!(column.shape, Shape::Loose | Shape::Constant)
    };
    let mut found = columns.iter().filter(is);
    let first = found.next()?;
    // Two that say so are none: nobody asked for them.
    found.next().is_none().then(|| busy(first, like))
}
