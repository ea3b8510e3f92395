#!/usr/bin/env python3
"""Compares the speed of two builds side by side, where users feel it: see docs/measurements.md.

    scripts/measure/two_builds.py OLD_LAP NEW_LAP LARGE_LOGBOOK_EXAMPLE

Runs in turn, old new new old; prints the median ratio of new over old for each work, with its quartiles.
"""

import itertools
import os
import random
import shutil
import statistics
import subprocess
import sys
import tempfile
import time

OLD, NEW, LARGE = (os.path.abspath(path) for path in sys.argv[1:4])
ROUNDS = int(os.environ.get("ROUNDS", "8"))
FRAMES = """[study]
warm_up = 0
[workload.rings]
kind = "frames"
by_hand = "fly"
refresh = "60 Hz"
[rig.heron]
"""


def write_log(path, rows, seed):
    noise, pace, lines = random.Random(seed), 0.0, ["frame,frame_ms,gpu_ms\n"]
    for row in range(rows):
        pace = 0.98 * pace + 0.02 * noise.gauss(0, 1)
        ms = 14 * 2.718281828 ** (0.3 * pace + 0.008 * noise.gauss(0, 1))
        lines.append(f"{row},{ms:.6f},{ms * 0.7:.4f}\n")
    with open(path, "w") as out:
        out.write("".join(lines))


def timed(lap, folder, args, number=itertools.count()):
    # What is written must not be there yet.
    args = [arg.replace("NEW", f"{folder}/{next(number)}") for arg in args]
    begun = time.perf_counter()
    ended = subprocess.run([lap, *args], cwd=folder, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
    taken = time.perf_counter() - begun
    # 1 is an answer too: there are doubts.
    if ended.returncode > 1:
        sys.exit(f"{lap} {' '.join(args)}: exit status {ended.returncode}")
    return taken


def compared(what, folder, args, fresh=None):
    """Runs both builds; `fresh` makes a folder of its own for every run that writes."""
    ratios, seconds = [], []
    for round in range(ROUNDS):
        taken = {}
        for lap in (OLD, NEW) if round % 2 == 0 else (NEW, OLD):
            place = fresh() if fresh else folder
            taken[lap] = timed(lap, place, args)
            if fresh:
                shutil.rmtree(place)
        ratios.append(taken[NEW] / taken[OLD])
        seconds.append(taken[NEW])
    low, middle, high = statistics.quantiles(ratios, n=4)
    print(f"{what}: {middle:.3f} ({low:.3f} to {high:.3f}), {statistics.median(seconds):.3f} s", flush=True)


with tempfile.TemporaryDirectory() as root:
    laps, flights = f"{root}/laps", f"{root}/flights"
    subprocess.run([LARGE, laps], check=True)
    os.mkdir(flights)
    with open(f"{flights}/study.toml", "w") as study:
        study.write(FRAMES)
    write_log(f"{flights}/big.csv", 3_000_000, 1)
    subprocess.run(["gzip", "-k", f"{flights}/big.csv"], check=True)

    def fresh():
        place = tempfile.mkdtemp(dir=root)
        shutil.copy(f"{flights}/study.toml", place)
        return place

    compared("start (lap --version)", laps, ["--version"])
    compared("import --preview, 3 million rows", flights, ["import", "big.csv", "--preview", "--rig", "heron"])
    compared("import --preview, gzip", flights, ["import", "big.csv.gz", "--preview", "--rig", "heron"])
    compared("import, 3 million rows", flights, ["import", f"{flights}/big.csv", "--rig", "heron"], fresh)
    subprocess.run([OLD, "import", "big.csv", "--rig", "heron"], cwd=flights, check=True, capture_output=True)
    compared("frames of 3 million", flights, ["frames"])
    compared("compare, 100,000 laps", laps, ["compare"])
    compared("doubts, 100,000 laps", laps, ["doubts"])
    compared("verify, 100,000 laps", laps, ["verify"])
    compared("report, 100,000 laps", laps, ["report", "--out", "NEW.html"])
    compared("report, 3 million frames", flights, ["report", "--out", "NEW.html"])
    compared("export frames as Parquet", flights, ["export", "frames", "--out", "NEW.parquet"])
    compared("plot of 100 laps a rig as PNG", laps, ["plot", "w1", "--figure", "laps", "--out", "NEW.png"])
