//! Whatever comes in: no panic, and no frame time that does not stand there.
//!
//! `PROPTEST_CASES` sets how many inputs are tried.
//!
//! Runs in under a second.

#![expect(clippy::unwrap_used, reason = "a test's helpers are test code")]

use honest_lap_frame_log::{As, Log, LogError, TimeUnit, Which, Wish, read};
use proptest::prelude::*;
use std::io::Write;

fn log(bytes: &[u8], wish: &Wish) -> Result<Log, LogError> {
    let mut file = tempfile::tempfile().unwrap();
    file.write_all(bytes).unwrap();
    read(&file, wish)
}

/// Pieces that logs are made of, and some that none should be.
fn piece() -> impl Strategy<Value = String> {
    let words = prop::sample::select(vec![
        "16.7",
        "33.3",
        "0",
        "-1",
        "nan",
        "1e3",
        "1e300",
        "4294967295",
        "18446744073709551615",
        "16,7",
        ",",
        ";",
        "\t",
        " ",
        "\n",
        "\r\n",
        "\"",
        "#",
        "//",
        "frame_ms",
        "time",
        "gpu",
        "cpu busy",
        "s",
        "fps",
        "scene",
        "\u{feff}",
        "µs",
        "..",
        "e",
        "0x1",
        "--",
        "1,234.5",
    ]);
    words.prop_map(str::to_owned)
}

fn wish() -> impl Strategy<Value = Wish> {
    let column = prop::option::of(prop::sample::select(vec!["1", "2", "9", "time", ""]));
    let unit = prop::option::of(prop::sample::select(TimeUnit::ALL.to_vec()));
    let reading = prop::option::of(prop::sample::select(vec![As::Durations, As::Moments]));
    (column, unit, reading).prop_map(|(column, unit, reading)| Wish {
        column: column.map(Which::parse),
        unit,
        reading,
        ..Wish::default()
    })
}

proptest! {
    #[test]
    fn bytes_never_panic(bytes in prop::collection::vec(any::<u8>(), 0..400), wish in wish()) {
        if let Ok(found) = log(&bytes, &wish) {
            prop_assert!(found.pass.shown.iter().all(|&time| time > 0));
        }
    }

    #[test]
    fn pieces_of_logs_never_panic(pieces in prop::collection::vec(piece(), 0..60), wish in wish()) {
        if let Ok(found) = log(pieces.concat().as_bytes(), &wish) {
            let frames = found.pass.shown.len();
            prop_assert!(frames > 0 && found.pass.shown.iter().all(|&time| time > 0));
            for busy in [&found.pass.processor, &found.pass.graphics] {
                prop_assert!(busy.is_empty() || busy.len() == frames);
            }
            prop_assert!(found.marks.iter().all(|mark| mark.frame <= frames as u64));
        }
    }

    #[test]
    fn a_log_is_read_to_the_very_nanoseconds_that_were_written(
        times in prop::collection::vec(1_u64..2_000_000_000, 2..200),
        start in 0_u64..2_000_000_000_000_000_000,
        moments in any::<bool>(),
    ) {
        let mut text = String::from("frame_s\n");
        let decimal = |ns: u64| format!("{}.{:09}\n", ns / 1_000_000_000, ns % 1_000_000_000);
        let mut moment = start;
        if moments {
            text += &decimal(moment);
        }
        for &time in &times {
            moment += time;
            text += &decimal(if moments { moment } else { time });
        }
        let reading = Some(if moments { As::Moments } else { As::Durations });
        let found = log(text.as_bytes(), &Wish { reading, unit: Some(TimeUnit::Seconds), ..Wish::default() }).unwrap();
        prop_assert_eq!(found.pass.shown, times);
    }
}
