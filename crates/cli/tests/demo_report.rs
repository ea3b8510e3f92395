//! The finished report of the demo's lab, as it stands in `docs/demo`: made anew and compared.

use honest_lap_testkit::TestEnv;
use std::path::Path;

/// Returns `page` without the day on which it was made.
fn undated(page: &str) -> String {
    let stamp = page.rfind("logbook sealed ").expect("it is stamped");
    let day = page[stamp..].find(" · 20").expect("with a day") + stamp + " · ".len();
    format!("{}DAY{}", &page[..day], &page[day + "2026-11-26".len()..])
}

#[test]
fn the_finished_report_is_what_the_tool_makes_of_the_demo() {
    let env = TestEnv::harbour(env!("CARGO_BIN_EXE_lap"));
    env.lap_ok(&["--study", "lab", "report"]);
    let made = std::fs::read_to_string(env.path().join("report.html")).unwrap();
    let kept = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../docs/demo/report.html");
    if std::env::var_os("LAP_WRITE_DEMO").is_some() {
        std::fs::write(&kept, &made).unwrap();
    }
    let (made, kept) = (undated(&made), undated(&std::fs::read_to_string(kept).unwrap()));
    let differs = made.lines().zip(kept.lines()).find(|(made, kept)| made != kept);
    let short = |line: &str| line.chars().take(400).collect::<String>();
    assert!(
        made == kept,
        "docs/demo/report.html is not what the tool makes; read what differs, then: \
         LAP_WRITE_DEMO=1 cargo test -p honest-lap --test demo_report\n{:?}",
        differs.map(|(made, kept)| (short(made), short(kept)))
    );
}
