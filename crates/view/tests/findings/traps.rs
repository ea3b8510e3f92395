//! Small labs with one seeded mistake each, and each without it: the mistake is found and named, and
//! its clean twin is not accused of anything.
//!
//! Runs in under a second.
//! Long, since it has a lab for every finding.
#![expect(clippy::unwrap_used, reason = "a made-up lab has what it was made with")]

use honest_lap_core::analysis::{Question, analyse};
use honest_lap_core::judge::{Refusal, Verdict};
use honest_lap_core::lab::{self, INPUT, KnownLap, LabSession, LapFacts, Records};
use honest_lap_core::record::{
    Against, Better, Cut, Digest, LapHead, LapName, Launch, MeterSum, Mode, Outcome, Pass,
    Produced, PublishedClaim, QuantitySummary, Reading, Rig, RigFound, RigPart, SessionAbout,
    SessionName, SessionRecord, Settings, Study, Task, TaskForm, Template, VersionLine,
};
use honest_lap_core::unit::Nanos;
use honest_lap_view::words::caution_words;
use honest_lap_view::words::finding::{name, seen, unlike_words};
use std::collections::BTreeSet;
use std::sync::Arc;

const RIGS: [(&str, f64); 3] = [("heron", 1.0), ("kestrel", 0.8), ("plover", 1.2)];
const WORKLOADS: [(&str, f64); 4] =
    [("still", 40.0), ("reel", 120.0), ("build", 65.0), ("orbit", 30.0)];
const DAY: u64 = 86_400;

/// A lab as its logbook would give it.
#[derive(Clone)]
struct Lab {
    laps: Vec<KnownLap>,
    versions: Vec<(SessionName, VersionLine)>,
    sittings: Vec<LabSession>,
    study: Study,
}

impl Lab {
    /// Three rigs, four workloads, three days of five laps: nothing wrong with any of it.
    fn clean() -> Self {
        // Laps about their typical one, in an order that neither rises nor falls.
        const AROUND: [f64; 5] = [1.0005, 0.998, 1.0025, 0.9975, 1.0015];
        let mut lab = Self {
            laps: Vec::new(),
            versions: Vec::new(),
            sittings: Vec::new(),
            study: Study::default(),
        };
        for (rig, speed) in RIGS {
            for day in 1..=3_u32 {
                let session = SessionName { rig: rig.to_owned(), number: day };
                let luck = [0.999, 1.001, 1.0][day as usize - 1];
                let mut number = 0;
                for (workload, seconds) in WORKLOADS {
                    for off in AROUND {
                        number += 1;
                        let name = LapName { session: session.clone(), number };
                        let wall = Nanos((seconds * speed * luck * off * 1e9) as u64);
                        let lap = LapHead::done(name, workload, Settings::default(), wall);
                        let facts = Arc::new(facts(&lap));
                        lab.laps.push(KnownLap { head: LapHead { round: number, ..lap }, facts });
                    }
                    let (workload, label) = (workload.to_owned(), "renderer".to_owned());
                    let line = Some("renderer 1.5".to_owned());
                    lab.versions.push((session.clone(), VersionLine { workload, label, line }));
                }
                let found = RigFound {
                    processor: Some(format!("{rig}'s own")),
                    threads: Some(8),
                    memory_bytes: Some(32 << 30),
                    kernel: Some("6.0".into()),
                    ..RigFound::default()
                };
                let age = Some(Nanos::from_seconds(u64::from(10 - day) * DAY));
                let (parts, remark) = Default::default();
                lab.sittings.push(LabSession {
                    name: session,
                    found,
                    age,
                    day: None,
                    parts,
                    remark,
                });
            }
        }
        lab
    }

    /// Returns laps of a rig and workload, all days.
    fn of<'a>(&'a mut self, rig: &'a str, workload: &'a str) -> Vec<&'a mut KnownLap> {
        let of = |lap: &&mut KnownLap| lap.name.session.rig == rig && lap.workload == workload;
        self.laps.iter_mut().filter(of).collect()
    }

    /// Does something to what is known of those laps.
    fn facts_of(&mut self, rig: &str, workload: &str, spoil: impl Fn(&mut LapFacts)) {
        for lap in self.of(rig, workload) {
            spoil(Arc::make_mut(&mut lap.facts));
        }
    }

    /// Makes those laps take so many times as long.
    fn slow(&mut self, rig: &str, workload: &str, times: f64) {
        for lap in self.of(rig, workload) {
            lap.wall = lap.wall.map(|wall| Nanos((wall.0 as f64 * times) as u64));
        }
    }

    /// Makes laps of the first day take these times of what they took.
    fn shape(&mut self, rig: &str, workload: &str, day: u32, times: [f64; 5]) {
        let laps = self.of(rig, workload).into_iter().filter(|lap| lap.name.session.number == day);
        for (lap, times) in laps.zip(times) {
            lap.wall = lap.wall.map(|wall| Nanos((wall.0 as f64 * times) as u64));
        }
    }

    /// Runs the laps of a session twice over, every third of them in a slow state.
    fn in_two_states(&mut self, rig: &str, workload: &str, day: u32) {
        let laps = self.of(rig, workload).into_iter().filter(|lap| lap.name.session.number == day);
        let mut all: Vec<KnownLap> = laps.map(|lap| lap.clone()).collect();
        for lap in &mut all {
            let wall = lap.wall.unwrap().0 as f64 * 1.003;
            (lap.name.number, lap.wall) = (lap.name.number + 500, Some(Nanos(wall as u64)));
        }
        self.laps.append(&mut all);
        let laps = self.of(rig, workload).into_iter().filter(|lap| lap.name.session.number == day);
        for lap in laps.skip(2).step_by(3) {
            lap.wall = lap.wall.map(|wall| Nanos(wall.0 / 10 * 14));
        }
    }

    /// Turns `still` of a rig into passes of these frames.
    fn passes(&mut self, rig: &str, frames: impl Fn(u64) -> Vec<u64>, hz: f64) {
        for (lap, place) in self.of(rig, "still").into_iter().zip(0..) {
            let pass = Pass { shown: frames(place), ..Pass::default() };
            let digest = Digest::of(&pass, &Cut::default(), Against::display(hz));
            Arc::make_mut(&mut lap.facts).frames = digest.map(Box::new);
        }
    }

    fn by_hand(&mut self, rig: &str, workload: &str, step: Nanos) {
        for lap in self.of(rig, workload) {
            // Read off: whole steps.
            let wall = lap.wall.unwrap();
            let whole = (wall.0 + step.0 / 2) / step.0 * step.0;
            (lap.wall, lap.step) = (Some(Nanos(whole)), Some(step));
        }
    }

    fn versions(&mut self, rig: &str, days: &[u32], line: &str) {
        for (session, version) in &mut self.versions {
            if session.rig == rig && days.contains(&session.number) && version.workload == "still" {
                version.line = Some(line.to_owned());
            }
        }
    }

    /// Returns the lab as core has it.
    fn lab(&self) -> lab::Lab {
        let form = |(workload, _): (&str, f64)| TaskForm {
            id: 1,
            workload: workload.to_owned(),
            last_driven: Some("2026-03-02T10:00:00Z".into()),
            task: Task::of(Launch::Direct(vec![Template::parse(workload).unwrap()])),
        };
        let versions = |name: &SessionName| {
            let of = self.versions.iter().filter(|(session, _)| session == name);
            of.map(|(_, line)| line.clone()).collect()
        };
        let session = |session: &LabSession| {
            let record = SessionRecord {
                name: session.name.clone(),
                started: String::new(),
                seed: 1,
                tool: String::new(),
                found: session.found.clone(),
                versions: versions(&session.name),
                about: SessionAbout::default(),
            };
            (record, session.age)
        };
        let records = Records {
            tasks: WORKLOADS.map(form).to_vec(),
            laps: (&self.laps).into(),
            sessions: self.sittings.iter().map(session).collect(),
        };
        let baseline = Some("heron".to_owned());
        lab::Lab::of(Study { margin: 0.02, baseline, ..self.study.clone() }, records)
    }

    /// Returns the name of everything that is found wrong, and what was seen.
    fn found(&self) -> Vec<(String, String)> {
        let lab = self.lab();
        let analysis = analyse(&lab, &Question::default()).unwrap();
        let doubts = analysis.findings.iter().map(|f| (name(&f.doubt).to_owned(), seen(f)));
        let mut found: Vec<(String, String)> = doubts.collect();
        for row in analysis.views.iter().flat_map(|view| &view.groups).flat_map(|group| &group.rows)
        {
            use honest_lap_core::judge::Against as Held;
            if let Held::Other(difference) = &row.against
                && difference.verdict == Verdict::Refused(Refusal::NotComparable)
            {
                let differs: Vec<String> = row.differs.iter().map(unlike_words).collect();
                found.push(("not comparable".to_owned(), differs.join("; ")));
            }
        }
        found
    }
}

fn facts(lap: &LapHead) -> LapFacts {
    let mut facts = LapFacts::default();
    let steady = |value| {
        Some(QuantitySummary { first: value, last: value, least: value, most: value, mean: value })
    };
    let sampled = &mut facts.conditions.sampled;
    sampled.cores_busy = Some(7.8);
    sampled.clock_mhz = steady(4_200.0);
    sampled.temperature_c = steady(62.0);
    sampled.power_w = steady(80.0);
    sampled.on_mains = Some(true);
    facts.conditions.others_cpu = Some(Nanos(20_000_000));
    facts.conditions.slept = Some(Nanos(0));
    facts.produced = vec![Produced {
        file: "out.bin".into(),
        bytes: Some(100_000),
        sha256: Some(format!("{}-a", lap.workload)),
        picture: None,
    }];
    facts
}

/// A mistake: what it is to be called, what its evidence names, what a lab without it is like, and
/// what makes it.
struct Trap {
    named: &'static str,
    says: &'static str,
    clean: fn(&mut Lab),
    spoil: fn(&mut Lab),
}

fn trap(named: &'static str, says: &'static str, spoil: fn(&mut Lab)) -> Trap {
    Trap { named, says, clean: |_| {}, spoil }
}

fn frames(seed: u64, ns: u64) -> Vec<u64> {
    (0..1_500).map(|n| ns + (n * 7_919 + seed * 104_729) % 400_000).collect()
}

fn input(lab: &mut Lab, rig: Option<&str>, line: &str) {
    let sessions: BTreeSet<SessionName> = lab.laps.iter().map(|l| l.name.session.clone()).collect();
    let label = format!("{INPUT}sky.txt");
    if rig.is_none() {
        for session in sessions {
            let (workload, label, line) = ("still".into(), label.clone(), Some(line.into()));
            lab.versions.push((session, VersionLine { workload, label, line }));
        }
        return;
    }
    for (session, version) in &mut lab.versions {
        if Some(session.rig.as_str()) == rig && version.label == label {
            version.line = Some(line.to_owned());
        }
    }
}

/// Has heron's laps of `still` run in graphics, and those of `rig` in `mode`.
fn set(lab: &mut Lab, rig: &str, mode: &str) {
    for (rig, mode) in [("heron", "graphics"), (rig, mode)] {
        let mode =
            Mode { name: "render".to_owned(), before: Some(mode.to_owned()), ..Mode::default() };
        lab.facts_of(rig, "still", |facts| facts.conditions.modes = vec![mode.clone()]);
    }
}

fn parts(lab: &mut Lab, kestrel: [&str; 3]) {
    let rig = |name: &str, parts: [&str; 3]| Rig {
        name: name.to_owned(),
        parts: ["card", "driver", "memory"]
            .into_iter()
            .zip(parts)
            .map(|(part, what)| RigPart::always(part, what))
            .collect(),
        ..Rig::default()
    };
    lab.study.rigs = vec![rig("heron", ["L2", "8.1", "32 GB"]), rig("kestrel", kestrel)];
}

fn model(lab: &mut Lab, of_plover: &str) {
    let rig = |name: &str, model: &str| Rig {
        name: name.to_owned(),
        model: Some(model.to_owned()),
        ..Rig::default()
    };
    lab.study.rigs = vec![rig("heron", "H12"), rig("plover", of_plover)];
}

fn traps() -> Vec<Trap> {
    vec![
        trap("other version", "the renderer differs: renderer 1.4 on heron", |lab| {
            lab.versions("heron", &[1], "renderer 1.4");
        }),
        trap("other version", "could not be read on kestrel", |lab| {
            for (session, version) in &mut lab.versions {
                if session.rig == "kestrel" && version.workload == "still" {
                    version.line = None;
                }
            }
        }),
        Trap {
            clean: |lab| set(lab, "plover", "graphics"),
            ..trap("other setting", "graphics on heron; processor on plover", |lab| {
                set(lab, "plover", "processor");
            })
        },
        Trap {
            clean: |lab| set(lab, "plover", "graphics"),
            ..trap("not comparable", "render set to processor against graphics", |lab| {
                set(lab, "plover", "processor");
            })
        },
        trap("stale", "plover ran renderer 1.4", |lab| {
            lab.versions("plover", &[1, 2, 3], "renderer 1.4");
            lab.sittings.iter_mut().filter(|s| s.name.rig == "plover").for_each(|sitting| {
                sitting.age = Some(Nanos::from_seconds(60 * DAY));
            });
        }),
        trap("stale", "kernel from 6.0 to 6.1 by session heron-4", |lab| {
            let mut since = lab.sittings[2].clone();
            since.name.number = 4;
            (since.age, since.found.kernel) = (Some(Nanos::from_seconds(DAY)), Some("6.1".into()));
            lab.sittings.push(since);
        }),
        trap("stale", "memory from 32 to 64 GiB", |lab| {
            let mut since = lab.sittings[2].clone();
            since.name.number = 4;
            since.age = Some(Nanos::from_seconds(DAY));
            since.found.memory_bytes = Some(64 << 30);
            lab.sittings.push(since);
        }),
        Trap {
            named: "stale",
            says: "last run 45 days ago",
            clean: |lab| lab.study.stale_after = Some(Nanos::from_seconds(30 * DAY)),
            spoil: |lab| {
                for sitting in lab.sittings.iter_mut().filter(|s| s.name.rig == "plover") {
                    sitting.age = sitting.age.map(|age| Nanos(age.0 + 38 * DAY * 1_000_000_000));
                }
            },
        },
        trap("other work", "out.bin is 60.0 kB", |lab| {
            lab.facts_of("plover", "still", |facts| facts.produced[0].bytes = Some(60_000));
        }),
        trap("not comparable", "out.bin is 60.0 kB against 100 kB", |lab| {
            lab.facts_of("plover", "still", |facts| facts.produced[0].bytes = Some(60_000));
        }),
        trap("other work", "is not the same everywhere: SHA-256", |lab| {
            lab.facts_of("plover", "still", |facts| {
                facts.produced[0].sha256 = Some("other".into())
            });
        }),
        trap("not comparable", "run on a battery against on mains", |lab| {
            lab.facts_of("kestrel", "reel", |f| f.conditions.sampled.on_mains = Some(false));
        }),
        Trap {
            named: "not comparable",
            says: "the input sky.txt is another file",
            clean: |lab| input(lab, None, "SHA-256 aa"),
            spoil: |lab| input(lab, Some("plover"), "SHA-256 bb"),
        },
        trap("machine busy", "of processor time", |lab| {
            lab.facts_of("heron", "build", |facts| {
                facts.conditions.others_cpu = Some(Nanos::from_seconds(20));
            });
        }),
        trap("throttled", "from 4200 to 2900 MHz", |lab| {
            lab.facts_of("plover", "reel", |facts| {
                let sampled = &mut facts.conditions.sampled;
                sampled.clock_mhz.as_mut().unwrap().last = 2_900.0;
                sampled.temperature_c.as_mut().unwrap().last = 97.0;
            });
        }),
        trap("swapped", "ran while 512 MB were swapped", |lab| {
            lab.facts_of("plover", "build", |facts| {
                facts.conditions.sampled.swapped_bytes = Some(512_000_000);
            });
        }),
        trap("slept", "kestrel-1.1", |lab| {
            let name = LapName::parse("kestrel-1.1").unwrap();
            let lap = lab.laps.iter_mut().find(|lap| lap.name == name).unwrap();
            Arc::make_mut(&mut lap.facts).conditions.slept = Some(Nanos::from_seconds(300));
        }),
        trap("meter silent", "wall", |lab| {
            let course = QuantitySummary { mean: 80.0, most: 90.0, ..QuantitySummary::default() };
            let meter = MeterSum { name: "wall".into(), unit: "W".into(), course };
            lab.facts_of("heron", "build", |facts| {
                facts.conditions.sampled.meters = vec![meter.clone()];
            });
        }),
        trap("left-overs", "indexer", |lab| {
            lab.facts_of("heron", "build", |facts| facts.left_behind = vec!["indexer".into()]);
        }),
        trap("own time differs", "reports", |lab| {
            for lap in lab.of("heron", "orbit") {
                let reading = Reading {
                    name: "own".into(),
                    unit: "s".into(),
                    better: Better::Less,
                    value: lap.wall.map(|wall| wall.seconds() * 0.7),
                    step: None,
                    seen: String::new(),
                    reports_time: true,
                };
                lap.readings.push(reading);
            }
        }),
        Trap {
            named: "capped",
            says: "shows the display, not the rig",
            clean: |lab| lab.passes("kestrel", |seed| frames(seed, 9_000_000), 60.0),
            spoil: |lab| lab.passes("kestrel", |_| vec![16_667_000; 1_500], 60.0),
        },
        Trap {
            named: "the average hides it",
            says: "stood still for 400 ms",
            clean: |lab| lab.passes("kestrel", |seed| frames(seed, 9_000_000), 60.0),
            spoil: |lab| {
                let stall = |seed| {
                    let mut shown = frames(seed, 9_000_000);
                    shown[700] = 400_000_000;
                    shown
                };
                lab.passes("kestrel", stall, 60.0);
            },
        },
        Trap {
            named: "the average hides it",
            says: "on average, but: low 1%",
            clean: |lab| {
                lab.passes("kestrel", |seed| frames(seed, 9_000_000), 60.0);
                lab.passes("heron", |seed| frames(seed + 50, 9_000_000), 60.0);
            },
            spoil: |lab| {
                let hitching = |seed| {
                    let mut shown = frames(seed, 8_800_000);
                    shown.iter_mut().step_by(60).for_each(|frame| *frame = 21_000_000);
                    shown
                };
                lab.passes("heron", hitching, 60.0);
            },
        },
        trap("too few laps", "2 counted laps", |lab| {
            lab.laps.retain(|lap| {
                let few = lap.name.session.rig == "plover" && lap.workload == "orbit";
                !few || lap.name.session.number == 1 && lap.name.number <= 17
            });
        }),
        trap("first lap", "the first lap of plover-2 took", |lab| {
            lab.shape("plover", "reel", 2, [1.08, 1.0, 1.0, 1.0, 1.0]);
        }),
        trap("odd lap", "heron-2.13", |lab| {
            lab.shape("heron", "build", 2, [1.0, 1.0, 1.12, 1.0, 1.0]);
        }),
        trap("two groups", "the 10 laps of plover-2", |lab| {
            lab.in_two_states("plover", "reel", 2);
        }),
        trap("not steady", "rose by", |lab| {
            lab.shape("kestrel", "still", 3, [1.0, 1.02, 1.03, 1.05, 1.06]);
        }),
        trap("not steady", "fell by", |lab| {
            lab.shape("kestrel", "still", 3, [1.0, 0.98, 0.96, 0.95, 0.93]);
        }),
        Trap {
            named: "read too coarsely",
            says: "the step in which it was read",
            clean: |lab| {
                for (rig, _) in RIGS {
                    lab.by_hand(rig, "still", Nanos(100_000_000));
                }
            },
            spoil: |lab| {
                for (rig, _) in RIGS {
                    lab.by_hand(rig, "still", Nanos::from_seconds(10));
                }
            },
        },
        Trap {
            named: "slipped digit",
            says: "its neighbours read like 40",
            clean: |lab| lab.by_hand("heron", "still", Nanos(100_000_000)),
            spoil: |lab| lab.of("heron", "still")[7].wall = Some(Nanos::from_seconds(4)),
        },
        Trap {
            named: "slipped digit",
            says: "has time 17.5 s, and its neighbours read like 71.5 s",
            clean: |lab| {
                lab.slow("heron", "build", 71.5 / 65.0);
                lab.by_hand("heron", "build", Nanos(100_000_000));
            },
            // Only what lies well off its neighbours can be told from a slow lap.
            spoil: |lab| lab.of("heron", "build")[7].wall = Some(Nanos(17_500_000_000)),
        },
        trap("nothing to choose", "heron, kestrel and plover", |lab| {
            lab.slow("kestrel", "orbit", 1.0 / 0.8);
            lab.slow("plover", "orbit", 1.0 / 1.2);
        }),
        Trap {
            named: "nothing to choose",
            says: "one-thread-bound",
            clean: |lab| {
                for (rig, _) in RIGS {
                    lab.facts_of(rig, "orbit", |f| f.conditions.sampled.cores_busy = Some(1.0));
                }
            },
            spoil: |lab| {
                lab.slow("kestrel", "orbit", 1.0 / 0.8);
                lab.slow("plover", "orbit", 1.0 / 1.2);
            },
        },
        Trap {
            named: "upside down",
            says: "plover is behind heron",
            clean: |lab| {
                lab.study.expect = ["kestrel", "heron", "plover"].map(str::to_owned).to_vec()
            },
            spoil: |lab| {
                lab.study.expect = ["kestrel", "plover", "heron"].map(str::to_owned).to_vec()
            },
        },
        trap("upside down", "in all 3 other comparisons it is surely ahead", |lab| {
            lab.slow("kestrel", "reel", 1.5);
        }),
        trap("odd one out", "it alone puts kestrel behind heron", |lab| {
            lab.slow("kestrel", "reel", 4.0);
        }),
        trap("missing", "orbit has no figure of plover (never run)", |lab| {
            lab.laps.retain(|l| !(l.name.session.rig == "plover" && l.workload == "orbit"));
        }),
        trap("missing", "orbit has no figure of plover (15 over its limit)", |lab| {
            for lap in lab.of("plover", "orbit") {
                lap.outcome = Outcome::OverLimit;
            }
        }),
        Trap {
            named: "two things changed",
            says: "card (L2 and L4) and driver (8.1 and 8.2)",
            clean: |lab| parts(lab, ["L4", "8.1", "32 GB"]),
            spoil: |lab| parts(lab, ["L4", "8.2", "32 GB"]),
        },
        Trap {
            named: "one of a kind",
            says: "heron alone stands for every H12",
            clean: |lab| model(lab, "H12"),
            spoil: |lab| model(lab, "L8"),
        },
        trap("mostly waiting", "most laps were disk-bound", |lab| {
            lab.facts_of("plover", "build", |facts| {
                facts.conditions.own.disk = Some(Nanos::from_seconds(60));
            });
        }),
        trap("mostly waiting", "most laps were waiting", |lab| {
            lab.facts_of("plover", "reel", |f| f.conditions.sampled.cores_busy = Some(0.1));
        }),
    ]
}

#[test]
fn every_mistake_is_found_and_named_and_no_clean_twin_is_accused() {
    let traps = traps();
    assert!(traps.len() >= 30, "{}", traps.len());
    let mut failures = Vec::new();
    for (number, trap) in traps.iter().enumerate() {
        let mut lab = Lab::clean();
        (trap.clean)(&mut lab);
        let accused = lab.found();
        if !accused.is_empty() {
            failures.push(format!("{number} {}: its clean twin: {accused:?}", trap.named));
        }
        (trap.spoil)(&mut lab);
        let found = lab.found();
        if !found.iter().any(|(name, said)| name == trap.named && said.contains(trap.says)) {
            failures.push(format!("{number} {} ({}): {found:?}", trap.named, trap.says));
        }
    }
    assert!(failures.is_empty(), "{}", failures.join("\n"));
}

/// Sentences that are commonly wrong, what they are cautioned for, and how they ought to read.
const WORDINGS: [(&str, &str, &str); 5] = [
    (
        "kestrel is 20% faster than heron on reel",
        "20 % is the share of time saved",
        "kestrel takes 20% less time than heron on reel",
    ),
    (
        "kestrel is 1.25x faster than heron on reel",
        "say 1.25× as fast",
        "kestrel is 1.25x as fast as heron on reel",
    ),
    (
        "kestrel is at least 20% faster than heron on average",
        "average of percentages",
        "kestrel is at least 20% faster than heron overall",
    ),
    (
        "plover is at least 15% slower than heron on reel",
        "slower has two meanings",
        "plover takes at least 15% more time than heron on reel",
    ),
    (
        "kestrel is faster than heron",
        "nothing is said of where",
        "kestrel is faster than heron on every task",
    ),
];

#[test]
fn wording_that_misleads_is_pointed_at_and_its_clean_twin_is_not() {
    let lab = Lab::clean().lab();
    let cautions = |says: &str| {
        let claims = vec![PublishedClaim { says: says.to_owned(), who: None }];
        let question = Question { claims, ..Question::default() };
        let analysis = analyse(&lab, &question).unwrap_or_else(|err| panic!("{says}: {err}"));
        analysis.answered[0].found.cautions.clone()
    };
    for (wrong, caution, right) in WORDINGS {
        let said: Vec<String> = cautions(wrong).iter().map(caution_words).collect();
        assert!(said.concat().contains(caution), "{wrong}: {said:?}");
        assert_eq!(cautions(right), [], "{right}");
    }
}
