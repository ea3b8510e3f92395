//! What README and guide show of games, run as written.
//!
//! Runs for about 15 s on one core of two.

use super::presented::presenting;
use honest_lap_testkit::blocks;
use std::time::Duration;

#[test]
fn a_game_is_captured_marked_and_exported_as_written() {
    let all: Vec<_> = blocks().into_iter().filter(|block| block.place == "screen").collect();
    assert_eq!(all.len(), 2, "README and the page of games");
    for block in all {
        let env = presenting("paced 3000 1000", "\"presented\"");
        let study = env.path().join("study.toml");
        let text = std::fs::read_to_string(&study).expect("a study");
        let text =
            text.replace("[workload.w]", "[workload.fly-through]").replace("laps = 1", "laps = 2");
        std::fs::write(&study, text).expect("a study");
        env.lap_ok(&["run", "--rig", "wren"]);
        let mut run = None;
        for line in &block.lines {
            if line.starts_with("lap run") {
                run = Some(env.start(&["run", "fly-through"]));
                std::thread::sleep(Duration::from_millis(1_500));
                continue;
            }
            if !line.starts_with("lap mark")
                && let Some(mut run) = run.take()
            {
                assert!(run.wait().is_ok_and(|status| status.success()), "{line}");
            }
            let came = env.shell(line);
            assert_eq!(came.status, Some(0), "{}: {line}: {came}", block.page.display());
        }
        env.assert_nothing_runs();
    }
}
