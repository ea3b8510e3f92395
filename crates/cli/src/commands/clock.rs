//! `lap clock`: a keyboard stopwatch, for work that only eyes can time.

use crate::args::Cli;
use crate::by_hand::{HandLap, HandSession, known_rig};
use crate::ctx::Ctx;
use crate::error::{CmdError, Exit};
use crate::stop_signals::stop_on_signals;
use crate::study_file::{OpenStudy, read_study};
use honest_lap_core::entry::{Clocked, Press, REACTION_STEP, Stopwatch, Told};
use honest_lap_core::record::{
    Better, LapName, Origin, Reading, Remark, RemarkKind, SECONDS, SessionAbout, Settings, Subject,
    Workload,
};
use honest_lap_core::unit::{Nanos, Stamp, display_span};
use honest_lap_logbook::Logbook;
use honest_lap_measure::{Key, Keys};
use honest_lap_view::table::Role;
use honest_lap_view::words::{lap_of, time_read};
use indicatif::{ProgressBar, ProgressStyle};

/// Time laps with a keyboard stopwatch, for work that only eyes can time
#[derive(clap::Args, Debug)]
#[command(
    after_help = "Examples:\n  lap clock window-export --rig heron\n  lap clock window-export --rig heron --with encoder=hardware --by Ada\n\n\
                        Keys: blank or Enter starts and stops a lap, s ends a part of it, v makes the lap under\n\
                        way (or the last one) void, q ends. Each lap is on record as soon as it is stopped."
)]
pub struct ClockArgs {
    /// The workload
    #[arg(value_name = "WORKLOAD")]
    workload: String,
    /// The rig it is done on
    #[arg(long, value_name = "NAME")]
    rig: Option<String>,
    /// The rig is a new one, which neither the study nor the logbook knows
    #[arg(long, requires = "rig")]
    new_rig: bool,
    /// A setting of the variant
    #[arg(long = "with", value_name = "SETTING=VALUE", value_parser = super::enter::setting)]
    variant: Vec<(String, String)>,
    /// Who holds the stopwatch
    #[arg(long, value_name = "NAME")]
    by: Option<String>,
}

/// How often the running time is shown.
const REFRESH: Nanos = Nanos(100_000_000);

pub fn run(args: &ClockArgs, cli: &Cli, ctx: &Ctx) -> Result<Exit, CmdError> {
    let open = read_study(cli, ctx)?;
    let workload = open.study.workload(&args.workload).ok_or_else(|| {
        let names: Vec<&str> = open.study.workloads.iter().map(|w| w.name.as_str()).collect();
        CmdError::request(
            format!("the study has no workload `{}`", args.workload),
            format!("it has: {}", names.join(", ")),
        )
    })?;
    let settings = variant(workload, &args.variant)?;
    let rig = rig(args, &open)?;
    let stop = stop_on_signals()?;
    let keys = Keys::take().map_err(|err| CmdError::io("read", "the terminal".as_ref(), &err))?;
    let Some(keys) = keys else {
        return Err(CmdError::request(
            "a stopwatch needs a terminal, and standard input is none",
            "type times in instead: lap enter",
        ));
    };
    let mut logbook = open.logbook_to_write(ctx)?;
    let bar = ProgressBar::new_spinner();
    let look = ProgressStyle::with_template("{msg}").expect("the template above is well formed");
    bar.set_style(look);
    let about = SessionAbout {
        origin: Origin::Clocked,
        reader: args.by.clone(),
        ..SessionAbout::default()
    };
    let mut clock =
        Clock { ctx, workload, settings, rig: &rig, about, session: None, last: None, bar };
    clock.welcome();
    let mut watch = Stopwatch::default();
    loop {
        let (press, at) = match keys.wait(REFRESH, &stop) {
            Key::None => {
                clock.show(watch.running(honest_lap_measure::now()));
                continue;
            }
            Key::Pressed(b' ' | b'\n' | b'\r', at) => (Press::Go, at),
            Key::Pressed(b's', at) => (Press::Split, at),
            Key::Pressed(b'v', at) => (Press::Void, at),
            // Ctrl-D and Ctrl-C too, where the terminal hands them on.
            Key::Pressed(b'q' | 3 | 4, at) => {
                clock.end(&mut watch, at, &mut logbook)?;
                break;
            }
            Key::Pressed(..) => continue,
            Key::End => {
                clock.end(&mut watch, honest_lap_measure::now(), &mut logbook)?;
                break;
            }
        };
        let told = watch.press(press, at);
        clock.told(&told, &mut logbook)?;
    }
    clock.bar.finish_and_clear();
    Ok(Exit::Done)
}

fn variant(workload: &Workload, given: &[(String, String)]) -> Result<Settings, CmdError> {
    let settings = Settings::new(given.to_vec());
    let variants = workload.variants();
    let wanted: Vec<&Settings> = variants
        .iter()
        .filter(|variant| given.iter().all(|(name, value)| variant.get(name) == Some(value)))
        .collect();
    match wanted.as_slice() {
        [only] => Ok((*only).clone()),
        _ => {
            let all: Vec<String> = variants.iter().map(ToString::to_string).collect();
            Err(CmdError::request(
                format!("`{settings}` does not say which variant of {} is timed", workload.name),
                format!("say it by --with SETTING=VALUE; there are: {}", all.join("; ")),
            ))
        }
    }
}

fn rig(args: &ClockArgs, open: &OpenStudy) -> Result<String, CmdError> {
    let logbook = match open.logbook().exists() {
        true => Some(Logbook::open(&open.logbook())?),
        false => None,
    };
    let Some(rig) = &args.rig else {
        return Err(CmdError::request(
            "which rig is the work done on? A stopwatch cannot know",
            "say it: --rig NAME",
        ));
    };
    known_rig(rig, args.new_rig, &open.study, logbook.as_ref())?;
    Ok(rig.clone())
}

fn shown(time: Nanos) -> String {
    time_read(time, Some(REACTION_STEP))
}

/// A stopwatch's session: begun with its first lap.
struct Clock<'a> {
    ctx: &'a Ctx,
    workload: &'a Workload,
    settings: Settings,
    rig: &'a str,
    about: SessionAbout,
    session: Option<HandSession>,
    last: Option<LapName>,
    bar: ProgressBar,
}

impl Clock<'_> {
    fn welcome(&self) {
        let what = lap_of(&self.workload.name, &self.settings);
        self.say(Role::Heading, &format!("{what} on {}", self.rig));
        if let Some(doing) = &self.workload.task.by_hand {
            self.say(Role::Plain, doing);
        }
        let step = display_span(REACTION_STEP);
        self.say(
            Role::Quiet,
            &format!(
                "blank starts and stops, s splits, v voids, q ends; times are known to {step}, for \
                 your reaction"
            ),
        );
    }

    fn say(&self, role: Role, line: &str) {
        self.bar.suspend(|| self.ctx.ui.say(role, line));
    }

    fn show(&self, running: Option<Nanos>) {
        let seconds = running.map(|span| format!("{:.1} s", span.seconds()));
        self.bar.set_message(seconds.unwrap_or_else(|| "ready".to_owned()));
        self.bar.tick();
    }

    fn told(&mut self, told: &Told, logbook: &mut Logbook) -> Result<(), CmdError> {
        match told {
            Told::Started | Told::Nothing => {}
            Told::Split(part) => {
                self.say(Role::Quiet, &format!("  split after {}", shown(*part)));
            }
            Told::Stopped(clocked) => {
                let readings = self.parts(clocked);
                let time = Some((clocked.time, REACTION_STEP));
                let (workload, settings) = (self.workload, self.settings.clone());
                let lap = HandLap::read(workload, &settings, time, readings, self.ctx);
                let name = self.write(&lap, logbook)?;
                self.say(Role::Plain, &format!("{name}  {}", shown(clocked.time)));
                self.last = Some(name);
            }
            Told::GivenUp(time) => {
                let (workload, settings) = (self.workload, self.settings.clone());
                let lap = HandLap::given_up(workload, &settings, *time, self.ctx);
                let name = self.write(&lap, logbook)?;
                self.say(Role::Open, &format!("{name}  given up"));
            }
            Told::VoidLast => {
                if let Some(lap) = self.last.take() {
                    let line = format!("{lap}  is set aside");
                    let remark = Remark {
                        kind: RemarkKind::SetAside,
                        subject: Subject::Lap(lap),
                        made: self.ctx.now(),
                        text: "void, said whoever held the stopwatch".to_owned(),
                    };
                    logbook.append_remark(&remark, &self.ctx.mark()?)?;
                    self.say(Role::Open, &line);
                }
            }
        }
        Ok(())
    }

    /// Ends the clock; a lap under way is given up, and on record as such. What was recorded is signed.
    fn end(
        &mut self,
        watch: &mut Stopwatch,
        at: Stamp,
        logbook: &mut Logbook,
    ) -> Result<(), CmdError> {
        if watch.running(at).is_some() {
            let told = watch.press(Press::Void, at);
            self.told(&told, logbook)?;
        }
        self.session.as_ref().map_or(Ok(()), |session| session.end(logbook, self.ctx))
    }

    /// Writes a lap down; the first one begins the session.
    fn write(&mut self, lap: &HandLap<'_>, logbook: &mut Logbook) -> Result<LapName, CmdError> {
        if let Some(session) = &mut self.session {
            return session.append(logbook, lap);
        }
        let laps = std::slice::from_ref(lap);
        let session = HandSession::record(logbook, self.rig, &self.about, laps, self.ctx)?;
        let name = session.laps().next().expect("it was written with a lap");
        self.session = Some(session);
        Ok(name)
    }

    /// Returns the parts of a lap as readings: by the study's names, or numbered.
    fn parts(&self, clocked: &Clocked) -> Vec<Reading> {
        let named = self.workload.task.splits.as_ref().map(|splits| splits.parts.as_slice());
        let name = |place: usize| match named {
            Some(parts) if parts.len() == clocked.parts.len() => parts[place].part.clone(),
            _ => format!("part-{}", place + 1),
        };
        let reading = |(place, time): (usize, &Nanos)| Reading {
            name: name(place),
            unit: SECONDS.to_owned(),
            better: Better::Less,
            value: Some(time.seconds()),
            step: Some(REACTION_STEP.seconds()),
            seen: String::new(),
            reports_time: false,
        };
        clocked.parts.iter().enumerate().map(reading).collect()
    }
}
