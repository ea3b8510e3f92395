#!/usr/bin/env python3
"""Measures what watching a lap costs it: see docs/measurements.md. Takes about eight minutes."""

import json
import math
import os
import statistics
import subprocess
import sys
import tempfile

LAP = os.path.abspath(sys.argv[1])
PAIRS = 20
# Student's t, 97.5 %, 19 degrees of freedom.
T = 2.093
STILL = ["{lap}", "stand-in", "dome-still", "--threads", "2", "--size", sys.argv[2] if len(sys.argv) > 2 else "2600",
         "--out", "{lap_dir}/still.png"]
STUDY = f"""[study]
warm_up = 0
[workload.still]
kind = "task"
command = {json.dumps(STILL)}
[workload.nothing]
kind = "task"
command = ["sleep", "30"]
"""


def drive(folder, workload, watched):
    """Drives one lap; returns its time and the processor time of the tool and all it waited for."""
    command = [LAP, "run", workload, "--laps", "1", "--format", "json"]
    if not watched:
        command.append("--unwatched")
    before = os.times()
    done = subprocess.run(command, cwd=folder, capture_output=True, check=True)
    after = os.times()
    used = after.children_user + after.children_system - before.children_user - before.children_system
    return json.loads(done.stdout)["groups"][0]["rows"][0]["typical"], used


def main():
    with tempfile.TemporaryDirectory() as folder:
        with open(os.path.join(folder, "study.toml"), "w") as file:
            file.write(STUDY)
        drive(folder, "still", True)
        logs = []
        for pair in range(PAIRS):
            order = [True, False] if pair % 2 == 0 else [False, True]
            times = {watched: drive(folder, "still", watched)[0] for watched in order}
            logs.append(math.log(times[True] / times[False]))
        mean, half = statistics.mean(logs), T * statistics.stdev(logs) / math.sqrt(PAIRS)
        print(f"two threads at work, watched over unwatched, {PAIRS} pairs A B B A: "
              f"{math.exp(mean):.4f} ({math.exp(mean - half):.4f} to {math.exp(mean + half):.4f}), "
              f"a lap of {times[True]:.1f} s")
        used = [drive(folder, "nothing", True)[1] - drive(folder, "nothing", False)[1] for _ in range(3)]
        share = statistics.median(used) / 30
        print(f"the sampler's own processor time: {share * 100:.3f} % of one core")


main()
