//! The made-up passes of the fly-through: one rig under the display's cap, one with a fine average
//! and hitches, one with a loading screen inside.

use honest_lap_core::record::{Mark, Pass};
use honest_lap_core::stat::SplitMix;

/// A made-up pass.
#[derive(Clone, Debug)]
pub struct RecordedFlight {
    /// Its frames.
    pub pass: Pass,
    /// Where its scenes begin.
    pub marks: Vec<Mark>,
}

/// Passes of each rig.
const PASSES: u64 = 3;
/// Frames of a pass: a minute at 60 Hz.
const FRAMES: usize = 3_600;
const REFRESH_NS: f64 = 1e9 / 60.0;

/// Returns the made-up passes of `rig`; most rigs have none.
pub fn flights(rig: &str) -> Vec<RecordedFlight> {
    let flight: fn(&mut SplitMix) -> RecordedFlight = match rig {
        "kestrel" => capped,
        "heron" => hitching,
        "wren" => loading,
        _ => return Vec::new(),
    };
    (1..=PASSES)
        .map(|number| flight(&mut SplitMix::new(number * 1_009 + rig.len() as u64)))
        .collect()
}

/// Returns frame times that wander about `typical` nanoseconds, as a scene gets fuller and emptier.
fn wandering(random: &mut SplitMix, typical: f64, noise: f64) -> Vec<u64> {
    let luck = (0.008 * random.normal()).exp();
    let mut scene = 0.0;
    (0..FRAMES)
        .map(|frame| {
            scene = 0.995 * scene + 0.01 * random.normal();
            // The rings, in the middle of the flight, are the most to draw.
            let share = frame as f64 / FRAMES as f64;
            let rings = 1.0 + 0.18 * (std::f64::consts::PI * share).sin();
            (typical * luck * rings * (scene + noise * random.normal()).exp()) as u64
        })
        .collect()
}

fn scenes(frames: &[(usize, &str)]) -> Vec<Mark> {
    frames
        .iter()
        .map(|&(frame, name)| Mark { frame: frame as u64, name: name.to_owned() })
        .collect()
}

/// Work of 9 ms behind a display that shows a frame every 16.7 ms.
fn capped(random: &mut SplitMix) -> RecordedFlight {
    let graphics = wandering(random, 8.6e6, 0.05);
    let processor = wandering(random, 4.8e6, 0.08);
    let mut shown: Vec<u64> =
        (0..FRAMES).map(|_| (REFRESH_NS + 60e3 * random.normal()) as u64).collect();
    for _ in 0..3 {
        let late = random.below(FRAMES as u64) as usize;
        shown[late] = (2.0 * REFRESH_NS) as u64;
    }
    let marks = scenes(&[(0, "approach"), (1_080, "rings"), (2_880, "moon")]);
    RecordedFlight { pass: Pass { shown, processor, graphics, ..Pass::default() }, marks }
}

/// A fine average, and a hitch a second.
fn hitching(random: &mut SplitMix) -> RecordedFlight {
    let mut shown = wandering(random, 12.7e6, 0.05);
    let mut frame = 40;
    while frame < FRAMES {
        shown[frame] += (55e6 + 45e6 * random.unit()) as u64;
        frame += 35 + random.below(50) as usize;
    }
    let marks = scenes(&[(0, "approach"), (1_080, "rings"), (2_880, "moon")]);
    RecordedFlight { pass: Pass { shown, ..Pass::default() }, marks }
}

/// A slower card, and a loading screen of some seconds ahead of the rings.
fn loading(random: &mut SplitMix) -> RecordedFlight {
    let mut shown = wandering(random, 20.5e6, 0.06);
    let screen: Vec<u64> = (0..14).map(|_| (180e6 + 90e6 * random.unit()) as u64).collect();
    shown.splice(1_080..1_080, screen);
    let marks = scenes(&[(0, "approach"), (1_094, "rings"), (2_894, "moon")]);
    RecordedFlight { pass: Pass { shown, ..Pass::default() }, marks }
}

#[cfg(test)]
mod tests {
    use super::*;
    use honest_lap_core::frame::{Looks, proposals};
    use honest_lap_core::record::{Against, Cut, Digest};

    #[test]
    fn each_rig_has_its_own_trouble() {
        let digests = |rig: &str| -> Vec<Digest> {
            let of = |flight: &RecordedFlight| {
                Digest::of(&flight.pass, &Cut::default(), Against::display(60.0)).unwrap()
            };
            flights(rig).iter().map(of).collect()
        };
        assert!(digests("kestrel").iter().all(|pass| pass.cap.is_some() && pass.busy.is_some()));
        let (heron, wren) = (digests("heron"), digests("wren"));
        assert!(heron.iter().all(|pass| pass.cap.is_none() && pass.sums.hitches > 20));
        assert!(heron.iter().all(|pass| pass.sums.rate > 57.0 && pass.sums.low_1.unwrap() < 20.0));
        assert!(wren.iter().all(|pass| pass.cap.is_none()));
        for flight in flights("wren") {
            let found = proposals(&flight.pass.shown);
            assert_eq!((found.len(), found[0].looks), (1, Looks::Loading));
        }
        assert!(flights("plover").is_empty());
    }
}
