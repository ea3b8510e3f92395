#!/usr/bin/env python3
"""Measures how fast `lap` reads a logbook of 100,000 laps, and starts: see docs/measurements.md."""

import os
import statistics
import subprocess
import sys
import tempfile
import time

LAP, WRITER = map(os.path.abspath, sys.argv[1:3])


def seconds(*command, folder="."):
    """Returns the median of nine runs of a command, its output thrown away."""
    taken = []
    for _ in range(9):
        begun = time.monotonic()
        subprocess.run(command, cwd=folder, check=True, stdout=subprocess.DEVNULL)
        taken.append(time.monotonic() - begun)
    return statistics.median(taken)


def main():
    with tempfile.TemporaryDirectory() as folder:
        subprocess.run([WRITER, folder], check=True)
        for command in ["compare", "show", "verify"]:
            print(f"100,000 laps, lap {command}: {seconds(LAP, command, folder=folder):.2f} s")
        empty = os.path.join(folder, "empty")
        subprocess.run(["rustc", "-O", "-o", empty, "-"], input=b"fn main() {}", check=True)
        # Fifty starts in one shell, so that the shell's own cost is shared out.
        fifty = "i=0; while [ $i -lt 50 ]; do {} >/dev/null; i=$((i+1)); done"
        ratios = []
        for _ in range(5):
            ours = seconds("sh", "-c", fifty.format(f"{LAP} --version"))
            ratios.append(ours / seconds("sh", "-c", fifty.format(empty)))
        print(f"lap --version against an empty Rust program: median ratio {statistics.median(ratios):.2f}")


main()
