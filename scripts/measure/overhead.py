#!/usr/bin/env python3
"""Measures what `lap` adds to the times it records: see docs/measurements.md."""

import json
import os
import statistics
import subprocess
import sys
import tempfile

LAP = os.path.abspath(sys.argv[1])
ROUNDS = 16
HERE = os.path.dirname(os.path.abspath(__file__))
# What one lap of an empty program takes in all; the paused yardstick keeps the same rhythm.
PAUSE_US = 9000


def study(folder, **workloads):
    """Writes a study whose workloads run the given commands."""
    text = "[study]\nwarm_up = 0\n"
    for name, command in workloads.items():
        text += f'[workload.{name}]\nkind = "task"\ncommand = {json.dumps(command)}\n'
    with open(os.path.join(folder, "study.toml"), "w") as file:
        file.write(text)


def rows(folder, *args):
    """Runs the tool for JSON and returns its rows."""
    done = subprocess.run([LAP, *args, "--format", "json"], cwd=folder, capture_output=True)
    if done.returncode:
        sys.exit(f"lap {' '.join(args)}: {done.stderr.decode()}")
    return json.loads(done.stdout)["groups"][0]["rows"]


def session(folder, name, laps):
    """Drives laps of one workload and returns the session's name."""
    subprocess.run([LAP, "run", name, "--laps", str(laps)], cwd=folder, check=True, capture_output=True)
    return rows(folder, "show")[-1]["session"]


def times(folder, name, laps):
    """Drives laps of one workload and returns their recorded nanoseconds."""
    return [row["wall_ns"] for row in rows(folder, "show", session(folder, name, laps))]


def bare_times(bare, laps, pause_us, *program):
    """Returns the nanoseconds of bare spawns of the program."""
    out = subprocess.run([bare, str(laps), str(pause_us), *program], capture_output=True, text=True)
    return [int(line) for line in out.stdout.split()]


def child_cost(*command, **options):
    """Returns (seconds, peak bytes) of a command, by the system's own accounting."""
    code = ("import resource, subprocess, sys, time; t = time.monotonic();"
            "subprocess.run(sys.argv[1:], check=True, stdout=subprocess.DEVNULL,"
            " stderr=subprocess.DEVNULL); print(time.monotonic() - t,"
            " resource.getrusage(resource.RUSAGE_CHILDREN).ru_maxrss * 1024)")
    out = subprocess.run([sys.executable, "-c", code, *command], check=True, capture_output=True,
                         text=True, **options)
    return tuple(float(word) for word in out.stdout.split())


def empty_program(folder, bare, empty):
    """An empty program, in alternating rounds, so that the machine's moods are shared."""
    against = {"at the same rhythm": [], "back to back": []}
    added = []
    pooled = {"lap": [], "at the same rhythm": [], "back to back": []}
    for round_ in range(ROUNDS):
        measures = [
            ("lap", lambda: times(folder, "empty", 60)),
            ("at the same rhythm", lambda: bare_times(bare, 60, PAUSE_US, empty)),
            ("back to back", lambda: bare_times(bare, 60, 0, empty)),
        ]
        measures = measures if round_ % 2 else measures[::-1]
        taken = {name: measure() for name, measure in measures}
        for name, all_of in taken.items():
            pooled[name].extend(all_of)
        median = {name: statistics.median(all_of) for name, all_of in taken.items()}
        for name, ratios in against.items():
            ratios.append(median["lap"] / median[name])
        added.append(median["lap"] - median["at the same rhythm"])
    for name, ratios in against.items():
        print(f"empty program, lap against a bare loop {name}: median ratio"
              f" {statistics.median(ratios):.3f} (quartiles {statistics.quantiles(ratios)[0]:.3f}"
              f" to {statistics.quantiles(ratios)[2]:.3f}, {ROUNDS} rounds of 60)")
    slowest = {name: statistics.quantiles(all_of, n=100)[98] for name, all_of in pooled.items()}
    for name in against:
        print(f"  99th percentile over that of the loop {name}: {slowest['lap'] / slowest[name]:.2f}")
    print(f"  which is {statistics.median(added) / 1e3:+.0f} µs a lap at the same rhythm")


def one_second(folder, bare):
    """A program that sleeps for a second, lap and bare spawn in turn."""
    ours, differences = [], []
    for _ in range(8):
        [lap, *_] = times(folder, "second", 1)
        [theirs] = bare_times(bare, 1, PAUSE_US, "sleep", "1")
        ours.append(lap)
        differences.append((lap - theirs) / 1e6)
    low, middle, high = statistics.quantiles(differences)
    print(f"sleep 1: recorded {statistics.median(ours) / 1e6:.2f} ms; lap minus bare spawn: median"
          f" {middle:+.2f} ms (quartiles {low:+.2f} to {high:+.2f}, 8 rounds)")


def memory(folder):
    """Peaks of a large and an empty program, and of the tool under a flood of output."""
    for name, wanted in [("hold", 3072 << 20), ("empty", None)]:
        row = rows(folder, "show", session(folder, name, 1) + ".1")[0]
        peak, floor = row["peak_bytes"], row["peak_floor_bytes"]
        note = f"{100 * (peak / wanted - 1):+.2f} % off" if wanted else f"floor {floor / 1e6:.2f} MB"
        print(f"peak memory of {name}: {peak / 1e6:.2f} MB, {note}")
    _, peak = child_cost(LAP, "run", "talk", "--laps", "1", cwd=folder)
    print(f"peak memory of the tool while a lap prints 200 MB: {peak / 1e6:.1f} MB")


def main():
    with tempfile.TemporaryDirectory() as folder:
        bare, empty = os.path.join(folder, "bare"), os.path.join(folder, "empty")
        subprocess.run(["cc", "-O2", "-o", bare, os.path.join(HERE, "bare_spawn.c")], check=True)
        subprocess.run(["cc", "-x", "c", "-O2", "-o", empty, "-"], input=b"int main(){return 0;}",
                       check=True)
        study(folder, empty=[empty], second=["sleep", "1"],
              hold=["{lap}", "stand-in", "hold-memory", "--mib", "3072"],
              talk="head -c 200000000 /dev/zero | tr '\\0' x")
        empty_program(folder, bare, empty)
        one_second(folder, bare)
        memory(folder)
        seconds, _ = child_cost(LAP, "run", "empty", "--laps", "200", cwd=folder)
        print(f"a whole lap of an empty program, starter and durable commit included:"
              f" {seconds / 200 * 1e3:.1f} ms")


main()
