//! Who may write what, as `lap` tells it.

use super::{LAP, empty, lab, sync, typed};
use honest_lap_testkit::{Postgres, TestEnv};

#[test]
fn a_rig_sends_its_own_sessions_people_add_remarks_and_readers_read() {
    let server = Postgres::start(&["heron", "ada", "press", "stranger"]);
    let heron = typed("heron", 3, 2);
    let address = |role: &str| server.address(role);
    let early = heron.lap(&["sync", "--store", &address("heron")]);
    assert!(early.status == Some(2) && early.stderr.contains("may not make one"), "{early}");
    lab(&server, &["heron"]);
    heron.lap_ok(&[
        "store",
        "allow",
        "ada",
        "--any-rig",
        "--remarks",
        "--store",
        &address("keeper"),
    ]);
    heron.lap_ok(&["store", "allow", "press", "--reads", "--store", &address("keeper")]);
    let who = heron.lap(&["store", "--store", &address("press")]).stderr;
    assert!(who.contains("sends sessions of heron, reads"), "{who}");
    assert!(who.contains("sends sessions of every rig, adds remarks, reads"), "{who}");
    sync(&heron, &server, "heron");
    // A logbook that came home with another rig's sessions: heron's login sends none of them.
    let wren = typed("wren", 2, 1);
    let path = wren.path().join("logbook.db");
    heron.lap_ok(&["merge", path.to_str().unwrap()]);
    heron.lap_ok(&["note", "heron", "its lid was open"]);
    let own = heron.lap(&["sync", "--store", &address("heron")]);
    assert_eq!(own.status, Some(1), "{own}");
    assert!(own.stderr.contains("not sent: wren-1: this login may not write"), "{own}");
    assert!(own.stderr.contains("not sent: 1 remark: this login may not add them"), "{own}");
    let sent = sync(&heron, &server, "ada");
    assert!(sent.contains("sent: 2 new laps in 1 new session, 1 new remark"), "{sent}");
    let reader = empty(&heron);
    let came = sync(&reader, &server, "press");
    // Whose the keys are is asked once, as by `lap merge`.
    assert_eq!(
        came.matches("are signed with a key that the study does not list").count(),
        2,
        "{came}"
    );
    assert!(!sync(&reader, &server, "press").contains("does not list"));
    assert!(came.contains("fetched: 8 new laps in 3 new sessions, 1 new remark"), "{came}");
    reader.lap_ok(&["enter", "tunnel", "--rig", "heron", "90 s"]);
    let refused = reader.lap(&["sync", "--store", &address("press")]);
    assert_eq!(refused.status, Some(1), "{refused}");
    let stranger = reader.lap(&["sync", "--store", &address("stranger")]);
    assert!(
        stranger.status == Some(2) && stranger.stderr.contains("may not read the store"),
        "{stranger}"
    );
    let nobody = heron.lap(&["store", "allow", "nobody", "--reads", "--store", &address("keeper")]);
    assert!(nobody.status == Some(2) && nobody.stderr.contains("no role `nobody`"), "{nobody}");
    let gives = heron.lap(&["store", "allow", "heron", "--any-rig", "--store", &address("heron")]);
    assert!(gives.status == Some(2) && gives.stderr.contains("refused giving rights"), "{gives}");
}

#[test]
fn a_store_that_cannot_be_had_is_told_with_what_to_do() {
    let server = Postgres::start(&[]);
    let env = typed("heron", 1, 1);
    let told = |address: &str, status: i32, why: &str| {
        let came = env.lap(&["sync", "--store", address]);
        assert_eq!(came.status, Some(status), "{came}");
        assert!(came.stderr.contains(why), "{came}");
    };
    told("postgresql://keeper@127.0.0.1:1/laps", 3, "cannot reach the store");
    told("there", 2, "does not say where a store is");
    told(&format!("{}?sslmode=require", server.address("keeper")), 3, "cannot reach the store");
    told(&format!("{}?sslmode=perhaps", server.address("keeper")), 2, "does not say where");
    lab(&server, &[]);
    let later = "ALTER TABLE honest_lap.store DISABLE TRIGGER never; UPDATE honest_lap.store SET format = 99";
    server.sql("keeper", "laps", later);
    told(&server.address("keeper"), 2, "the store is of format 99");
    let fresh = TestEnv::with_study(LAP, "[workload.w]\nkind = \"task\"\ncommand = [\"true\"]\n");
    let none = fresh.lap(&["sync", "--store", "postgresql://keeper@127.0.0.1:1/laps"]);
    assert_eq!(none.status, Some(3), "{none}");
    assert!(!fresh.path().join("logbook.db").exists(), "nothing is made for nothing");
}

#[test]
fn a_connection_is_encrypted_as_its_address_asks() {
    let server = Postgres::start_encrypted(&[]);
    let env = typed("heron", 2, 1);
    let address = server.address("keeper");
    let authority = server.authority().display().to_string();
    let at = |more: &str| format!("{address}?{more}");
    // Unasked it is encrypted where the server does that; this one does nothing else.
    env.lap_ok(&["store", "init", "--store", &address]);
    let plain = env.lap(&["sync", "--store", &at("sslmode=disable")]);
    assert!(plain.status == Some(3) && plain.stderr.contains("no encryption"), "{plain}");
    env.lap_ok(&["sync", "--store", &at("sslmode=require")]);
    env.lap_ok(&["sync", "--store", &at(&format!("sslmode=verify-ca&sslrootcert={authority}"))]);
    // Its certificate is of another name than that which is asked, and follows from none of the system's.
    for (asks, why) in [
        (format!("sslmode=verify-full&sslrootcert={authority}"), "not valid for name"),
        ("sslmode=verify-ca".to_owned(), "UnknownIssuer"),
        (format!("sslmode=verify-ca&sslrootcert={authority}.none"), "certificates"),
    ] {
        let refused = env.lap(&["sync", "--store", &at(&asks)]);
        assert!(matches!(refused.status, Some(2 | 3)), "{asks}: {refused}");
        assert!(refused.stderr.contains(why), "{asks}: {refused}");
    }
    // By its own name, the same certificate is believed. Where that is, the resolver is told apart from the name.
    let port = address.rsplit_once(':').unwrap().1.split('/').next().unwrap();
    let named = format!(
        "host=store.harbour hostaddr=127.0.0.1 port={port} user=keeper dbname=laps \
         sslmode=verify-full sslrootcert={authority}"
    );
    env.lap_ok(&["sync", "--store", &named]);
}
