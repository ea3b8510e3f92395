#!/usr/bin/env python3
"""How long judging takes: 12 rigs, 50 workloads, 3 sessions, 5 laps, made up and entered.

Run by hand: scripts/measure/judging.py [LAP]. Every command is run three times, all times are printed.
"""

import random
import subprocess
import sys
import tempfile
import time

lap = sys.argv[1] if len(sys.argv) > 1 else "target/release/lap"
lap = subprocess.run(["realpath", lap], capture_output=True, text=True, check=True).stdout.strip()
draw = random.Random(4)
rigs = [f"rig-{number:02}" for number in range(12)]
workloads = [f"task-{number:02}" for number in range(50)]

with tempfile.TemporaryDirectory() as folder:
    with open(f"{folder}/study.toml", "w") as study:
        study.write('[study]\nhour_worth = "40 EUR"\n')
        for workload in workloads:
            study.write(f'[workload.{workload}]\nkind = "task"\nby_hand = "do it"\njobs_a_month = 10\n')
        for number, rig in enumerate(rigs):
            study.write(f'[rig.{rig}]\nprice = "{900 + 100 * number} EUR"\n')
    typical = {(rig, workload): 60 * draw.lognormvariate(0, 0.2) for rig in rigs for workload in workloads}
    for day in range(10, 13):
        for rig in rigs:
            luck = draw.lognormvariate(0, 0.006)
            with open(f"{folder}/table.csv", "w") as table:
                table.write("workload,time\n")
                for _ in range(5):
                    for workload in workloads:
                        seconds = typical[rig, workload] * luck * draw.lognormvariate(0, 0.01)
                        table.write(f"{workload},{seconds:.3f} s\n")
            enter = [lap, "enter", "--rig", rig, "--table", "table.csv", "--sure", "--on", f"2026-03-{day}"]
            subprocess.run(enter, cwd=folder, check=True, capture_output=True)
    for words in [
        ["compare"],
        ["doubts"],
        ["value"],
        ["compare", "--overall"],
        ["claim", "rig-00 is fastest overall"],
    ]:
        times = []
        for _ in range(3):
            begun = time.monotonic()
            subprocess.run([lap, *words], cwd=folder, capture_output=True)
            times.append(f"{time.monotonic() - begun:.2f}")
        print("lap", " ".join(words), "·", ", ".join(times), "s")
