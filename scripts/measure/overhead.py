#!/usr/bin/env python3
"""Measures what `lap` adds to the times it records: see docs/measurements.md."""

import json
import os
import statistics
import subprocess
import sys
import tempfile

LAP = os.path.abspath(sys.argv[1])
ROUNDS, LAPS = 12, 60
HERE = os.path.dirname(os.path.abspath(__file__))


def study(folder, **workloads):
    """Writes a study whose workloads run the given commands."""
    text = "[study]\nwarm_up = 0\n"
    for name, command in workloads.items():
        text += f'[workload.{name}]\nkind = "task"\ncommand = {json.dumps(command)}\n'
    with open(os.path.join(folder, "study.toml"), "w") as file:
        file.write(text)


def lap(folder, *args):
    """Runs the tool in the folder and returns its standard output."""
    done = subprocess.run([LAP, *args], cwd=folder, capture_output=True, text=True)
    if done.returncode:
        sys.exit(f"lap {' '.join(args)}: {done.stderr}")
    return done.stdout


def times(folder, name):
    """Returns the recorded nanoseconds of the folder's last session of one workload."""
    lap(folder, "run", name, "--laps", str(LAPS))
    sessions = json.loads(lap(folder, "show", "--format", "json"))["groups"][0]["rows"]
    page = json.loads(lap(folder, "show", sessions[-1]["session"], "--format", "json"))
    return [row["wall_ns"] for row in page["groups"][0]["rows"]]


def main():
    with tempfile.TemporaryDirectory() as folder:
        bare = os.path.join(folder, "bare")
        subprocess.run(["cc", "-O2", "-o", bare, os.path.join(HERE, "bare_spawn.c")], check=True)
        study(folder, empty=["/bin/true"], second=["sleep", "1"], hold=["{lap}", "stand-in",
              "hold-memory", "--mib", "3072"], talk="head -c 200000000 /dev/zero | tr '\\0' 'x'")

        # An empty program, in alternating rounds, so that the machine's moods are shared.
        ratios, added = [], []
        for round_ in range(ROUNDS):
            def by_hand():
                out = subprocess.run([bare, str(LAPS), "/bin/true"], capture_output=True, text=True)
                return statistics.median(map(int, out.stdout.split()))
            order = [lambda: statistics.median(times(folder, "empty")), by_hand]
            ours, theirs = (f() for f in order) if round_ % 2 else [f() for f in order[::-1]][::-1]
            ratios.append(ours / theirs)
            added.append(ours - theirs)
        print(f"empty program, lap against bare loop: median ratio {statistics.median(ratios):.3f}"
              f" (from {min(ratios):.3f} to {max(ratios):.3f} over {ROUNDS} rounds of {LAPS}),"
              f" {statistics.median(added) / 1e3:+.1f} µs a lap")

        globals()["LAPS"] = 10
        bare_second = subprocess.run([bare, "10", "sleep", "1"], capture_output=True, text=True)
        theirs = statistics.median(map(int, bare_second.stdout.split()))
        ours = times(folder, "second")
        print(f"sleep 1: recorded {statistics.median(ours) / 1e6:.3f} ms, a bare loop"
              f" {theirs / 1e6:.3f} ms; furthest from 1 s {max(abs(t - 10**9) for t in ours) / 1e6:.3f} ms")

        globals()["LAPS"] = 3
        for name, wanted in [("hold", 3072 << 20), ("empty", None)]:
            times(folder, name)
            sessions = json.loads(lap(folder, "show", "--format", "json"))["groups"][0]["rows"]
            row = json.loads(lap(folder, "show", sessions[-1]["session"] + ".1", "--format", "json"))
            row = row["groups"][0]["rows"][0]
            peak, floor = row["peak_bytes"], row["peak_floor_bytes"]
            note = f", {100 * (peak / wanted - 1):+.3f} % off" if wanted else f"; floor {floor / 1e6:.2f} MB"
            print(f"peak memory of {name}: {peak / 1e6:.2f} MB{note}")

        # The tool's own peak while a lap prints 200 MB: its rusage, and its starter's within it.
        code = ("import resource,subprocess,sys;subprocess.run(sys.argv[1:],check=True,"
                "stdout=subprocess.DEVNULL,stderr=subprocess.DEVNULL);"
                "print(resource.getrusage(resource.RUSAGE_CHILDREN).ru_maxrss)")
        out = subprocess.run([sys.executable, "-c", code, LAP, "run", "talk", "--laps", "1"],
                             cwd=folder, capture_output=True, text=True, check=True)
        print(f"peak memory of the tool while a lap prints 200 MB: {int(out.stdout) * 1024 / 1e6:.1f} MB")

        # What a lap costs between laps: a session of empty laps against the sum of its times.
        globals()["LAPS"] = 100
        code = "import subprocess,sys,time;t=time.monotonic_ns();subprocess.run(sys.argv[1:],check=True,stdout=subprocess.DEVNULL,stderr=subprocess.DEVNULL);print(time.monotonic_ns()-t)"
        out = subprocess.run([sys.executable, "-c", code, LAP, "run", "empty", "--laps", "100"],
                             cwd=folder, capture_output=True, text=True, check=True)
        print(f"between laps, starter and durable commit included: {int(out.stdout) / 100 / 1e6:.1f} ms a lap")


main()
