#!/usr/bin/env python3
"""Measures reading, summing up, keeping and comparing frames: see docs/measurements.md.

Side by side with general-purpose readers where they are installed: pip install duckdb polars numpy.
"""

import json
import os
import random
import statistics
import subprocess
import sys
import tempfile
import time

LAP = os.path.abspath(sys.argv[1])
ROWS = 10_000_000
ROUNDS = 5
STUDY = """[study]
warm_up = 0
[workload.rings]
kind = "frames"
by_hand = "fly"
refresh = "60 Hz"
[rig.heron]
[rig.wren]
"""


def write_log(path, rows, seed=1):
    """A pass whose pace wanders, at nanoseconds, with an index, moments, busy times and a load."""
    noise = random.Random(seed)
    pace, moment, lines = 0.0, 0, []
    with open(path, "w") as out:
        out.write("frame,moment_us,frame_ms,misc_x,gpu_ms,load\n")
        block = []
        for _ in range(200_000):
            pace = 0.98 * pace + 0.02 * noise.gauss(0, 1)
            block.append(int(14e6 * 2.718281828 ** (0.3 * pace + 0.008 * noise.gauss(0, 1))))
        for row in range(rows):
            ns = block[row % len(block)]
            moment += ns
            lines.append(f"{row},{moment / 1000:.1f},{ns / 1e6:.6f},{ns % 977},{ns * 0.7 / 1e6:.4f},{row % 97}\n")
            if len(lines) == 100_000:
                out.write("".join(lines))
                lines = []
        out.write("".join(lines))


def timed(work):
    begun = time.perf_counter()
    work()
    return time.perf_counter() - begun


def lap(folder, *args):
    return subprocess.run([LAP, *args], cwd=folder, capture_output=True, text=True, check=True).stdout


def peak(folder, *args):
    """Peak memory in MB, read by a small process: a child's begins at that of its parent."""
    script = ("import resource, subprocess, sys\n"
              "subprocess.run(sys.argv[1:], stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL, check=True)\n"
              "print(resource.getrusage(resource.RUSAGE_CHILDREN).ru_maxrss >> 10)")
    done = subprocess.run([sys.executable, "-c", script, LAP, *args], cwd=folder, capture_output=True, text=True, check=True)
    return int(done.stdout)


def readers(path):
    """General-purpose readers of the same two columns, where they are installed."""
    found = {}
    try:
        import duckdb
        query = f"select frame_ms, gpu_ms from read_csv('{path}')"
        found["duckdb"] = lambda: duckdb.sql(query).fetchnumpy()
    except ImportError:
        pass
    try:
        import polars
        found["polars"] = lambda: polars.read_csv(path, columns=["frame_ms", "gpu_ms"])
    except ImportError:
        pass
    return found


def main():
    with tempfile.TemporaryDirectory() as folder:
        with open(os.path.join(folder, "study.toml"), "w") as file:
            file.write(STUDY)
        path = os.path.join(folder, "ten.csv")
        write_log(path, ROWS)
        print(f"{ROWS} rows, six columns, {os.path.getsize(path) >> 20} MB")
        works = {
            "wc -l": lambda: subprocess.run(["wc", "-l", path], stdout=subprocess.DEVNULL, check=True),
            "lap import --preview": lambda: lap(folder, "import", "ten.csv", "--preview"),
            **readers(path),
        }
        times = {name: [] for name in works}
        for _ in range(ROUNDS):
            for name, work in works.items():
                times[name].append(timed(work))
        base = times["lap import --preview"]
        for name, taken in times.items():
            ratio = statistics.median(one / ours for one, ours in zip(taken, base))
            print(f"{name}: median {statistics.median(taken):.2f} s, least {min(taken):.2f} s, {ratio:.2f} of lap's")
        print(f"peak memory of lap import --preview: {peak(folder, 'import', 'ten.csv', '--preview')} MB")
        begun = time.perf_counter()
        memory = peak(folder, "import", "ten.csv", "--rig", "heron")
        print(f"taken in whole: {time.perf_counter() - begun:.2f} s, peak memory {memory} MB")
        size = os.path.getsize(os.path.join(folder, "logbook.db"))
        print(f"logbook: {size / ROWS / 2:.2f} bytes a value (two series, one at nanoseconds, one at 0.1 µs)")
        print(f"lap compare on it: {timed(lambda: lap(folder, 'compare')):.3f} s")
        os.remove(os.path.join(folder, "logbook.db"))
        for rig in ("heron", "wren"):
            names = []
            for number in range(50):
                name = f"{rig}-{number}.csv"
                write_log(os.path.join(folder, name), 50_000, number + (99 if rig == "wren" else 0))
                names.append(name)
            lap(folder, "import", "--rig", rig, *names)
        taken = [timed(lambda: lap(folder, "compare")) for _ in range(ROUNDS)]
        print(f"lap compare over 100 passes of 50,000 frames: median {statistics.median(taken):.3f} s")
        rows = json.loads(lap(folder, "frames", "heron-1.1", "--format", "json"))["groups"][0]["rows"]
        one = timed(lambda: lap(folder, "show", "heron-1.1"))
        print(f"one pass read back and shown: {one:.3f} s, {rows[1]['average_rate_fps']:.1f} fps")


main()
