#!/usr/bin/env python3
"""How long a report takes, how large it is, and how soon a browser is done with it.

12 rigs, 30 workloads, 3 sessions, 3 laps, and 36 passes of 100,000 frames, all made up.
Run by hand: scripts/measure/report.py [LAP]. Needs: apt-get install chromium chromium-driver
"""

import json
import os
import random
import re
import subprocess
import sys
import tempfile
import time
import urllib.request

lap = sys.argv[1] if len(sys.argv) > 1 else "target/release/lap"
lap = os.path.realpath(lap)
draw = random.Random(5)
rigs = [f"rig-{number:02}" for number in range(12)]
workloads = [f"task-{number:02}" for number in range(29)]


def ask(url, body=None, method="POST"):
    data = None if method == "DELETE" else json.dumps(body or {}).encode()
    request = urllib.request.Request(url, data=data, method=method)
    with urllib.request.urlopen(request, timeout=60) as answer:
        return json.load(answer)["value"]


def in_browser(page):
    """Milliseconds until the page was ready for use, by the browser's own clock."""
    driver = subprocess.Popen(["chromedriver", "--port=0"], stdout=subprocess.PIPE, text=True)
    port = next(m[1] for line in driver.stdout if (m := re.search(r"successfully on port (\d+)", line)))
    args = ["--headless", "--no-sandbox", "--disable-gpu", "--no-first-run", "--window-size=1280,800",
            "--disable-background-networking", f"--user-data-dir={tempfile.mkdtemp()}"]
    wanted = {"capabilities": {"alwaysMatch": {"goog:chromeOptions": {"args": args}}}}
    root = f"http://127.0.0.1:{port}/session"
    session = f"{root}/{ask(root, wanted)['sessionId']}"
    try:
        ask(f"{session}/url", {"url": f"file://{page}"})
        return ask(f"{session}/execute/sync", {"args": [], "script":
            "const t = performance.getEntriesByType('navigation')[0];"
            "return [t.domInteractive, t.loadEventEnd]"})
    finally:
        ask(session, method="DELETE")
        driver.terminate()



with tempfile.TemporaryDirectory() as folder:
    with open(f"{folder}/study.toml", "w") as study:
        study.write('[study]\nhour_worth = "40 EUR"\n')
        for workload in workloads:
            study.write(f'[workload.{workload}]\nkind = "task"\nby_hand = "do it"\njobs_a_month = 10\n')
        study.write('[workload.flight]\nkind = "frames"\nby_hand = "fly"\nrefresh = "60 Hz"\n')
        for number, rig in enumerate(rigs):
            study.write(f'[rig.{rig}]\nprice = "{900 + 100 * number} EUR"\n')
    typical = {(rig, workload): 60 * draw.lognormvariate(0, 0.2) for rig in rigs for workload in workloads}
    for day in range(10, 13):
        for rig in rigs:
            luck = draw.lognormvariate(0, 0.006)
            with open(f"{folder}/table.csv", "w") as table:
                table.write("workload,time\n")
                for _ in range(3):
                    for workload in workloads:
                        seconds = typical[rig, workload] * luck * draw.lognormvariate(0, 0.01)
                        table.write(f"{workload},{seconds:.3f} s\n")
            enter = [lap, "enter", "--rig", rig, "--table", "table.csv", "--sure", "--on", f"2026-03-{day}"]
            subprocess.run(enter, cwd=folder, check=True, capture_output=True)
    for rig in rigs:
        names = []
        for number in range(3):
            names.append(f"{rig}-{number}.csv")
            with open(f"{folder}/{names[-1]}", "w") as log:
                log.write("frame_ms\n")
                log.writelines(f"{draw.lognormvariate(2.77, 0.04):.4f}\n" for _ in range(100_000))
        take = [lap, "import", *names, "--rig", rig]
        subprocess.run(take, cwd=folder, check=True, capture_output=True)
    for _ in range(3):
        begun = time.monotonic()
        subprocess.run([lap, "report"], cwd=folder, check=True, capture_output=True)
        took = time.monotonic() - begun
        size = os.path.getsize(f"{folder}/report.html") / 1e6
        interactive, loaded = in_browser(f"{folder}/report.html")
        print(f"made in {took:.2f} s, {size:.2f} MB, interactive after {interactive / 1e3:.2f} s, "
              f"loaded after {loaded / 1e3:.2f} s")
