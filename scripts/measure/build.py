#!/usr/bin/env python3
"""Holds the cold release build to its budget of processor time; fails where it grew by over a tenth.

    scripts/measure/build.py            build, compare, name the twenty largest units
    scripts/measure/build.py --keep     the same, and keep what was found as the new budget

The processor time of the same build differs by half between hours on shared machines, so it is counted in units of a
yardstick taken right before and right after: compiling SQLite's one C file, which is in the registry anyway.
"""

import json
import os
import re
import resource
import subprocess
import sys
import tempfile

HERE = os.path.dirname(os.path.abspath(__file__))
BUDGET = os.path.join(HERE, "build-budget.json")
GROWTH = 1.10


def processor_seconds(*command, **more):
    """Returns the processor time of a command and all that it started."""
    before = resource.getrusage(resource.RUSAGE_CHILDREN)
    subprocess.run(command, check=True, **more)
    after = resource.getrusage(resource.RUSAGE_CHILDREN)
    return after.ru_utime + after.ru_stime - before.ru_utime - before.ru_stime


def sqlite_source():
    said = subprocess.run(["cargo", "metadata", "--format-version", "1", "--locked"],
                          check=True, capture_output=True, cwd=f"{HERE}/../..").stdout
    packages = {package["name"]: package for package in json.loads(said)["packages"]}
    return os.path.join(os.path.dirname(packages["libsqlite3-sys"]["manifest_path"]), "sqlite3/sqlite3.c")


def largest(target):
    """Yields name and seconds of the units that took longest, by the build's own report."""
    folder = f"{target}/cargo-timings"
    page = open(os.path.join(folder, sorted(os.listdir(folder))[0])).read()
    units = json.loads(re.search(r"UNIT_DATA = (\[.*?\]);", page, re.S).group(1))
    for unit in sorted(units, key=lambda unit: -unit["duration"])[:20]:
        yield f"{unit['name']}{unit['target']}", unit["duration"]


def main():
    with tempfile.TemporaryDirectory() as work:
        source = sqlite_source()
        yardstick = lambda: processor_seconds("cc", "-O1", "-c", source, "-o", f"{work}/sqlite3.o")
        subprocess.run(["cargo", "fetch", "--locked", "--quiet"], check=True, cwd=f"{HERE}/../..")
        before = yardstick()
        target = f"{work}/target"
        build = processor_seconds("cargo", "build", "--release", "--locked", "--timings", "--quiet",
                                  cwd=f"{HERE}/../..", env={**os.environ, "CARGO_TARGET_DIR": target})
        after = yardstick()
        size = os.path.getsize(f"{target}/release/lap")
        units = build / ((before + after) / 2)
        for name, seconds in largest(target):
            print(f"{seconds:7.1f} s  {name}")
    print(f"processor time {build:.0f} s, yardstick {before:.1f} and {after:.1f} s: {units:.1f} yardsticks; "
          f"the binary {size / 1e6:.1f} MB")
    if "--keep" in sys.argv[1:]:
        with open(BUDGET, "w") as kept:
            json.dump({"yardsticks": round(units, 1)}, kept)
            kept.write("\n")
        return
    most = json.load(open(BUDGET))["yardsticks"] * GROWTH
    if units > most:
        sys.exit(f"the build takes {units:.1f} yardsticks and may take {most:.1f}: find what grew, "
                 "or keep the new figure with --keep and say why")


main()
