//! What came of a capture, and the pass it makes.

use super::follow::{Lost, Refused};
use super::why::{refused_words, trouble_words};
use honest_lap_core::frame::{Stream, TimedMark, carriers, choose, presented_pass};
use honest_lap_core::record::{Against, Digest, PassAbout, Presented, RecordedPass, plain_line};
use honest_lap_core::unit::{Nanos, display_span};

/// Everything that a lap presented.
#[derive(Debug)]
pub(crate) struct Caught {
    pub(super) streams: Vec<Stream>,
    pub(super) marks: Vec<TimedMark>,
    pub(super) lost: Lost,
    pub(super) refused: Refused,
    /// Functions of which the recorder is not sure.
    pub(super) unsure: u32,
    /// The pass had all that was asked for, so the tool ended the lap.
    pub(crate) over: bool,
    /// Why nothing came, where nothing did.
    pub(super) why: String,
}

/// The pass of a lap.
#[derive(Debug)]
pub(crate) struct Made {
    pub(crate) pass: RecordedPass,
    /// What is not as it should be, in a sentence: the pass does not count then.
    pub(crate) short: Option<String>,
}

impl Caught {
    /// Returns the pass that `wanted` asks for, or why there is none.
    pub(crate) fn pass(&self, wanted: &Presented, against: Against) -> Result<Made, String> {
        if self.streams.is_empty() {
            return Err(self.why.clone());
        }
        let place = choose(&self.streams, &wanted.choice).ok_or_else(|| self.not_there(wanted))?;
        let stream = &self.streams[place];
        let made = presented_pass(&stream.presents, &self.marks, &wanted.ends).ok_or_else(
            || match wanted.ends.by_mark && self.marks.is_empty() {
                true => {
                    "no mark began the pass; set one from another terminal: lap mark".to_owned()
                }
                false => format!(
                    "window {} presented {}, and a frame time lies between two",
                    place + 1,
                    frames(stream.presents.len() as u64)
                ),
            },
        )?;
        let short = self.short(wanted, stream, made.counted);
        let digest = Digest::of(&made.pass, &made.cut, against)
            .ok_or("no frame lies between the marks of its begin and its end")?;
        let mut faults = made.faults;
        faults.dropped = self.lost.frames;
        let about = PassAbout {
            log: "presented".to_owned(),
            log_sha256: None,
            read_as: format!("window {}, {}", place + 1, stream.words()),
            faults,
            marks: made.marks,
            also: self.also(place),
            digest,
        };
        Ok(Made { pass: RecordedPass { about, pass: made.pass }, short })
    }

    /// Returns why the window or program that was asked for is not there.
    fn not_there(&self, wanted: &Presented) -> String {
        let there: Vec<String> = (0..self.streams.len()).map(|place| self.words(place)).collect();
        let asked = match (&wanted.choice.window, &wanted.choice.program) {
            (Some(window), Some(program)) => {
                format!("no window {window} of `{}`", plain_line(program))
            }
            (Some(window), None) => format!("no window {window}"),
            (None, Some(program)) => format!("no program `{}`", plain_line(program)),
            (None, None) => "nothing of its own".to_owned(),
        };
        format!("{asked} presented a frame; seen were: {}", there.join("; "))
    }

    /// Returns in what the pass falls short of what was asked for.
    fn short(&self, wanted: &Presented, stream: &Stream, counted: u64) -> Option<String> {
        if self.lost.frames > 0 {
            let (lost, cause) = (frames(self.lost.frames), trouble_words(self.lost.trouble));
            return Some(format!("{lost} more could not be recorded: {cause}"));
        }
        if let Some(words) = refused_words(self.refused) {
            return Some(words);
        }
        if self.unsure > 0 {
            return Some(format!(
                "of {} of its functions the recorder is not sure whether they are the program's own or recorded: it \
                 opens several libraries that present; time it without frames",
                self.unsure
            ));
        }
        if self.over {
            return None;
        }
        let lasted = || {
            let (first, last) = (stream.presents.first()?, stream.presents.last()?);
            Some(display_span(Nanos(last.at - first.at)))
        };
        match wanted.ends {
            honest_lap_core::record::Ends { frames: Some(n), .. } if counted < n => {
                Some(format!("it ended after {counted} of {n} frames"))
            }
            honest_lap_core::record::Ends { time: Some(time), .. } => Some(format!(
                "it ended after {} of {}",
                lasted().unwrap_or_default(),
                display_span(time)
            )),
            _ => None,
        }
    }

    /// Returns what else was presented.
    fn also(&self, taken: usize) -> Vec<String> {
        let others = (0..self.streams.len()).filter(|&place| place != taken);
        others.map(|place| self.words(place)).collect()
    }

    fn words(&self, place: usize) -> String {
        let carried = carriers(&self.streams)[place];
        let carries = carried.map_or_else(String::new, |of| {
            format!(", which carry those of window {} and are not counted again", of + 1)
        });
        format!("window {}, {}{carries}", place + 1, self.streams[place].words())
    }
}

fn frames(n: u64) -> String {
    if n == 1 { "1 frame".to_owned() } else { format!("{n} frames") }
}

#[cfg(test)]
mod tests {
    use super::*;
    use honest_lap_core::frame::{Api, Present};
    use honest_lap_core::record::{Choice, Ends};

    fn stream(program: &str, surface: u64, frames: u64) -> Stream {
        let present = |frame| Present { at: 1_000 + frame * 16_000_000, took: 5 };
        let presents = (0..frames).map(present).collect();
        let program = program.to_owned();
        Stream { program, process: 4, api: Api::Glx, surface, threads: 1, presents }
    }

    fn caught(streams: Vec<Stream>) -> Caught {
        let (marks, why) = (Vec::new(), "nothing came".into());
        let (lost, refused) = Default::default();
        Caught { streams, marks, lost, refused, unsure: 0, over: false, why }
    }

    fn of(caught: &Caught, wanted: &Presented) -> Result<Made, String> {
        caught.pass(wanted, Against::display(60.0))
    }

    #[test]
    fn the_busiest_window_is_the_pass_and_the_others_are_told() {
        let caught = caught(vec![stream("dome", 1, 101), stream("menu", 2, 301)]);
        let made = of(&caught, &Presented::default()).unwrap();
        assert_eq!(
            made.pass.about.read_as,
            "window 2, 301 frames through OpenGL (GLX) by `menu` (process 4)"
        );
        assert_eq!(
            made.pass.about.also,
            ["window 1, 101 frames through OpenGL (GLX) by `dome` (process 4)"]
        );
        assert_eq!((made.pass.pass.shown.len(), made.short), (300, None));
        let other = Choice { window: Some(3), program: None };
        let why = of(&caught, &Presented { choice: other, ..Presented::default() }).unwrap_err();
        assert!(why.starts_with("no window 3 presented a frame; seen were: window 1"), "{why}");
    }

    #[test]
    fn a_pass_that_falls_short_says_of_what() {
        let mut caught = caught(vec![stream("dome", 1, 301)]);
        let ends = |ends: Ends| Presented { ends, ..Presented::default() };
        let asked = ends(Ends { frames: Some(600), ..Ends::default() });
        assert_eq!(of(&caught, &asked).unwrap().short.unwrap(), "it ended after 300 of 600 frames");
        let asked = ends(Ends { time: Some(Nanos::from_seconds(30)), ..Ends::default() });
        assert_eq!(of(&caught, &asked).unwrap().short.unwrap(), "it ended after 4.8 s of 30 s");
        caught.over = true;
        assert_eq!(of(&caught, &asked).unwrap().short, None);
        caught.lost = Lost { frames: 1, trouble: Some(27) };
        let made = of(&caught, &asked).unwrap();
        assert_eq!(made.short.unwrap(), "1 frame more could not be recorded: file too large");
        assert_eq!(made.pass.about.faults.dropped, 1);
        caught.lost = Lost::default();
        caught.refused = Refused { outside: 2, impossible: 0 };
        let short = of(&caught, &asked).unwrap().short.unwrap();
        assert_eq!(short, "2 records were refused: 2 lie outside of the lap's own time");
        (caught.refused, caught.unsure) = (Refused::default(), 3);
        assert!(of(&caught, &asked).unwrap().short.unwrap().starts_with("of 3 of its functions"));
    }

    #[test]
    fn one_present_is_no_frame_time_and_no_mark_is_no_pass() {
        let one = caught(vec![stream("dome", 1, 1)]);
        assert!(of(&one, &Presented::default()).unwrap_err().contains("presented 1 frame, and"));
        let ends = Ends { by_mark: true, ..Ends::default() };
        let asked = Presented { ends, ..Presented::default() };
        let none = of(&caught(vec![stream("dome", 1, 50)]), &asked).unwrap_err();
        assert!(none.contains("no mark began the pass"), "{none}");
        assert_eq!(of(&caught(Vec::new()), &asked).unwrap_err(), "nothing came");
    }
}
