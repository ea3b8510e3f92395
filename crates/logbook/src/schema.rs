//! The stored format and its history.
//!
//! | format | since | change |
//! |---|---|---|
//! | 1 | 0.1.0 | the first |
//! | 2 | 0.1.0 | readings, the parts that count, traces; what is known of a session; remarks; two logbooks may hold sessions of one name |
//! | 3 | 0.1.0 | passes and their frames |
//! | 4 | 0.1.0 | how long each frame was being presented; what else was presented |
//! | 5 | 0.1.0 | long series of a lap |
//! | 6 | 0.1.0 | tasks and variants are written with their first lap, never ahead of it |
//! | 7 | 0.2.0 | one list of columns; chunks, each with its hash; records in one order; signatures |
//! | 8 | 0.2.0 | what an endurance lap comes to |
//!
//! Formats up to 6 are what these texts make; from 7 on the lists of `stored` make them.

use crate::stored::{FIRST, additions, schema, shapes};
use crate::upgrade::to_lists;
use rusqlite::Connection;

/// Returns the newest format, which is the one that is written.
pub(crate) fn newest() -> u32 {
    let columns = shapes().into_iter().flat_map(|shape| shape.columns);
    columns.map(|column| column.since).max().unwrap_or(FIRST)
}

/// Makes the tables of format `to` of those of format `from`; format 0 has none.
pub(crate) fn bring_up(db: &Connection, from: u32, to: u32) -> rusqlite::Result<()> {
    if from == 0 && to >= FIRST {
        db.execute_batch(&schema(&shapes()))?;
    } else if from < FIRST {
        let old = MIGRATIONS.iter().take(to as usize).skip(from as usize);
        old.into_iter().try_for_each(|step| db.execute_batch(step))?;
        if to >= FIRST {
            to_lists(db)?;
        }
    }
    let added = from.max(FIRST) + 1..=to;
    added.into_iter().try_for_each(|format| db.execute_batch(&additions(&shapes(), format)))
}

/// Marks the file as ours ("LAPH"), so that no other database is taken for a logbook.
pub(crate) const APPLICATION_ID: i32 = 0x4c41_5048;

/// What turned each format into the next; the first turned an empty file into format 1.
const MIGRATIONS: [&str; 6] = [FORMAT_1, FORMAT_2, FORMAT_3, FORMAT_4, FORMAT_5, FORMAT_6];

const FORMAT_1: &str = "
CREATE TABLE session (
    id       INTEGER PRIMARY KEY,
    rig      TEXT    NOT NULL,
    number   INTEGER NOT NULL CHECK (number > 0),
    mark     TEXT    NOT NULL UNIQUE,
    started  TEXT    NOT NULL,
    seed     INTEGER NOT NULL,
    tool     TEXT    NOT NULL,
    found    TEXT    NOT NULL,
    versions TEXT    NOT NULL,
    UNIQUE (rig, number)
) STRICT;

CREATE TABLE task (
    id       INTEGER PRIMARY KEY,
    workload TEXT    NOT NULL,
    form     TEXT    NOT NULL,
    UNIQUE (workload, form)
) STRICT;

CREATE TABLE variant (
    id       INTEGER PRIMARY KEY,
    settings TEXT    NOT NULL UNIQUE
) STRICT;

CREATE TABLE lap (
    id       INTEGER PRIMARY KEY,
    session  INTEGER NOT NULL REFERENCES session (id),
    number   INTEGER NOT NULL CHECK (number > 0),
    task     INTEGER NOT NULL REFERENCES task (id),
    variant  INTEGER NOT NULL REFERENCES variant (id),
    round    INTEGER NOT NULL,
    warm_up  INTEGER NOT NULL CHECK (warm_up IN (0, 1)),
    outcome  TEXT    NOT NULL,
    wall_ns  INTEGER CHECK (wall_ns >= 0),
    UNIQUE (session, number)
) STRICT;

-- Apart from `lap`, so that summing up reads no more than it needs.
CREATE TABLE lap_detail (
    lap              INTEGER PRIMARY KEY REFERENCES lap (id),
    started          TEXT    NOT NULL,
    reason           TEXT,
    command          TEXT    NOT NULL,
    folder           TEXT    NOT NULL,
    exit_code        INTEGER,
    signal           INTEGER,
    user_ns          INTEGER,
    system_ns        INTEGER,
    peak_bytes       INTEGER,
    peak_floor_bytes INTEGER,
    conditions       TEXT    NOT NULL,
    produced         TEXT    NOT NULL,
    left_behind      TEXT    NOT NULL
) STRICT;

CREATE TABLE output (
    lap    INTEGER NOT NULL REFERENCES lap (id),
    stream TEXT    NOT NULL CHECK (stream IN ('stdout', 'stderr')),
    head   BLOB    NOT NULL,
    tail   BLOB    NOT NULL,
    total  INTEGER NOT NULL,
    PRIMARY KEY (lap, stream)
) STRICT, WITHOUT ROWID;

-- Number 0 is the session itself; see seal.rs.
CREATE TABLE seal (
    session INTEGER NOT NULL REFERENCES session (id),
    number  INTEGER NOT NULL CHECK (number >= 0),
    seal    TEXT    NOT NULL,
    PRIMARY KEY (session, number)
) STRICT, WITHOUT ROWID;

CREATE TRIGGER session_keeps    BEFORE UPDATE ON session    BEGIN SELECT RAISE(ABORT, 'what is recorded is never altered'); END;
CREATE TRIGGER session_stays    BEFORE DELETE ON session    BEGIN SELECT RAISE(ABORT, 'what is recorded is never deleted'); END;
CREATE TRIGGER task_keeps       BEFORE UPDATE ON task       BEGIN SELECT RAISE(ABORT, 'what is recorded is never altered'); END;
CREATE TRIGGER task_stays       BEFORE DELETE ON task       BEGIN SELECT RAISE(ABORT, 'what is recorded is never deleted'); END;
CREATE TRIGGER variant_keeps    BEFORE UPDATE ON variant    BEGIN SELECT RAISE(ABORT, 'what is recorded is never altered'); END;
CREATE TRIGGER variant_stays    BEFORE DELETE ON variant    BEGIN SELECT RAISE(ABORT, 'what is recorded is never deleted'); END;
CREATE TRIGGER lap_keeps        BEFORE UPDATE ON lap        BEGIN SELECT RAISE(ABORT, 'what is recorded is never altered'); END;
CREATE TRIGGER lap_stays        BEFORE DELETE ON lap        BEGIN SELECT RAISE(ABORT, 'what is recorded is never deleted'); END;
CREATE TRIGGER lap_detail_keeps BEFORE UPDATE ON lap_detail BEGIN SELECT RAISE(ABORT, 'what is recorded is never altered'); END;
CREATE TRIGGER lap_detail_stays BEFORE DELETE ON lap_detail BEGIN SELECT RAISE(ABORT, 'what is recorded is never deleted'); END;
CREATE TRIGGER output_keeps     BEFORE UPDATE ON output     BEGIN SELECT RAISE(ABORT, 'what is recorded is never altered'); END;
CREATE TRIGGER output_stays     BEFORE DELETE ON output     BEGIN SELECT RAISE(ABORT, 'what is recorded is never deleted'); END;
CREATE TRIGGER seal_keeps       BEFORE UPDATE ON seal       BEGIN SELECT RAISE(ABORT, 'what is recorded is never altered'); END;
CREATE TRIGGER seal_stays       BEFORE DELETE ON seal       BEGIN SELECT RAISE(ABORT, 'what is recorded is never deleted'); END;
";

/// `session` is made anew without its constraint on names: logbooks that meet may both hold a
/// `heron-3`, and names.rs tells them apart. Records keep every value they had.
const FORMAT_2: &str = "
CREATE TABLE session_2 (
    id       INTEGER PRIMARY KEY,
    rig      TEXT    NOT NULL,
    number   INTEGER NOT NULL CHECK (number > 0),
    mark     TEXT    NOT NULL UNIQUE,
    started  TEXT    NOT NULL,
    seed     INTEGER NOT NULL,
    tool     TEXT    NOT NULL,
    found    TEXT    NOT NULL,
    versions TEXT    NOT NULL,
    about    TEXT    NOT NULL DEFAULT '{}'
) STRICT;
INSERT INTO session_2 (id, rig, number, mark, started, seed, tool, found, versions)
    SELECT id, rig, number, mark, started, seed, tool, found, versions FROM session;
DROP TABLE session;
ALTER TABLE session_2 RENAME TO session;
CREATE TRIGGER session_keeps BEFORE UPDATE ON session BEGIN SELECT RAISE(ABORT, 'what is recorded is never altered'); END;
CREATE TRIGGER session_stays BEFORE DELETE ON session BEGIN SELECT RAISE(ABORT, 'what is recorded is never deleted'); END;

-- The time of the parts that count; the step in which a time was read by hand.
ALTER TABLE lap ADD COLUMN parts_ns INTEGER CHECK (parts_ns >= 0);
ALTER TABLE lap ADD COLUMN step_ns INTEGER CHECK (step_ns >= 0);
ALTER TABLE lap_detail ADD COLUMN readings TEXT NOT NULL DEFAULT '[]';
ALTER TABLE lap_detail ADD COLUMN traces TEXT NOT NULL DEFAULT '{}';
-- Most laps have no readings: this finds the others without a look at every lap.
CREATE INDEX lap_with_readings ON lap_detail (lap) WHERE readings <> '[]';

-- Which form of seal it is: 1 does not cover what format 2 added.
ALTER TABLE seal ADD COLUMN form INTEGER NOT NULL DEFAULT 1;

CREATE TABLE remark (
    id      INTEGER PRIMARY KEY,
    mark    TEXT    NOT NULL UNIQUE,
    made    TEXT    NOT NULL,
    kind    TEXT    NOT NULL,
    subject TEXT    NOT NULL,
    text    TEXT    NOT NULL,
    -- The seal of the remark before it; empty for the first.
    before  TEXT    NOT NULL,
    seal    TEXT    NOT NULL UNIQUE
) STRICT;
CREATE TRIGGER remark_keeps BEFORE UPDATE ON remark BEGIN SELECT RAISE(ABORT, 'what is recorded is never altered'); END;
CREATE TRIGGER remark_stays BEFORE DELETE ON remark BEGIN SELECT RAISE(ABORT, 'what is recorded is never deleted'); END;
";

const FORMAT_3: &str = "
-- What is said of a lap's frames: where they come from, what they come to.
CREATE TABLE pass (
    lap   INTEGER PRIMARY KEY REFERENCES lap (id),
    about TEXT    NOT NULL
) STRICT;

-- The frames, in nanoseconds, packed losslessly; see frames.rs.
CREATE TABLE frames (
    id     INTEGER PRIMARY KEY,
    lap    INTEGER NOT NULL REFERENCES lap (id),
    series TEXT    NOT NULL CHECK (series IN ('shown', 'processor', 'graphics')),
    part   INTEGER NOT NULL CHECK (part >= 0),
    count  INTEGER NOT NULL CHECK (count > 0),
    packed BLOB    NOT NULL,
    UNIQUE (lap, series, part)
) STRICT;

CREATE TRIGGER pass_keeps   BEFORE UPDATE ON pass   BEGIN SELECT RAISE(ABORT, 'what is recorded is never altered'); END;
CREATE TRIGGER pass_stays   BEFORE DELETE ON pass   BEGIN SELECT RAISE(ABORT, 'what is recorded is never deleted'); END;
CREATE TRIGGER frames_keeps BEFORE UPDATE ON frames BEGIN SELECT RAISE(ABORT, 'what is recorded is never altered'); END;
CREATE TRIGGER frames_stays BEFORE DELETE ON frames BEGIN SELECT RAISE(ABORT, 'what is recorded is never deleted'); END;
";

/// `frames` is made anew without its list of series. Records keep every value they had.
const FORMAT_4: &str = "
CREATE TABLE frames_4 (
    id     INTEGER PRIMARY KEY,
    lap    INTEGER NOT NULL REFERENCES lap (id),
    series TEXT    NOT NULL,
    part   INTEGER NOT NULL CHECK (part >= 0),
    count  INTEGER NOT NULL CHECK (count > 0),
    packed BLOB    NOT NULL,
    UNIQUE (lap, series, part)
) STRICT;
INSERT INTO frames_4 (id, lap, series, part, count, packed)
    SELECT id, lap, series, part, count, packed FROM frames;
DROP TABLE frames;
ALTER TABLE frames_4 RENAME TO frames;
CREATE TRIGGER frames_keeps BEFORE UPDATE ON frames BEGIN SELECT RAISE(ABORT, 'what is recorded is never altered'); END;
CREATE TRIGGER frames_stays BEFORE DELETE ON frames BEGIN SELECT RAISE(ABORT, 'what is recorded is never deleted'); END;
";

const FORMAT_5: &str = "
-- Long series of a lap, packed losslessly; see series.rs.
CREATE TABLE series (
    id     INTEGER PRIMARY KEY,
    lap    INTEGER NOT NULL REFERENCES lap (id),
    name   TEXT    NOT NULL,
    part   INTEGER NOT NULL CHECK (part >= 0),
    count  INTEGER NOT NULL CHECK (count > 0),
    packed BLOB    NOT NULL,
    UNIQUE (lap, name, part)
) STRICT;
CREATE TRIGGER series_keeps BEFORE UPDATE ON series BEGIN SELECT RAISE(ABORT, 'what is recorded is never altered'); END;
CREATE TRIGGER series_stays BEFORE DELETE ON series BEGIN SELECT RAISE(ABORT, 'what is recorded is never deleted'); END;
";

/// Tasks and variants that no lap has were written down ahead of a lap that never was: nothing that is recorded refers to them.
const FORMAT_6: &str = "
DROP TRIGGER task_stays;
DROP TRIGGER variant_stays;
DELETE FROM task WHERE id NOT IN (SELECT task FROM lap);
DELETE FROM variant WHERE id NOT IN (SELECT variant FROM lap);
CREATE TRIGGER task_stays    BEFORE DELETE ON task    BEGIN SELECT RAISE(ABORT, 'what is recorded is never deleted'); END;
CREATE TRIGGER variant_stays BEFORE DELETE ON variant BEGIN SELECT RAISE(ABORT, 'what is recorded is never deleted'); END;
";
