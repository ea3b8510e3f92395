//! What is recorded of a table: what is not on record yet, once what differs and what looks slipped is agreed.

use super::{EnterArgs, place};
use crate::by_hand::{HandLap, HandSession};
use crate::ctx::Ctx;
use crate::error::{CmdError, Exit};
use crate::study_file::OpenStudy;
use crate::working::Working;
use honest_lap_core::entry::{
    Change, Entry, NewRig, Recorded, Sheet, Slip, Slipped, Sorted, slips, sorted,
};
use honest_lap_core::record::{
    LapHead, LapName, Origin, Outcome, Remark, RemarkKind, SECONDS, SessionAbout, SessionName,
    SessionRecord, Subject,
};
use honest_lap_core::unit::Date;
use honest_lap_logbook::Logbook;
use honest_lap_view::table::Role;
use honest_lap_view::words::{count, lap_of, measured};
use std::collections::{BTreeMap, BTreeSet, HashMap};

/// Changes and slips that are told one by one; more of them are counted.
const MOST_TOLD: usize = 8;
/// Sessions that are told one by one.
const MOST_SESSIONS: usize = 30;

/// What would become of a table.
struct Taking {
    sorted: Sorted,
    /// Recorded laps that give way where laps are superseded, each with the place of what comes for it: new laps are
    /// counted first, then changed ones.
    older: Vec<(usize, LapName)>,
    /// What lies far off its neighbours.
    slipped: Vec<Slip>,
}

/// Records what of `sheet` is not on record: a session for every rig and day.
pub(super) fn take_in(
    sheet: Sheet,
    existing: Option<Logbook>,
    args: &EnterArgs,
    open: &OpenStudy,
    ctx: &Ctx,
) -> Result<Exit, CmdError> {
    let new_rigs = sheet.new_rigs.clone();
    let taking = taking(sheet, existing.as_ref(), args, ctx)?;
    drop(existing);
    if args.preview {
        return Ok(previewed(&taking, &new_rigs, args, ctx));
    }
    let Taking { sorted: Sorted { new, changed, known }, older, slipped } = taking;
    let known_words = format!("{} on record already", count(known, "value"));
    if new.is_empty() && changed.is_empty() {
        ctx.ui.say(Role::Plain, &format!("nothing new: {known_words}"));
        if args.table.is_none() && known > 0 {
            ctx.ui.say(Role::Quiet, "a further lap that came out alike is recorded with --further");
        }
        return Ok(Exit::Done);
    }
    let Some(supersedes) = agreed_to(&changed, args, ctx)? else { return Ok(Exit::No) };
    if !slipped.is_empty() && !args.sure && !confirmed(&slipped, args, ctx)? {
        return Ok(Exit::No);
    }
    let entries: Vec<Entry> =
        new.into_iter().chain(changed.iter().map(|change| change.entry.clone())).collect();
    let names = write(&entries, args, open, ctx)?;
    if supersedes {
        set_aside(older.iter().map(|(at, lap)| (lap, &names[*at])), open, ctx)?;
    }
    if known > 0 {
        ctx.ui.say(Role::Plain, &known_words);
    }
    ctx.ui.say(Role::Quiet, "next: lap compare");
    Ok(Exit::Done)
}

/// Says what would be recorded and asked; the answer is no where something would be asked.
fn previewed(taking: &Taking, new_rigs: &[NewRig], args: &EnterArgs, ctx: &Ctx) -> Exit {
    let Taking { sorted: Sorted { new, changed, known }, slipped, .. } = taking;
    changed.iter().take(MOST_TOLD).for_each(|one| ask(&differs(one, args), ctx));
    slipped.iter().take(MOST_TOLD).for_each(|one| ask(&slips_words(one, args), ctx));
    let mut parts = vec![count(new.len(), "new lap"), count(changed.len(), "changed lap")];
    parts.push(format!("{} on record already", count(*known, "value")));
    if !new_rigs.is_empty() {
        let names: Vec<&str> = new_rigs.iter().map(|rig| rig.name.as_str()).collect();
        parts.push(format!("{}: {}", count(names.len(), "new rig"), names.join(", ")));
    }
    ctx.ui.say(Role::Plain, &format!("preview, nothing was recorded: {}", parts.join(", ")));
    let rigs = new_rigs.is_empty() || args.new_rig;
    let changes = changed.is_empty() || args.supersede;
    match rigs && changes && (slipped.is_empty() || args.sure) {
        true => Exit::Done,
        false => Exit::No,
    }
}

/// Holds a table against what is on record.
fn taking(
    sheet: Sheet,
    existing: Option<&Logbook>,
    args: &EnterArgs,
    ctx: &Ctx,
) -> Result<Taking, CmdError> {
    let (laps, records) = match existing {
        Some(logbook) => (logbook.laps()?, logbook.records()?),
        None => (Vec::new(), Vec::new()),
    };
    let days = typed_on(&records);
    let typed =
        laps.iter().filter_map(|lap| Some(Recorded { lap, on: *days.get(&lap.name.session)? }));
    let recorded: Vec<Recorded<'_>> = typed.collect();
    let sort = |entries, recorded: &[Recorded<'_>], undated| match args.further {
        true => Sorted { new: entries, ..Sorted::default() },
        false => sorted(entries, recorded, undated),
    };
    let (sorted, older) = match args.table {
        Some(_) => {
            // A sheet without days is the same sheet on any day.
            let sorted = sort(sheet.entries, &recorded, None);
            let changed = sorted.new.len()..;
            let older = changed.zip(&sorted.changed).map(|(at, change)| (at, change.lap.clone()));
            let older = older.collect();
            (sorted, older)
        }
        None if args.supersede => {
            let older = retested(&sheet.entries, &recorded);
            (Sorted { new: sheet.entries, ..Sorted::default() }, older)
        }
        None => {
            // What is typed now is of today, and another value a further lap.
            let mut sorted = sort(sheet.entries, &recorded, Some(ctx.today()));
            sorted.new.extend(sorted.changed.drain(..).map(|change| change.entry));
            (sorted, Vec::new())
        }
    };
    let changed = sorted.changed.iter().map(|change| &change.entry);
    let entries: Vec<Entry> = sorted.new.iter().chain(changed).cloned().collect();
    // What gives way to a lap is no neighbour of it.
    let corrected: BTreeSet<&LapName> = older.iter().map(|(_, lap)| lap).collect();
    let standing: Vec<LapHead> =
        laps.iter().filter(|lap| !corrected.contains(&lap.name)).cloned().collect();
    let slipped = slips(&entries, &standing);
    Ok(Taking { sorted, older, slipped })
}

/// Returns the laps that a retest takes the place of: all that were typed of its cells and still count, of any day.
fn retested(entries: &[Entry], recorded: &[Recorded<'_>]) -> Vec<(usize, LapName)> {
    let gives_way = |one: &Recorded<'_>| {
        let lap = one.lap;
        let at = entries.iter().position(|entry| {
            let cell = (&lap.name.session.rig, &lap.workload, &lap.settings);
            let failed = entry.failed.is_some() || lap.outcome == Outcome::Failed;
            // Another measure of the same cell is no retest of this one.
            let alike = || entry.values().any(|(name, _)| lap.yielded(name).is_some());
            (&entry.rig, &entry.workload, &entry.settings) == cell && (failed || alike())
        })?;
        lap.set_aside.is_none().then(|| (at, lap.name.clone()))
    };
    recorded.iter().filter_map(gives_way).collect()
}

fn ask(question: &str, ctx: &Ctx) {
    ctx.ui.say_labelled("question", Role::Open, question);
}

/// Returns the day of every session that was typed in, by its name.
fn typed_on(records: &[SessionRecord]) -> HashMap<SessionName, Date> {
    let typed = records.iter().filter(|record| record.about.origin == Origin::Entered);
    typed.filter_map(|record| Some((record.name.clone(), record.day()?))).collect()
}

/// Returns what a table says otherwise than the logbook.
fn differs(change: &Change, args: &EnterArgs) -> String {
    let Change { entry, lap, measure, was, is } = change;
    let reading = entry.readings.iter().find(|reading| reading.name == *measure);
    let unit = reading.map_or(SECONDS, |reading| reading.unit.as_str());
    let what = lap_of(&entry.workload, &entry.settings);
    format!(
        "{}: {what}, {measure} on {} is {}, and {lap} has {}",
        place(args, entry.place),
        entry.rig,
        measured(*is, unit),
        measured(*was, unit)
    )
}

/// Returns whether what is on record otherwise is superseded, or these are further laps; nothing where neither is wanted.
fn agreed_to(changed: &[Change], args: &EnterArgs, ctx: &Ctx) -> Result<Option<bool>, CmdError> {
    if changed.is_empty() || args.supersede {
        return Ok(Some(args.supersede));
    }
    changed.iter().take(MOST_TOLD).for_each(|change| ask(&differs(change, args), ctx));
    if changed.len() > MOST_TOLD {
        ctx.ui.say(Role::Open, &format!("and {} more", changed.len() - MOST_TOLD));
    }
    let agreed = |question| ctx.ui.agreed(question).map_err(|err| CmdError::output(&err));
    let many = count(changed.len(), "lap");
    let Some(supersede) = agreed("set the recorded laps aside, which stay on record?")? else {
        return Err(CmdError::request(
            format!("{many} on record otherwise; nothing was recorded"),
            "--supersede sets the older ones aside; --further records these beside them",
        ));
    };
    if supersede || agreed("are these further laps?")? == Some(true) {
        return Ok(Some(supersede));
    }
    ctx.ui.say(Role::Plain, "nothing was recorded");
    Ok(None)
}

/// Returns what is odd about a value far off its neighbours.
fn slips_words(slip: &Slip, args: &EnterArgs) -> String {
    let (value, usual) = (measured(slip.value, &slip.unit), measured(slip.usual, &slip.unit));
    let times = (slip.value / slip.usual).max(slip.usual / slip.value);
    let how = match slip.how {
        Slipped::Digit => "has a digit slipped?",
        Slipped::Sixtieth => "are these minutes among seconds, or the other way round?",
    };
    format!(
        "{}, {} on {}: {value} is {times:.0} times off its neighbours, which lie about {usual}; {how}",
        place(args, slip.place),
        slip.measure,
        slip.rig
    )
}

/// Asks about values far off their neighbours; without a terminal to ask at, the answer is no.
fn confirmed(slipped: &[Slip], args: &EnterArgs, ctx: &Ctx) -> Result<bool, CmdError> {
    slipped.iter().take(MOST_TOLD).for_each(|slip| ask(&slips_words(slip, args), ctx));
    let asked = ctx.ui.agreed("is that right?").map_err(|err| CmdError::output(&err))?;
    let yes = asked.ok_or_else(|| {
        CmdError::request(
            format!("{} far off; nothing was recorded", count(slipped.len(), "value")),
            "correct it, or confirm it with --sure",
        )
    })?;
    if !yes {
        ctx.ui.say(Role::Plain, "nothing was recorded");
    }
    Ok(yes)
}

/// Writes a session for every rig and day, each entry a lap of it; returns their names in the order of the entries.
fn write(
    entries: &[Entry],
    args: &EnterArgs,
    open: &OpenStudy,
    ctx: &Ctx,
) -> Result<Vec<LapName>, CmdError> {
    let mut sessions: BTreeMap<(&str, Option<Date>), Vec<usize>> = BTreeMap::new();
    for (at, entry) in entries.iter().enumerate() {
        sessions.entry((&entry.rig, entry.on)).or_default().push(at);
    }
    let source = args.table.as_ref().map(|path| path.display().to_string());
    let mut logbook = open.logbook_to_write(ctx)?;
    let abouts: Vec<SessionAbout> = sessions
        .keys()
        .map(|(_, on)| SessionAbout {
            origin: Origin::Entered,
            reader: args.by.clone(),
            source: args.from.clone().or_else(|| source.clone()),
            on: *on,
            ..SessionAbout::default()
        })
        .collect();
    let laps: Vec<Vec<HandLap<'_>>> = sessions
        .values()
        .map(|places| {
            let lap = |at: &usize| HandLap::entered(&entries[*at], &open.study, ctx);
            places.iter().map(lap).collect()
        })
        .collect();
    let all: Vec<(&str, &SessionAbout, &[HandLap<'_>])> = sessions
        .keys()
        .zip(&abouts)
        .zip(&laps)
        .map(|(((rig, _), about), laps)| (*rig, about, laps.as_slice()))
        .collect();
    let _working = Working::on("recording");
    let recorded = HandSession::record_all(&mut logbook, &all, ctx)?;
    let mut names: Vec<Option<LapName>> = vec![None; entries.len()];
    for (told, (session, ((_, on), places))) in recorded.iter().zip(&sessions).enumerate() {
        for (at, name) in places.iter().zip(session.laps()) {
            names[*at] = Some(name);
        }
        if told < MOST_SESSIONS {
            let day = on.map(|on| format!(", of {on}")).unwrap_or_default();
            let line = format!("{}: {} recorded{day}", session.name(), count(places.len(), "lap"));
            ctx.ui.say(Role::Plain, &line);
        }
    }
    if recorded.len() > MOST_SESSIONS {
        let more = count(recorded.len() - MOST_SESSIONS, "more session");
        ctx.ui.say(Role::Plain, &format!("and {more}: {} in all", count(entries.len(), "lap")));
    }
    Ok(names.into_iter().flatten().collect())
}

/// Sets aside what was superseded, with what superseded it.
fn set_aside<'c>(
    pairs: impl Iterator<Item = (&'c LapName, &'c LapName)>,
    open: &OpenStudy,
    ctx: &Ctx,
) -> Result<(), CmdError> {
    let mut logbook = open.logbook_to_write(ctx)?;
    for (lap, by) in pairs {
        let text = format!("superseded by {by}");
        ctx.ui.say(Role::Plain, &format!("{lap} is set aside: {text}"));
        let (kind, subject) = (RemarkKind::SetAside, Subject::Lap(lap.clone()));
        let remark = Remark { kind, subject, made: ctx.now(), text };
        logbook.append_remark(&remark, &ctx.mark()?)?;
    }
    Ok(())
}
