#!/usr/bin/env python3
"""Fills an empty store with many laps by COPY, to measure what a comparison of them takes.

    createdb laps; lap store init --store=postgresql://me@127.0.0.1/laps
    scripts/measure/large_store.py postgresql://me@127.0.0.1/laps 10000000
    /usr/bin/time -v lap compare --store=postgresql://me@127.0.0.1/laps      # in a study with `vary = { threads = ["1", "8"] }`

The login must be a superuser: rows go in without their seals, which figures do not read, and past the rules. Twelve rigs
have a hundred sessions each, in which two variants are run in turn. With `unlike` behind the number every lap has a score,
processor time and conditions of its own, as `lap run` records them on a machine of eight threads.
"""
import json
import random
import subprocess
import sys

RIGS = "heron wren plover curlew dunlin egret gannet knot merlin osprey petrel siskin".split()
SESSIONS = 100
TASK = (
    '{"kind":"task","command":{"direct":["still","{threads}"]},"before":[],"after":[],"folder":null,'
    '"environment":[],"stdin":null,"exit_codes":[0],"produces":[]}'
)
FOUND = '{"machine":"made-up-%s","processor":"Harbour H%d","cores":12,"threads":24}'


def copied(address, table, columns, rows):
    """Copies rows into a table of the store."""
    command = f"\\copy honest_lap.{table} ({', '.join(columns)}) from stdin"
    past = "SET session_replication_role = replica"
    psql = subprocess.Popen(
        ["psql", "-q", "-v", "ON_ERROR_STOP=1", "-c", past, "-c", command, address],
        stdin=subprocess.PIPE,
        text=True,
    )
    for row in rows:
        psql.stdin.write("\t".join(map(str, row)) + "\n")
    psql.stdin.close()
    if psql.wait():
        sys.exit(f"{table}: not copied")


def asked(address, *statements):
    """Has statements run, past the rules."""
    words = ["psql", "-q", "-v", "ON_ERROR_STOP=1"]
    for statement in ("SET session_replication_role = replica", *statements):
        words += ["-c", statement]
    subprocess.run([*words, address], check=True)


def sessions():
    """Yields every session: its number in the store, its rig's place, and which of the rig's it is."""
    for place in range(len(RIGS)):
        for number in range(1, SESSIONS + 1):
            yield place * SESSIONS + number, place, number


def laps(each):
    """Yields every lap: A B B A, days that differ by 1 % and laps by 0.5 %."""
    lap = 0
    for session, place, _ in sessions():
        day = random.gauss(0.0, 0.01)
        for number in range(1, each + 1):
            lap += 1
            round_of = (number + 1) // 2
            second = (number + round_of) % 2
            typical = 2e9 * (1.0 + 0.05 * place) * (0.6 if second else 1.0)
            wall = int(typical * random.lognormvariate(day, 0.005))
            yield lap, session, number, 1, 1 + second, round_of, 0, "done", wall


def details(lap, unlike):
    """Returns what stands beside a lap: its number, when it began, processor time, conditions, and what was read."""
    began = "2026-03-01T08:00:00Z"
    if not unlike:
        return [lap, began, r"\N", r"\N", "{}", "[]"]
    share, whole = random.random, lambda most: random.randrange(most)
    course = lambda most: {name: most * share() for name in ("first", "last", "least", "most", "mean")}
    conditions = {
        "others_cpu": whole(10**8),
        "memory_available_bytes": 24 * 10**9 + whole(10**8),
        "swap_used_bytes": 0,
        "load_1min": round(4 * share(), 2),
        "slept": 0,
        "own": {"memory": whole(10**6), "disk": whole(10**7), "read_bytes": whole(10**6), "written_bytes": whole(10**7)},
        "sampled": {
            "samples": 8 + whole(9),
            "looked": whole(2 * 10**9),
            "tree": "control-group",
            "tree_peak_bytes": whole(10**9),
            "tree_peak_by": "control-group",
            "cores_busy": 8 * share(),
            "busiest_core": share(),
            "core_use": [round(share(), 3) for _ in range(8)],
            "memory_available_least_bytes": 24 * 10**9 + whole(10**8),
            "swapped_bytes": 0,
            "stalled_processor": whole(10**7),
            "stalled_memory": 0,
            "stalled_disk": whole(10**6),
            "clock_mhz": course(3_000),
            "temperature_c": course(80),
            "on_mains": True,
        },
    }
    score = round(900 + 20 * share(), 1)
    read = [{"name": "score", "unit": "points", "better": "more", "value": score, "seen": str(score)}]
    return [lap, began, 10**9 + whole(10**8), whole(10**8), json.dumps(conditions), json.dumps(read)]


def fill(address, many, unlike):
    """Fills the store."""
    each = many // (len(RIGS) * SESSIONS)
    random.seed(8)
    copied(address, "task", ["workload", "form"], [["still", TASK]])
    variants = [[f'[["threads","{threads}"]]'] for threads in (1, 8)]
    copied(address, "variant", ["settings"], variants)
    day = lambda number: f"20{16 + number // 24:02}-{1 + number // 2 % 12:02}-{1 + 14 * (number % 2):02}"
    copied(
        address,
        "session",
        ["rig", "number", "mark", "started", "seed", "tool", "found", "versions", "about"],
        (
            [RIGS[place], number, f"made-up-{RIGS[place]}-{number}", f"{day(number)}T08:00:00Z", 1, "0.2.0",
             FOUND % (RIGS[place], place), "[]", '{"origin":"driven"}']
            for _, place, number in sessions()
        ),
    )
    columns = ["id", "session", "number", "task", "variant", "round", "warm_up", "outcome", "wall_ns"]
    copied(address, "lap", columns, laps(each))
    copied(
        address,
        "lap_detail",
        ["lap", "started", "user_ns", "system_ns", "conditions", "readings"],
        (details(lap, unlike) for lap in range(1, each * len(RIGS) * SESSIONS + 1)),
    )
    asked(
        address,
        """INSERT INTO honest_lap.alike SELECT f.* FROM
               (SELECT DISTINCT session, honest_lap.stretch(number) AS stretch FROM honest_lap.lap) t,
               LATERAL honest_lap.alike_in(t.session, t.stretch) f""",
        "VACUUM ANALYZE honest_lap.alike",
        "VACUUM ANALYZE honest_lap.lap",
        "VACUUM ANALYZE honest_lap.lap_detail",
    )


if __name__ == "__main__":
    fill(sys.argv[1], int(sys.argv[2]), sys.argv[3:] == ["unlike"])
