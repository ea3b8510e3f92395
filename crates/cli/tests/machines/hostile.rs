//! A hostile client: what a rig's own login can do with SQL of its own, which is to add what follows, and nothing else.

use super::{LAP, lab, sync, typed};
use honest_lap_testkit::{Postgres, TestEnv};

/// All that is recorded, in one number.
const STATE: &str = "SELECT md5(string_agg(md5(t), '' ORDER BY t)) FROM (
    SELECT x::text t FROM honest_lap.session x UNION ALL SELECT x::text FROM honest_lap.lap x
    UNION ALL SELECT x::text FROM honest_lap.lap_detail x UNION ALL SELECT x::text FROM honest_lap.output x
    UNION ALL SELECT x::text FROM honest_lap.pass x UNION ALL SELECT x::text FROM honest_lap.chunk x
    UNION ALL SELECT x::text FROM honest_lap.packed x UNION ALL SELECT x::text FROM honest_lap.seal x
    UNION ALL SELECT x::text FROM honest_lap.remark x UNION ALL SELECT x::text FROM honest_lap.signature x
    UNION ALL SELECT x::text FROM honest_lap.may_write x UNION ALL SELECT x::text FROM honest_lap.may_remark x
    UNION ALL SELECT x::text FROM honest_lap.store x) every";

/// A field of a record, in SQL.
fn field(name: &str, value: &str) -> String {
    format!("'{name} t' || length({value}) || ':' || {value} || chr(10)")
}

fn hash(record: &str) -> String {
    format!("encode(sha256(convert_to({record}, 'UTF8')), 'hex')")
}

/// Returns SQL that begins a session of `rig`, number 9, sealed as it should be; `more` goes into the seal's record.
fn session(rig: &str, more: &str) -> String {
    let mark = "'0f1e2d3c4b5a69788796a5b4c3d2e1f0'";
    let record = [
        "'honest-lap session 5' || chr(10)".to_owned(),
        field("rig", &format!("'{rig}'")),
        "'number n1:9' || chr(10)".to_owned(),
        field("mark", mark),
        field("started", "'2020-01-01T00:00:00Z'"),
        "'seed n1:1' || chr(10)".to_owned(),
        field("tool", "'x'"),
        field("found", "'{}'"),
        field("versions", "'[]'"),
    ];
    let seal = hash(&format!("{}{more}", record.join(" || ")));
    format!(
        "WITH s AS (INSERT INTO honest_lap.session (rig, number, mark, started, seed, tool, found, versions, about)
             VALUES ('{rig}', 9, {mark}, '2020-01-01T00:00:00Z', 1, 'x', '{{}}', '[]', '{{}}') RETURNING id)
         INSERT INTO honest_lap.seal (session, number, seal, form) SELECT id, 0, {seal}, 5 FROM s"
    )
}

/// Returns SQL that adds lap `number` to the session of `rig`, sealed behind `before`; `wall` is what the lap says.
fn lap(rig: &str, number: u32, before: &str, (sealed, wall): (u32, u32)) -> String {
    let digits = |n: u32| n.to_string().len();
    let record = [
        "'honest-lap lap 5' || chr(10)".to_owned(),
        field("before", before),
        field("session", "s.mark"),
        format!("'number n{}:{number}' || chr(10)", digits(number)),
        "'round n1:1' || chr(10) || 'warm_up n1:0' || chr(10)".to_owned(),
        field("outcome", "'done'"),
        format!("'wall_ns n{}:{sealed}' || chr(10)", digits(sealed)),
        field("workload", "t.workload"),
        format!("'form h64:' || {} || chr(10)", hash("t.form")),
        field("settings", "v.settings"),
        field("started", "'2020-01-01T00:00:00Z'"),
        field("conditions", "'{}'"),
    ];
    let seal = hash(&record.join(" || "));
    format!(
        "BEGIN;
         INSERT INTO honest_lap.lap (session, number, task, variant, round, warm_up, outcome, wall_ns)
             SELECT s.id, {number}, t.id, v.id, 1, 0, 'done', {wall}
             FROM honest_lap.session s, honest_lap.task t, honest_lap.variant v WHERE s.rig = '{rig}' LIMIT 1;
         INSERT INTO honest_lap.lap_detail (lap, started, conditions, command, folder, produced, left_behind)
             SELECT max(id), '2020-01-01T00:00:00Z', '{{}}', '[]', '', '[]', '[]' FROM honest_lap.lap;
         INSERT INTO honest_lap.seal (session, number, seal, form)
             SELECT s.id, {number}, {seal}, 5
             FROM honest_lap.session s, honest_lap.task t, honest_lap.variant v,
                  honest_lap.lap l, honest_lap.seal k
             WHERE s.rig = '{rig}' AND l.session = s.id AND l.number = {number} AND l.task = t.id AND l.variant = v.id
                 AND k.session = s.id AND k.number = (SELECT max(number) FROM honest_lap.seal b
                                                      WHERE b.session = s.id AND b.number < {number});
         COMMIT"
    )
}

const HEAD: &str = "k.seal";

/// What is tried: in words, the words that refuse it, and the SQL.
fn tries() -> Vec<(&'static str, &'static str, String)> {
    let fixed = [
        ("alter a time", "permission denied", "UPDATE honest_lap.lap SET wall_ns = 1"),
        (
            "alter nothing, so that a rule is tried",
            "permission denied",
            "UPDATE honest_lap.lap SET wall_ns = 1 WHERE false",
        ),
        (
            "back-date a session",
            "permission denied",
            "UPDATE honest_lap.session SET started = '2020-01-01T00:00:00Z'",
        ),
        ("alter a seal", "permission denied", "UPDATE honest_lap.seal SET seal = 'x'"),
        (
            "alter by a conflict",
            "permission denied",
            "INSERT INTO honest_lap.packed VALUES ('x', '') ON CONFLICT (sha256) DO UPDATE SET packed = ''",
        ),
        (
            "alter by MERGE",
            "permission denied",
            "MERGE INTO honest_lap.lap l USING honest_lap.seal k ON true WHEN MATCHED THEN UPDATE SET wall_ns = 1",
        ),
        (
            "alter times that figures read",
            "permission denied",
            "UPDATE honest_lap.alike SET walls = int8send(1)",
        ),
        (
            "add laps that figures read and that are none",
            "permission denied",
            "INSERT INTO honest_lap.alike SELECT id, session, 99, '', '', int8send(1) FROM honest_lap.lap",
        ),
        ("hide laps from figures", "permission denied", "DELETE FROM honest_lap.alike"),
        (
            "hide laps from figures, by a rule of its own",
            "permission denied",
            "CREATE TEMP TABLE mine (one int);
             CREATE FUNCTION pg_temp.hide() RETURNS trigger LANGUAGE plpgsql AS
                 $$ BEGIN DELETE FROM honest_lap.alike; RETURN NULL; END $$;
             CREATE TRIGGER hide AFTER INSERT ON mine EXECUTE FUNCTION pg_temp.hide();
             INSERT INTO mine VALUES (1)",
        ),
        ("delete laps", "permission denied", "DELETE FROM honest_lap.lap"),
        ("delete a remark", "permission denied", "DELETE FROM honest_lap.remark"),
        ("empty a table", "permission denied", "TRUNCATE honest_lap.seal CASCADE"),
        ("drop a table", "must be owner", "DROP TABLE honest_lap.output CASCADE"),
        ("drop all", "must be owner", "DROP SCHEMA honest_lap CASCADE"),
        ("switch off the rules", "must be owner", "ALTER TABLE honest_lap.lap DISABLE TRIGGER ALL"),
        (
            "switch off row security",
            "must be owner",
            "ALTER TABLE honest_lap.session DISABLE ROW LEVEL SECURITY",
        ),
        ("take a rule away", "must be owner", "DROP TRIGGER never ON honest_lap.lap"),
        (
            "add a rule",
            "permission denied",
            "CREATE TRIGGER mine BEFORE INSERT ON honest_lap.lap EXECUTE FUNCTION honest_lap.never()",
        ),
        (
            "add a policy",
            "must be owner",
            "CREATE POLICY mine ON honest_lap.session FOR ALL USING (true)",
        ),
        (
            "another hash",
            "permission denied",
            "CREATE OR REPLACE FUNCTION honest_lap.hash(value text) RETURNS text LANGUAGE sql AS $$ SELECT 'x' $$",
        ),
        (
            "rights of its own",
            "permission denied",
            "INSERT INTO honest_lap.may_write VALUES ('heron', '*')",
        ),
        (
            "the right to remark",
            "permission denied",
            "INSERT INTO honest_lap.may_remark VALUES ('heron')",
        ),
        ("into another group", "must have admin option", "GRANT lap_people TO heron"),
        ("be the owner", "permission denied", "SET ROLE keeper"),
        ("be the owner from the start", "permission denied", "SET SESSION AUTHORIZATION keeper"),
        (
            "as a replica, without rules",
            "permission denied",
            "SET session_replication_role = replica",
        ),
        ("another format", "permission denied", "UPDATE honest_lap.store SET format = 99"),
        ("places anew", "permission denied", "SELECT setval('honest_lap.place', 1)"),
        (
            "lock everyone out",
            "permission denied",
            "BEGIN; LOCK TABLE honest_lap.lap IN ACCESS EXCLUSIVE MODE; COMMIT",
        ),
        ("hold a row", "permission denied", "SELECT 1 FROM honest_lap.lap FOR UPDATE"),
        (
            "a table of its own among them",
            "permission denied",
            "CREATE TABLE honest_lap.mine (x int)",
        ),
        (
            "a seal of nothing",
            "may not write sessions of wren",
            "INSERT INTO honest_lap.seal (session, number, seal, form) SELECT id, 50, 'x', 5 FROM honest_lap.session",
        ),
        (
            "a seal with its own place",
            "permission denied",
            "INSERT INTO honest_lap.seal (place, session, number, seal, form) SELECT 1, id, 50, 'x', 5 FROM honest_lap.session",
        ),
        (
            "a seal that came long ago",
            "permission denied",
            "INSERT INTO honest_lap.seal (came, session, number, seal, form) SELECT '2020-01-01', id, 50, 'x', 5 FROM honest_lap.session",
        ),
        (
            "a seal by somebody else",
            "permission denied",
            "INSERT INTO honest_lap.seal (writer, session, number, seal, form) SELECT 'wren', id, 50, 'x', 5 FROM honest_lap.session",
        ),
        (
            "a lap without a seal",
            "lap_is_sealed",
            "INSERT INTO honest_lap.lap (session, number, task, variant, round, warm_up, outcome, wall_ns) SELECT s.id, 90, t.id, v.id, 1, 0, 'done', 1 FROM honest_lap.session s, honest_lap.task t, honest_lap.variant v LIMIT 1",
        ),
        (
            "an output for a sealed lap",
            "never added to",
            "INSERT INTO honest_lap.output (lap, stream, head, tail, total) SELECT id, 'stdout', 'x', '', 1 FROM honest_lap.lap",
        ),
        (
            "frames for a sealed lap",
            "never added to",
            "INSERT INTO honest_lap.pass (lap, about) SELECT id, '{}' FROM honest_lap.lap",
        ),
        (
            "a chunk for a sealed lap",
            "never added to",
            "WITH p AS (INSERT INTO honest_lap.packed (sha256, packed) VALUES (encode(sha256('x'), 'hex'), 'x') RETURNING sha256) INSERT INTO honest_lap.chunk (lap, series, part, count, sha256) SELECT l.id, 'shown', 0, 1, p.sha256 FROM honest_lap.lap l, p",
        ),
        (
            "a second detail",
            "duplicate key",
            "INSERT INTO honest_lap.lap_detail (lap, started, conditions, command, folder, produced, left_behind) SELECT id, 'x', '{}', '[]', '', '[]', '[]' FROM honest_lap.lap",
        ),
        (
            "what is not under its hash",
            "packed_check",
            "INSERT INTO honest_lap.packed (sha256, packed) VALUES (encode(sha256('x'), 'hex'), 'y')",
        ),
        (
            "a signature of another rig's session",
            "may not sign sessions of wren",
            "INSERT INTO honest_lap.signature (session, number, key, signature) SELECT id, 0, 'k', 's' FROM honest_lap.session WHERE rig = 'wren'",
        ),
        (
            "a signature of what is not there",
            "signature_is_of_a_seal",
            "INSERT INTO honest_lap.signature (session, number, key, signature) SELECT id, 77, 'k', 's' FROM honest_lap.session WHERE rig = 'heron'",
        ),
        (
            "a remark",
            "permission denied",
            "INSERT INTO honest_lap.remark (mark, made, kind, subject, text, before, seal, form) VALUES ('m', 'x', 'note', '\"x\"', 'x', '', 'x', 5)",
        ),
        (
            "a session without a seal",
            "session_is_sealed",
            "INSERT INTO honest_lap.session (rig, number, mark, started, seed, tool, found, versions, about) VALUES ('heron', 9, 'm', 'x', 1, 'x', '{}', '[]', '{}')",
        ),
        (
            "checks put off",
            "session_is_sealed",
            "BEGIN; SET CONSTRAINTS ALL DEFERRED; INSERT INTO honest_lap.session (rig, number, mark, started, seed, tool, found, versions, about) VALUES ('heron', 9, 'm', 'x', 1, 'x', '{}', '[]', '{}'); COMMIT",
        ),
    ];
    let mut all: Vec<(&str, &str, String)> =
        fixed.map(|(what, why, sql)| (what, why, sql.to_owned())).into();
    let shadow = |what: &str, sql: String| format!("{what}; {sql}");
    all.extend([
        ("a session of another rig", "row-level security", session("wren", "")),
        ("a session under a seal of something else", "not what its seal says", session("heron", " || 'about t1:x' || chr(10)")),
        (
            "a session of another rig, with a table of rights of its own in front", "row-level security",
            shadow(
                "CREATE TEMP TABLE may_write (role name, rig text); INSERT INTO pg_temp.may_write VALUES ('heron', '*');
                 SET search_path = pg_temp, honest_lap",
                session("wren", ""),
            ),
        ),
        (
            "a session under a wrong seal, with a hash of its own in front", "not what its seal says",
            shadow(
                "CREATE FUNCTION pg_temp.hash(value text) RETURNS text LANGUAGE sql AS $$ SELECT 'x' $$;
                 SET search_path = pg_temp, honest_lap",
                session("heron", " || 'x'"),
            ),
        ),
        ("a seal of an old form", "does not check", session("heron", "").replace(", 5 FROM s", ", 4 FROM s")),
        ("a lap of another rig's session", "may not write sessions of wren", lap("wren", 8, HEAD, (7, 7))),
        ("a lap that says another time than its seal", "not what its seal says", lap("heron", 8, HEAD, (7, 8))),
        ("a lap that does not follow the record before it", "not what its seal says", lap("heron", 8, "repeat('0', 64)", (7, 7))),
    ]);
    all
}

#[test]
fn a_rigs_login_cannot_alter_delete_back_date_or_fabricate() {
    let server = Postgres::start(&["heron", "wren"]);
    lab(&server, &["heron", "wren"]);
    let heron = TestEnv::with_workload(LAP, "laps = 6\ncommand = [\"true\"]");
    heron.lap_ok(&["run", "--rig", "heron"]);
    sync(&heron, &server, "heron");
    let wren = typed("wren", 3, 1);
    sync(&wren, &server, "wren");
    let state = || server.sql("keeper", "laps", STATE);
    let before = state();
    let tries = tries();
    assert_eq!(tries.len(), 55, "as docs/lab.md says");
    for (what, why, sql) in &tries {
        let told = server.try_sql("heron", "laps", sql).expect_err(what);
        assert!(told.contains(why), "{what}: {told}\n{sql}");
        assert_eq!(state(), before, "{what}");
    }
    // What it was all about: the same words are taken where they are true.
    server.sql("heron", "laps", &lap("heron", 8, HEAD, (7, 7)));
    // A lap that was left out is not put in later.
    let late = server.try_sql("heron", "laps", &lap("heron", 7, HEAD, (7, 7))).unwrap_err();
    assert!(late.contains("goes on behind its last record, never before it"), "{late}");
    server.sql("heron", "laps", &session("heron", ""));
    // So that whoever fetches it finds nothing wrong, and a clock that says 2020 beside the day when it came.
    let home = super::empty(&heron);
    sync(&home, &server, "wren");
    home.lap_ok(&["verify"]);
    let came = "SELECT count(*) FROM honest_lap.seal WHERE came < now() - interval '1 hour' OR came > now()";
    assert_eq!(server.sql("keeper", "laps", came), "0");
    // Not even the owner, without taking the rules away.
    let owner = server.try_sql("keeper", "laps", "UPDATE honest_lap.lap SET wall_ns = 1");
    assert!(owner.unwrap_err().contains("what is recorded is never altered"));
    let owner = server.try_sql("keeper", "laps", "DELETE FROM honest_lap.alike");
    assert!(owner.unwrap_err().contains("is made of them, and never by hand"));
}
