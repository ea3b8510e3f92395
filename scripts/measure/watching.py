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


def machine_of(folder, cores):
    """Writes the files in which a machine of so many cores shows itself, and returns their folder."""
    root = os.path.join(folder, f"machine-{cores}")
    texts = {"proc/stat": "cpu  9 0 9 99 0 0 0 0 0 0\n" + "".join(
        f"cpu{core} 123456 789 23456 9876543 1234 0 567 0 0 0\n" for core in range(cores)),
        "proc/meminfo": open("/proc/meminfo").read(), "proc/vmstat": open("/proc/vmstat").read()}
    for core in range(cores):
        texts[f"sys/devices/system/cpu/cpu{core}/cpufreq/scaling_cur_freq"] = "3400000\n"
    for sensor in range(8):
        texts[f"sys/class/hwmon/hwmon{sensor}/name"] = "package\n"
        texts[f"sys/class/hwmon/hwmon{sensor}/temp1_input"] = "51000\n"
    for path, text in texts.items():
        path = os.path.join(root, path)
        os.makedirs(os.path.dirname(path), exist_ok=True)
        with open(path, "w") as file:
            file.write(text)
    return root


def drive(folder, workload, watched, machine=None):
    """Drives one lap; returns its time and the processor time of the tool and all it waited for."""
    command = [LAP, "run", workload, "--laps", "1"]
    if not watched:
        command.append("--unwatched")
    if machine:
        command += ["--machine-root", machine]
    before = os.times()
    subprocess.run(command, cwd=folder, capture_output=True, check=True)
    after = os.times()
    used = after.children_user + after.children_system - before.children_user - before.children_system
    laps = subprocess.run([LAP, "export", "laps", "--format", "json-lines"], cwd=folder, capture_output=True, check=True)
    return json.loads(laps.stdout.splitlines()[-1])["time_ns"] / 1e9, used


def many_cores(folder):
    machine = machine_of(folder, 64)
    used = [drive(folder, "nothing", True, machine)[1] - drive(folder, "nothing", False, machine)[1] for _ in range(3)]
    share = statistics.median(used) / 30
    print(f"the sampler's own processor time with 64 simulated cores: {share * 100:.3f} % of one core", flush=True)


def main():
    with tempfile.TemporaryDirectory() as folder:
        os.environ["HOME"] = folder
        with open(os.path.join(folder, "study.toml"), "w") as file:
            file.write(STUDY)
        many_cores(folder)
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
