//! Frames of real programs on a screen without a monitor: OpenGL by GLX and EGL, Vulkan, a library
//! that looks functions up as it runs, and a game.
//!
//! `scripts/test` installs them; one that is missing fails its test.
//!
//! Runs for about 35 s on one core of two.

#![expect(clippy::unwrap_used, reason = "a test's helpers are test code")]

use honest_lap_testkit::{CommandResult, Screen, TestEnv, rows_of};
use serde_json::Value;

const LAP: &str = env!("CARGO_BIN_EXE_lap");
const SDL: &str = "/usr/libexec/installed-tests/SDL2";

/// Runs each workload once on a screen of its own.
fn driven(workloads: &str) -> (TestEnv, CommandResult) {
    let screen = Screen::new();
    let env = TestEnv::with_study(LAP, &format!("[study]\nwarm_up = 0\nlaps = 1\n{workloads}"));
    let mut command = env.command(&["run", "--unwatched"]);
    let came = command.env("DISPLAY", screen.display()).output().unwrap().into();
    (env, came)
}

fn workload(name: &str, command: &str, frames: &str, more: &str) -> String {
    format!(
        "[workload.{name}]\nkind = \"frames\"\nlimit = \"60s\"\ncommand = [{command}]\nframes = {frames}\n{more}\n"
    )
}

fn lap(env: &TestEnv, number: usize) -> Value {
    let name = format!("here-1.{number}");
    let json: Value =
        serde_json::from_str(&env.lap_ok(&["show", &name, "--format", "json"])).unwrap();
    json["groups"][0]["rows"][0].clone()
}

#[test]
fn a_vulkan_program_that_shows_so_many_frames_is_recorded_to_the_frame() {
    let cubes = [1, 200, 3_000].map(|n| {
        workload(
            &format!("cube-{n}"),
            &format!("\"vkcube\", \"--c\", \"{n}\""),
            "\"presented\"",
            "",
        )
    });
    let (env, came) = driven(&cubes.concat());
    let shown = |number| lap(&env, number)["frames_read_as"].as_str().unwrap().to_owned();
    assert!(shown(2).contains("200 frames through Vulkan by `vkcube`"), "{came}");
    assert!(shown(3).contains("3,000 frames through Vulkan by `vkcube`"), "{came}");
    assert_eq!(lap(&env, 3)["frames"], 2_999);
    let one = "frames: window 1 presented 1 frame, and a frame time lies between two";
    assert!(came.stderr.contains(one), "{came}");
}

#[test]
fn opengl_programs_agree_with_what_they_count_themselves() {
    let printed = "readings = [{ name = \"counted\", pattern = '(\\d+) frames in', unit = \"frames\", better = \"more\" }]";
    let frames = "{ presented = { for = \"6s\" } }";
    let gears = |name: &str, program: &str| {
        workload(name, &format!("\"stdbuf\", \"-oL\", \"{program}\""), frames, printed)
    };
    let (env, came) = driven(&[gears("glx", "glxgears"), gears("egl", "es2gears_x11")].concat());
    assert_eq!(came.status, Some(0), "{came}");
    for (number, api) in [(1, "GLX"), (2, "EGL")] {
        let shown = lap(&env, number);
        assert!(shown["frames_read_as"].as_str().unwrap().contains(api), "{shown:#}");
        let said = shown["stdout_lines"].as_array().unwrap().iter().find_map(|line| {
            let (frames, rest) = line.as_str()?.split_once(" frames in ")?;
            Some((frames.parse::<usize>().ok()?, rest.split(' ').next()?.parse::<f64>().ok()?))
        });
        let (frames, seconds) = said.unwrap();
        let log = format!("{api}.csv");
        env.lap_ok(&["export", &format!("here-1.{number}"), "--out", &log]);
        let text = std::fs::read_to_string(env.path().join(log)).unwrap();
        let times = text.lines().skip(1).map(|row| row.split(',').next().unwrap().parse().unwrap());
        let times: Vec<u64> = times.collect();
        // It says how many frames it drew in its first five seconds. So many of ours take as long, or
        // some are missing; and half as long if each were noted twice. What it did ahead of its first
        // frame, which takes its time on a busy host, is in its seconds alone.
        let ours = times[..frames - 1].iter().sum::<u64>() as f64 / 1e9;
        assert!(
            (0.7 * seconds..1.1 * seconds).contains(&ours),
            "{api}: {ours} s against {seconds} s"
        );
    }
}

#[test]
fn programs_that_look_functions_up_as_they_run_are_caught() {
    let frames = "{ presented = { for = \"2s\" } }";
    let printed = "readings = [{ name = \"own\", pattern = '([0-9.]+) frames per second', in = \"errors\", unit = \"fps\", better = \"more\" }]";
    let sdl = |name: &str, program: &str, environment: &str| {
        let more = format!("{printed}\nenvironment = {{ {environment} }}");
        workload(name, &format!("\"{SDL}/{program}\""), frames, &more)
    };
    let all = [
        sdl("glx", "testgl2", ""),
        sdl("egl", "testgl2", "SDL_VIDEO_X11_FORCE_EGL = \"1\""),
        sdl("vulkan", "testvulkan", ""),
    ];
    let (env, came) = driven(&all.concat());
    assert_eq!(came.status, Some(0), "{came}");
    let found: Value = serde_json::from_str(&env.lap_ok(&[
        "compare",
        "--measure",
        "average rate",
        "--measure",
        "own",
        "--format",
        "json",
    ]))
    .unwrap();
    let typical: Vec<f64> =
        rows_of(&found).iter().map(|row| row["cell"]["typical"].as_f64().unwrap()).collect();
    for pair in typical.chunks(2) {
        // Its own rate ends a little later, with the program, and what else runs may slow either end; a frame in two, or each
        // twice, would be far off.
        assert!((0.75..1.35).contains(&(pair[0] / pair[1])), "{typical:?}");
    }
    for (number, api) in [(1, "GLX"), (2, "EGL"), (3, "Vulkan")] {
        let shown = lap(&env, number);
        assert!(shown["frames_read_as"].as_str().unwrap().contains(api), "{shown:#}");
    }
}

#[test]
fn a_program_that_draws_by_itself_is_told_from_one_that_does_not_draw() {
    let board = workload(
        "board",
        &format!("\"timeout\", \"2\", \"{SDL}/testdrawchessboard\""),
        "\"presented\"",
        "environment = { SDL_FRAMEBUFFER_ACCELERATION = \"0\" }",
    );
    let (_env, came) = driven(&board);
    let why = "drew through memory that it shares with the screen (libX11.so";
    assert!(came.stderr.contains(why), "{came}");
}

#[test]
fn a_game_is_captured_as_it_is() {
    let game = workload(
        "game",
        "\"/usr/games/chromium-bsu\"",
        "{ presented = { frames = 40 } }",
        "environment = { SDL_AUDIODRIVER = \"dummy\" }\nrefresh = \"60 Hz\"",
    );
    let (env, came) = driven(&game);
    assert_eq!(came.status, Some(0), "{came}");
    assert_eq!((&lap(&env, 1)["frames"], &lap(&env, 1)["outcome"]), (&40.into(), &"done".into()));
    env.assert_nothing_runs();
}

#[test]
fn a_program_is_watched_for_the_time_of_a_long_haul_and_its_rate_is_of_its_frames() {
    let gears = "[workload.gears]\nkind = \"endurance\"\nlasts = \"3s\"\nlook_every = \"100ms\"\n\
                 command = [\"glxgears\", \"-geometry\", \"120x120\"]\nframes = \"presented\"\n";
    let (env, came) = driven(gears);
    assert_eq!(came.status, Some(0), "{came}");
    let frames = lap(&env, 1)["frames"].as_f64().unwrap();
    let readings = env.lap_ok(&["export", "readings", "--format", "json-lines"]);
    let read = |name: &str| {
        let all = readings.lines().map(|row| serde_json::from_str::<Value>(row).unwrap());
        all.into_iter().find(|row| row["measure"] == name).unwrap()["value"].as_f64().unwrap()
    };
    // Three seconds of frames: by the average rate, and about as many by where the rate settles.
    assert!((frames / 3.0 / read("average rate") - 1.0).abs() < 0.05, "{readings}");
    // This machine's moods are levels too: they lie about the average, and not beside it.
    let about = read("settled rate") / read("average rate");
    assert!(about > 0.3 && about < 3.0, "{readings}");
    env.lap_ok(&["plot", "gears", "--figure", "rate", "--out", "gears.svg"]);
    let figure = std::fs::read_to_string(env.path().join("gears.svg")).unwrap();
    assert!(figure.contains("fps") && figure.contains("gears: the rate over the time"));
}
