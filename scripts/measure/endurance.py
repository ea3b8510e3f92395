#!/usr/bin/env python3
"""What two hours of endurance at ten looks a second come to: size of the logbook, memory of the tool.

The looks are as many, 72,000, and read the real sensors of this machine or the simulated ones of a laptop; they are
taken fifty times as often, every 2 ms, so that two hours take 144 seconds. Needs a release build.

    scripts/measure/endurance.py [SECONDS]
"""
import os
import resource
import subprocess
import sys
import tempfile

LAP = os.path.join(os.path.dirname(__file__), "../../target/release/lap")
seconds = float(sys.argv[1]) if len(sys.argv) > 1 else 144.0

STUDY = f"""
[study]
[workload.shift]
kind = "endurance"
command = ["sleep", "0.02"]
lasts = "{seconds}s"
look_every = "2ms"
[rig.wren]
"""

def measure(simulated):
    with tempfile.TemporaryDirectory() as folder:
        lap = os.path.abspath(LAP)
        run = lambda *words: subprocess.run([lap, *words], cwd=folder, check=True, stdout=subprocess.DEVNULL)
        with open(os.path.join(folder, "study.toml"), "w") as file:
            file.write(STUDY)
        alive = ["--trouble", "throttle", "--seconds", str(seconds + 5)]
        machine = subprocess.Popen([lap, "stand-in", "machine", "--out", "m", *alive], cwd=folder)
        while not os.path.exists(os.path.join(folder, "m/sys/class/drm/card0/gt_act_freq_mhz")):
            pass
        try:
            run("run", "--rig", "wren", *(["--machine-root", "m"] if simulated else []))
        finally:
            machine.kill()
            machine.wait()
        size = os.path.getsize(os.path.join(folder, "logbook.db")) / 1e6
        show = [lap, "show", "wren-1.1"]
        shown = subprocess.run(show, cwd=folder, check=True, capture_output=True, text=True).stdout
        samples = next(line for line in shown.splitlines() if line.startswith("samples"))
        run("plot", "--figure", "rate", "--out", "c.svg")
        run("verify")
    # The largest of all that ran so far, the tool's own processes among them.
    peak = resource.getrusage(resource.RUSAGE_CHILDREN).ru_maxrss / 1024
    which = "simulated sensors" if simulated else "this machine's sensors"
    print(f"{which}: {samples.split()[-1]} samples, logbook {size:.2f} MB, peak memory {peak:.1f} MB")


measure(simulated=False)
measure(simulated=True)
