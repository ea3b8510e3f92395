//! Clients and servers that are killed in the midst of it: nothing is lost, nothing is there twice.

use super::{empty, lab, sync, typed};
use honest_lap_testkit::{Postgres, TestEnv};
use std::process::Command;
use std::time::{Duration, Instant};

/// Moments of killing, spread over a sync without any chance in it.
fn moment(at: u64) -> Duration {
    Duration::from_micros(2_000 + at * 7_919 % 260_000)
}

#[test]
fn a_hundred_kills_of_client_and_server_lose_nothing_and_leave_nothing_twice() {
    let mut server = Postgres::start(&["heron"]);
    lab(&server, &["heron"]);
    let env = typed("heron", 60, 50);
    let address = server.address("heron");
    let mut ended = 0;
    for at in 0..90 {
        let mut client = env.start(&["sync", "--store", &address]);
        std::thread::sleep(moment(at));
        let _ = client.kill();
        ended += usize::from(client.wait().unwrap().success());
    }
    for at in 0..10 {
        let mut client = env.start(&["sync", "--store", &address]);
        std::thread::sleep(moment(at * 3 + 1));
        server.crash();
        client.wait().unwrap();
    }
    sync(&env, &server, "heron");
    let again = sync(&env, &server, "heron");
    assert!(again.contains("sent: nothing new"), "{again}");
    let count = |what: &str| {
        server.sql("keeper", "laps", &format!("SELECT count(*) FROM honest_lap.{what}"))
    };
    assert_eq!(
        (count("session"), count("lap"), count("lap_detail")),
        ("50".into(), "3000".into(), "3000".into())
    );
    assert!(ended < 90, "some were killed in the midst of it: {ended}");
    // Fetching, killed likewise.
    let home = empty(&env);
    for at in 0..20 {
        let mut client = home.start(&["sync", "--store", &address]);
        std::thread::sleep(moment(at * 5));
        let _ = client.kill();
        client.wait().unwrap();
    }
    // Asked to end, it does so soon, and leaves nothing of what was being checked.
    for at in 0..12 {
        let aside = || {
            let files =
                std::fs::read_dir(home.path()).unwrap().map(|file| file.unwrap().file_name());
            files.filter(|name| name.to_string_lossy().starts_with("honest-lap-")).count()
        };
        // Those of what was killed before are another's.
        let before = aside();
        let mut client = home.start(&["sync", "--store", &address]);
        std::thread::sleep(moment(at * 7 + 3));
        let begun = Instant::now();
        Command::new("kill").args(["-INT", &client.id().to_string()]).status().unwrap();
        client.wait().unwrap();
        assert!(begun.elapsed() < Duration::from_secs(3), "{:?}", begun.elapsed());
        assert_eq!(aside(), before);
    }
    sync(&home, &server, "heron");
    assert!(home.lap_ok(&["verify"]).contains("3000 laps in 50 sessions"));
    let sums = |env: &TestEnv| env.lap_ok(&["export", "sums"]);
    assert_eq!(sums(&home), sums(&env));
}
