//! Logs as they come: each is read rightly, or refused with a reason.
//!
//! Runs in under a second.
//! Long, since logs stand in it as they come.

#![expect(clippy::unwrap_used, reason = "a test's helpers are test code")]

use honest_lap_core::record::Faults;
use honest_lap_frame_log::{As, Log, LogError, TimeUnit, Which, Wish, read};
use std::io::Write;

fn log(bytes: &[u8], wish: &Wish) -> Result<Log, LogError> {
    let mut file = tempfile::tempfile().unwrap();
    file.write_all(bytes).unwrap();
    read(&file, wish)
}

fn plain(text: &str) -> Result<Log, LogError> {
    log(text.as_bytes(), &Wish::default())
}

/// The frame times that a made-up log holds, in microseconds.
const TIMES: [u64; 8] = [16_700, 16_600, 16_750, 33_300, 16_650, 16_700, 16_500, 16_800];

fn ns() -> Vec<u64> {
    TIMES.iter().map(|us| us * 1_000).collect()
}

/// Returns the moments of the made-up log in microseconds, from `start`.
fn moments(start: u64) -> Vec<u64> {
    let mut moment = start;
    let later = TIMES.iter().map(|time| {
        moment += time;
        moment
    });
    [start].into_iter().chain(later).collect()
}

/// Returns `heading` and a line for each of the made-up frame times.
fn lines(heading: &str, line: impl Fn(usize, u64) -> String) -> String {
    let rows = TIMES.iter().enumerate().map(|(place, &us)| format!("{}\n", line(place, us)));
    format!("{heading}{}", rows.collect::<String>())
}

fn ms(us: u64) -> String {
    format!("{}.{:03}", us / 1_000, us % 1_000)
}

fn gzip(bytes: &[u8]) -> Vec<u8> {
    let mut packer = flate2::write::GzEncoder::new(Vec::new(), flate2::Compression::fast());
    packer.write_all(bytes).unwrap();
    packer.finish().unwrap()
}

fn utf16(text: &str, big: bool) -> Vec<u8> {
    let turn = |unit: u16| if big { unit.to_be_bytes() } else { unit.to_le_bytes() };
    text.encode_utf16().flat_map(turn).collect()
}

#[test]
fn every_form_of_one_log_is_read_to_the_same_frames() {
    let plain = lines("frame_ms\n", |_, us| ms(us));
    let six = lines("id,frame_ms,cpu_ms,gpu_ms,load,fps\n", |i, us| {
        format!("{i},{},{},{},50,60", ms(us), ms(us / 2), ms(us / 3))
    });
    let moment_lines = |heading: &str, of: &dyn Fn(u64) -> String, start: u64| {
        let rows: Vec<String> = moments(start).into_iter().map(of).collect();
        format!("{heading}{}\n", rows.join("\n"))
    };
    let forms: Vec<(&str, Vec<u8>)> = vec![
        ("a heading with a unit", plain.clone().into()),
        ("no heading, milliseconds by sense", lines("", |_, us| ms(us)).into()),
        ("seconds by sense", lines("", |_, us| format!("0.{us:06}")).into()),
        ("microseconds by sense", lines("frametime\n", |_, us| us.to_string()).into()),
        ("nanoseconds by sense", lines("frame\n", |_, us| (us * 1_000).to_string()).into()),
        ("a power of ten", lines("frame_s\n", |_, us| format!("{us}e-6")).into()),
        ("a sign", lines("frame_ms\n", |_, us| format!("+{}", ms(us))).into()),
        ("carriage returns", plain.replace('\n', "\r\n").into()),
        ("carriage returns alone", plain.replace('\n', "\r").into()),
        ("a byte order mark", format!("\u{feff}{plain}").into()),
        ("utf-16, little end first", utf16(&format!("\u{feff}{plain}"), false)),
        ("utf-16, big end first", utf16(&format!("\u{feff}{plain}"), true)),
        ("utf-16 without a mark", utf16(&plain, false)),
        ("gzip", gzip(plain.as_bytes())),
        ("zstd", zstd::encode_all(plain.as_bytes(), 1).unwrap()),
        ("utf-16 in gzip", gzip(&utf16(&format!("\u{feff}{plain}"), false))),
        ("semicolons", lines("n;frame_ms\n", |i, us| format!("{i};{}", ms(us))).into()),
        ("tabs", lines("n\tframe_ms\n", |i, us| format!("{i}\t{}", ms(us))).into()),
        ("blanks", lines("n   frame_ms\n", |i, us| format!("{i:4}   {:>8}", ms(us))).into()),
        (
            "semicolons and decimal commas",
            lines("n;frame_ms\n", |i, us| format!("{i};{}", ms(us).replace('.', ","))).into(),
        ),
        (
            "one column with decimal commas",
            lines("frame_ms\n", |_, us| ms(us).replace('.', ",")).into(),
        ),
        (
            "quoted decimal commas",
            lines("n,frame_ms\n", |i, us| format!("{i},\"{}\"", ms(us).replace('.', ","))).into(),
        ),
        (
            "quoted fields",
            lines("\"n\",\"frame_ms\"\n", |i, us| format!("\"{i}\",\"{}\"", ms(us))).into(),
        ),
        (
            "a line break in quotes",
            lines("what,frame_ms\n", |_, us| {
                format!("\"over\nthe rings, \"\"far\"\"\",{}", ms(us))
            })
            .into(),
        ),
        ("comments", format!("# made by hand\n// twice\n{plain}# the end\n").into()),
        ("empty lines", plain.replace('\n', "\n\n").into()),
        ("lines ahead of the heading", format!("Pale Harbour dome\nshow,rings\n\n{plain}").into()),
        ("blanks around", lines(" frame_ms \n", |_, us| format!("  {}  ", ms(us))).into()),
        ("no line end at the end", plain.trim_end().into()),
        ("six columns", six.clone().into()),
        ("a number and a frame time", lines("", |i, us| format!("{},{}", i + 1, ms(us))).into()),
        (
            "a program's name in front",
            lines("program,frame_ms\n", |_, us| format!("rings,{}", ms(us))).into(),
        ),
        (
            "moments in seconds",
            moment_lines(
                "time_s\n",
                &|us| format!("{}.{:06}", us / 1_000_000, us % 1_000_000),
                5_000_000,
            )
            .into(),
        ),
        ("moments in milliseconds by sense", moment_lines("", &ms, 100).into()),
        ("moments in microseconds", moment_lines("moment [µs]\n", &|us| us.to_string(), 0).into()),
        (
            "nanoseconds since 1970",
            moment_lines("timestamp_ns\n", &|us| format!("{us}000"), 1_763_900_000_000_000).into(),
        ),
        (
            "seconds since 1970",
            moment_lines(
                "timestamp\n",
                &|us| format!("{}.{:06}", us / 1_000_000, us % 1_000_000),
                1_763_900_000_000_000,
            )
            .into(),
        ),
        (
            "a counter of 32 bits that wraps",
            moment_lines("ticks_us\n", &|us| (us % (1 << 32)).to_string(), (1 << 32) - 60_000)
                .into(),
        ),
        (
            "a counter of 24 bits that wraps",
            moment_lines("moment_us\n", &|us| (us % (1 << 24)).to_string(), (1 << 24) - 60_000)
                .into(),
        ),
        ("moments and frame times that agree", {
            let at = moments(0);
            lines("", |i, us| format!("{},{}", ms(at[i + 1]), ms(us))).into()
        }),
        ("moments and frame times with headings", {
            let at = moments(70);
            lines("elapsed_s,frame_ms\n", |i, us| {
                format!("{:.6},{}", at[i + 1] as f64 / 1e6, ms(us))
            })
            .into()
        }),
        (
            "words between the frames",
            lines(
                "",
                |i, us| {
                    if i == 3 { format!("the rings come up\n{}", ms(us)) } else { ms(us) }
                },
            )
            .into(),
        ),
    ];
    assert!(forms.len() >= 40, "{}", forms.len());
    for (what, bytes) in &forms {
        let found = log(bytes, &Wish::default()).unwrap_or_else(|err| {
            panic!("{what}: {err}: {:?}\n{}", err.help(), String::from_utf8_lossy(bytes))
        });
        let exact: Vec<u64> = found.pass.shown.clone();
        assert_eq!(exact, ns(), "{what}: {}", found.read_as);
        let faults = Faults { wrapped: found.faults.wrapped, ..Faults::default() };
        assert_eq!(found.faults, faults, "{what}");
        assert_eq!(found.faults.wrapped > 0, what.contains("wraps"), "{what}");
    }
    let found = log(six.as_bytes(), &Wish::default()).unwrap();
    assert_eq!(
        found.read_as,
        "column 2 `frame_ms`, durations in milliseconds; column 3 `cpu_ms`, processor busy times in \
         milliseconds; column 4 `gpu_ms`, graphics busy times in milliseconds"
    );
    assert_eq!(found.pass.processor[0], 8_350_000);
    assert_eq!(found.pass.graphics.len(), 8);
}

#[test]
fn what_is_no_frame_time_is_counted_and_left_out() {
    let found = plain("frame_ms\n16.7\nNaN\n16.7\n\"\"\n-3\n0\n16.7\ninf\n16.7\n").unwrap();
    assert_eq!(found.pass.shown, [16_700_000; 4]);
    let told = Faults { not_numbers: 2, missing: 1, negative: 1, zero: 1, ..Faults::default() };
    assert_eq!(found.faults, told);
    let found = plain("moment_ms\n0\n10\n20\n20\n30\n15\n25\n35\n\"\"\n55\n65\n").unwrap();
    // 20 twice; 15 comes after 30, so of 30 to 25 nothing is known, nor of 35 to 55.
    assert_eq!(found.pass.shown, [10_000_000; 5]);
    let told = Faults { repeated: 1, backward: 1, missing: 1, ..Faults::default() };
    assert_eq!(found.faults, told);
    // A moment far ahead is out of order by what follows it, and is no frame of a second.
    let found = plain("moment_ms\n0\n10\n20\n1030\n30\n40\n50\n60\n70\n80\n").unwrap();
    assert_eq!((found.pass.shown, found.faults.backward), (vec![10_000_000; 6], 1));
    let found = plain("frame_ms,gpu_ms\n16.7,8\n16.8,nan\n16.6,-1\n0,7\n16.9,9\n").unwrap();
    assert_eq!(found.pass.graphics, [8_000_000, 0, 0, 9_000_000]);
}

#[test]
fn a_truncated_tail_is_dropped_with_notice() {
    let rows = "n,frame_ms,load\n1,16.7,40\n2,16.8,41\n3,16.9,42\n4,16.";
    let found = plain(rows).unwrap();
    assert_eq!((found.pass.shown.len(), found.faults.truncated), (3, 1));
    let found = plain("frame_ms\n16.701\n16.802\n16.903\n16.9").unwrap();
    assert_eq!((found.pass.shown.len(), found.faults.truncated), (3, 1));
    let whole = lines("", |_, us| ms(us)).repeat(2_000);
    let packed = gzip(format!("frame_ms\n{whole}").as_bytes());
    let broken = log(&packed[..packed.len() * 2 / 3], &Wish::default()).unwrap_err();
    assert!(broken.to_string().contains("the end of what was packed is missing"), "{broken}");
}

#[test]
fn where_two_readings_are_possible_it_asks() {
    let asks = |text: &str, about: &str| match plain(text) {
        Err(err @ LogError::Asks { .. }) => {
            assert!(err.to_string().contains(about), "{err}");
            assert!(err.help().unwrap().contains("--") || err.help().unwrap().contains("heading"));
        }
        other => panic!("{text}: {other:?}"),
    };
    asks("16,7\n16,8\n33,1\n", "two columns, or one number with a decimal comma");
    asks("0.6\n0.7\n0.65\n", "a frame time in no unit or in several");
    asks("16.7,12.1\n16.8,12.9\n16.1,12.0\n", "column 1 or column 2");
    asks("frame_a_ms,frame_b_ms\n16.7,12.1\n16.8,12.9\n16.1,12.0\n", "`frame_a_ms` or");
    asks("time;value\n0.5;3\n1.1;9\n1.4;2\n", "column 1 `time` has 3 values, too few");
    // A few values that rise may be either; so may one or two.
    asks("time_ms\n16.7\n33.4\n50.2\n", "3 values, too few to see");
    asks("16.7\n", "one value, too few");
    asks("time_ms\n16.7\n16.9\n", "2 values, too few");
    // Twelve thousand frames a second are no display's; a thousand are one's.
    asks("frame_ms\n0.08\n0.09\n0.08\n", "12000 a second");
    asks("frame_ms\n16,700\n16,800\n16,650\n17,500\n".replace("ms", "s").as_str(), "thousands");
    asks("12.5,3.3\n19.1,9.4\n31.4,2.1\n", "it is not clear");
}

#[test]
fn what_is_no_log_is_refused_with_a_reason() {
    let refused = |bytes: &[u8], why: &str| match log(bytes, &Wish::default()) {
        Err(err @ LogError::Unreadable { .. }) => {
            assert!(err.to_string().contains(why), "{err}");
            assert!(!err.help().unwrap().is_empty());
        }
        other => panic!("{why}: {other:?}"),
    };
    refused(b"", "there is nothing in it");
    refused(b"# only a comment\n", "there is nothing in it");
    refused(b"\x7fELF\0\0\0\x01", "a zero byte");
    refused(b"once upon a time\nthere was a dome\n", "line 1 is `once upon a time`");
    refused(b"fps\n59.9\n60.1\n58.2\n", "the mean of rates is no rate");
    refused(b"frame\n1\n2\n3\n", "no column holds frame times");
    refused(&[0x1f, 0x8b, 8, 0, 1, 2, 3], "cannot be unpacked");
    refused(b"frame_ms\n0\n0\n0\n", "no row of it is a frame time");
    refused(b"frame_s\n999999999\n999999998\n999999999\n", "more than ten years");
}

#[test]
fn a_log_of_two_recordings_or_of_too_many_cells_is_refused_with_its_line() {
    let refused = |text: &str, why: &str| match plain(text) {
        Err(err @ LogError::Unreadable { .. }) => {
            let told = format!("{err}; {}", err.help().unwrap());
            assert!(told.contains(why) && told.len() < 600, "{told}");
        }
        other => panic!("{why}: {other:?}"),
    };
    let two = |heading: &str, row: &dyn Fn(usize, u64) -> String| {
        let one: String = (0..6).map(|_| lines("", row)).collect();
        format!("{heading}{one}{heading}{one}")
    };
    refused(&two("n,frame_ms\n", &|i, us| format!("{i},{}", ms(us))), "line 50: it holds two");
    // Without a second heading: by what counts frames or time beside them, or by the moments themselves.
    let counted = |rows: usize| -> String {
        let row = |row| format!("{row},{}\n", ms(TIMES[row % 8] + (row % 7) as u64));
        (0..rows).map(row).collect()
    };
    let twice = format!("n,frame_ms\n{0}{0}", counted(600));
    refused(&twice, "its frame numbers begin anew in its midst");
    assert_eq!(plain(&format!("n,frame_ms\n{}", counted(1_200))).unwrap().pass.shown.len(), 1_200);
    let elapsed = |rows: usize, more: bool| -> String {
        let mut at = 0;
        let row = |row: usize| {
            let time = TIMES[row % 8] + (row % 7) as u64;
            at += time;
            if more {
                format!("{}.{:06},{}\n", at / 1_000_000, at % 1_000_000, ms(time))
            } else {
                format!("{}\n", ms(at))
            }
        };
        (0..rows).map(row).collect()
    };
    refused(
        &format!("at_s,frame_ms\n{0}{0}", elapsed(900, true)),
        "its time begins anew in its midst",
    );
    refused(
        &format!("moment_ms\n{0}{0}", elapsed(900, false)),
        "its time begins anew ahead of row 901",
    );
    assert_eq!(
        plain(&format!("moment_ms\n{}", elapsed(900, false))).unwrap().pass.shown.len(),
        899
    );
    // A decimal comma divides a cell: which is which is not known, at the top or deep down.
    refused(
        "frame_ms,gpu_ms\n16,7,8,3\n16,8,8,2\n16,9,8,1\n",
        "line 2 is `16,7,8,3`: 4 cells under 2 headings",
    );
    let deep = lines("n,frame_ms\n", |i, us| format!("{i},{}", ms(us))) + &counted(9_000);
    refused(
        &format!("{deep}9001,1,016.7\n{}", counted(9)),
        "line 9010 is `9001,1,016.7`: 3 cells under 2 headings",
    );
    assert!(
        plain(&format!("n,frame_ms\n{}", counted(20).replace('\n', ",\n"))).is_ok(),
        "an empty cell at the end"
    );
    refused("moment_ms\n5.5\n16.7\n", "it has 2 moments");
    // However many columns and however long their names, what is wrong is told in a few lines.
    let names: Vec<String> = (0..900).map(|n| format!("{}{n}", "x".repeat(60))).collect();
    let row = vec!["fast"; 900].join(",");
    let wide = format!("{}\n{}1,2\n", names.join(","), format!("{row}\n").repeat(3));
    let err = log(wide.as_bytes(), &Wish { column: Some(Which::parse("none")), ..Wish::default() });
    let told = err.map(|_| ()).map_err(|err| format!("{err}; {}", err.help().unwrap()));
    assert!(told.as_ref().is_err_and(|told| told.len() < 1_200), "{told:?}");
}

#[test]
fn thousands_and_decimals_are_told_apart_or_asked_about() {
    let first = |text: &str| plain(text).map(|found| found.pass.shown[0]);
    let quoted =
        |unit: &str, a: &str| format!("n,frame_{unit}\n1,\"{a}\"\n2,\"16,800\"\n3,\"17,100\"\n");
    // By what makes sense: 16,700 µs and 16.700 ms are one frame time.
    assert_eq!(first(&quoted("us", "16,700")).unwrap(), 16_700_000);
    assert_eq!(first(&quoted("ms", "16,700")).unwrap(), 16_700_000);
    // By a number that is written in one way only.
    assert_eq!(first(&quoted("us", "16,700.5")).unwrap(), 16_700_500);
    assert_eq!(first(&quoted("ms", "16,7")).unwrap(), 16_700_000);
    assert_eq!(first("n;frame_us\n1;16.700\n2;16.800\n3;17.100\n").unwrap(), 16_700_000);
    assert_eq!(first("n;frame_ms\n1;16.700\n2;16.800\n3;17.100\n").unwrap(), 16_700_000);
    assert_eq!(
        first("n;frame_ns\n1;16,700,123\n2;16,800,123\n3;17,100,123\n").unwrap(),
        16_700_123
    );
}

#[test]
fn a_small_file_that_unpacks_to_many_rows_is_refused_in_bounded_memory() {
    // 40 million rows of 2 bytes in 80 kB; 128 MB of values at most are held of them.
    let mut packer = flate2::write::GzEncoder::new(Vec::new(), flate2::Compression::fast());
    packer.write_all(b"frame_ms\n16\n17\n16\n").unwrap();
    for _ in 0..40 {
        packer.write_all(&b"9\n".repeat(1_000_000)).unwrap();
    }
    let bomb = packer.finish().unwrap();
    let refused = log(&bomb, &Wish::default()).unwrap_err().to_string();
    assert!(refused.contains("it has more than 16777216 rows"), "{refused}");
    let peak = std::fs::read_to_string("/proc/self/status").unwrap();
    let peak = peak.lines().find_map(|line| line.strip_prefix("VmHWM:")).unwrap();
    let kib: u64 = peak.trim().trim_end_matches(" kB").parse().unwrap();
    assert!(kib < 700 << 10, "{kib} KiB");
}

#[test]
fn the_user_says_what_is_what() {
    let text = "a,b,c\n100,16.7,8\n117,16.8,9\n133,16.6,7\n";
    let wish = |column: &str| Wish { column: Some(Which::parse(column)), ..Wish::default() };
    assert_eq!(log(text.as_bytes(), &wish("2")).unwrap().pass.shown[0], 16_700_000);
    let named =
        Wish { unit: Some(TimeUnit::Microseconds), graphics: Some(Which::parse("C")), ..wish("b") };
    let found = log(text.as_bytes(), &named).unwrap();
    assert_eq!((found.pass.shown[0], found.pass.graphics[0]), (16_700, 8_000));
    let forced = Wish { reading: Some(As::Durations), ..wish("a") };
    assert_eq!(log(text.as_bytes(), &forced).unwrap().pass.shown[1], 117_000_000);
    let moments = Wish { reading: Some(As::Moments), ..wish("a") };
    assert_eq!(log(text.as_bytes(), &moments).unwrap().pass.shown, [17_000_000, 16_000_000]);
    let err = log(text.as_bytes(), &wish("d")).unwrap_err();
    assert_eq!(err.help(), Some("it has: column 1 `a`, column 2 `b`, column 3 `c`"));
}

#[test]
fn marks_come_from_comments_words_and_a_column() {
    let found = plain("frame_ms\n16.7\n# the rings\n16.7\n16.7\n").unwrap();
    assert_eq!((found.marks[0].frame, found.marks[0].name.as_str()), (1, "the rings"));
    let found =
        plain("frame_ms,scene\n16.7,load\n16.7,load\n16.7,rings\n16.7,\n16.7,moon\n").unwrap();
    let names: Vec<_> = found.marks.iter().map(|mark| (mark.frame, mark.name.as_str())).collect();
    assert_eq!(names, [(0, "load"), (2, "rings"), (4, "moon")]);
}

#[test]
fn a_large_log_is_the_same_read_in_two_parts() {
    let mut text = String::from("n,frame_ms,scene\n");
    let mut expected = Vec::new();
    for i in 0..200_000_u64 {
        let us = 10_000 + i * 7_919 % 9_000;
        text += &format!("{i},{},{}\n", ms(us), ["dusk", "rings"][usize::from(i > 100_000)]);
        expected.push(us * 1_000);
    }
    let found = plain(&text).unwrap();
    assert!(found.pass.shown == expected);
    assert_eq!(found.marks.len(), 2);
    assert_eq!(found.marks[1].frame, 100_001);
    // A quote far down in it: then the whole is read by one.
    let quoted = text.replacen("150000,", "\"150000\",", 1);
    assert!(plain(&quoted).unwrap().pass.shown == expected);
}
