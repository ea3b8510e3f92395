#!/usr/bin/env python3
"""Checks the seals of a logbook (format 8, seals of form 5) as docs/formats/logbook.md tells them.

    python3 verify_logbook.py logbook.db

Prints each session with its last seal, then the seal of the logbook; exit status 1 if one is broken.
"""
import hashlib
import sqlite3
import sys

# Sealed columns by table, in order: # is sealed by its SHA-256, =X holds nothing where it is X.
COLUMNS = {
    "session": "rig number mark started seed tool found versions about={}",
    "lap": "number round warm_up outcome wall_ns parts_ns step_ns",
    "task": "workload form#",
    "variant": "settings",
    "lap_detail": "started reason command=[] folder= exit_code signal user_ns system_ns peak_bytes peak_floor_bytes"
    " conditions produced=[] left_behind=[] readings=[] traces#={} endured",
    "output": "stream head# tail# total",
    "pass": "about",
    "chunk": "series part count sha256",
    "remark": "mark made kind subject text before",
}
sha = lambda value: hashlib.sha256(value).hexdigest().encode()
begin = lambda kind: f"honest-lap {kind} 5\n".encode()
db = sqlite3.connect(f"file:{sys.argv[1]}?mode=ro", uri=True)
db.text_factory = bytes


def field(name, value, digest=False):
    kind = "n" if isinstance(value, int) else "h" if digest else "t"
    value = str(value).encode() if kind == "n" else sha(value) if digest else value
    return f"{name} {kind}{len(value)}:".encode() + value + b"\n"


def rows(table, where, *values, order="1"):
    specs = [spec.partition("=") for spec in COLUMNS[table].split()]
    names = [name.rstrip("#") for name, _, _ in specs]
    for row in db.execute(f"SELECT {', '.join(names)} FROM {table} WHERE {where} ORDER BY {order}", values):
        there = ((spec, name, value) for spec, name, value in zip(specs, names, row)
                 if value is not None and not (spec[1] and value == spec[2].encode()))
        yield b"".join(field(name, value, "#" in spec[0]) for spec, name, value in there)


def lap(before, mark, lap, task, variant):
    record = begin("lap") + field("before", before) + field("session", mark)
    of_lap = [("lap", "id = ?", lap, "1"), ("task", "id = ?", task, "1"), ("variant", "id = ?", variant, "1")]
    of_lap += [(table, "lap = ?", lap, order) for table, order in
               [("lap_detail", "1"), ("output", "stream"), ("pass", "1"), ("chunk", "series, part")]]
    return sha(record + b"".join(part for table, where, key, order in of_lap for part in rows(table, where, key, order=order)))


good = all(sha(packed) == said for said, packed in db.execute("SELECT sha256, packed FROM chunk"))
for session, mark in db.execute("SELECT id, mark FROM session ORDER BY id").fetchall():
    kept = dict(db.execute("SELECT number, seal FROM seal WHERE session = ? AND form = 5", [session]))
    seals = {0: sha(begin("session") + b"".join(rows("session", "id = ?", session)))}
    laps = db.execute("SELECT number, id, task, variant FROM lap WHERE session = ? ORDER BY number", [session])
    for number, *refers in laps.fetchall():
        seals[number] = lap(seals[max(seals)], mark, *refers)
    good &= kept == seals
    print(f"session {mark.decode()} {seals[max(seals)].decode()} {'holds' if kept == seals else 'BROKEN'}")
for place, seal in db.execute("SELECT place, seal FROM remark WHERE form = 5"):
    good &= seal == sha(begin("remark") + b"".join(rows("remark", "place = ?", place)))
whole = sha(b"honest-lap logbook 2")
for place, seal, key, signature, number, session in db.execute(
        "SELECT place, seal, NULL, NULL, 0, 0 FROM seal UNION SELECT place, seal, NULL, NULL, 0, 0 FROM remark"
        " UNION SELECT place, NULL, key, signature, number, session FROM signature ORDER BY 1"):
    if key:
        (mark,) = db.execute("SELECT mark FROM session WHERE id = ?", [session]).fetchone()
        seal = sha(begin("signature") + field("session", mark) + field("number", number)
                   + field("key", key) + field("signature", signature))
    whole = sha(whole + f"{place} ".encode() + seal)
print(f"logbook {whole.decode()}")
sys.exit(0 if good else 1)
