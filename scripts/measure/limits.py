#!/usr/bin/env python3
"""Measures how often each limit is named rightly, twenty laps of each: see docs/measurements.md. About ten minutes, as root.

Nothing else should run on the machine meanwhile: a neighbour is what the last kinds are about.
"""

import json
import os
import random
import subprocess
import sys
import tempfile

LAP = os.path.abspath(sys.argv[1])
# Only these kinds, by their workload's name; all if none is named.
CHOSEN = sys.argv[2:]
LAPS, CLEAN = "20", 200
SPIN = "timeout {seconds} sh -c 'while :; do :; done'; true"
SWAPPER = """#define _GNU_SOURCE
#include <sys/mman.h>
#include <unistd.h>
#ifndef MADV_PAGEOUT
#define MADV_PAGEOUT 21
#endif
int main(void) {
    size_t size = 48 << 20;
    char *at = mmap(0, size, PROT_READ | PROT_WRITE, MAP_PRIVATE | MAP_ANONYMOUS, -1, 0);
    unsigned long sum = 0;
    for (int round = 0; round < 4; round++) {
        for (size_t i = 0; i < size; i++) at[i] = (char)((i + round) * 2654435761u >> 7);
        if (madvise(at, size, MADV_PAGEOUT)) return 4;
        for (size_t i = 0; i < size; i += 4096) sum += at[i];
    }
    return sum == 1;
}
"""
PART = "static int f{n}(int a) {{ int s = a; for (int i = 0; i < 9; i++) s = s * 31 + (s ^ {n}) % (i + 3); return s; }}\n"

# What runs, and what it is rightly called. A lap that is called something else is counted as wrong.
KINDS = [
    ("a one-thread encode", "encode", "one-thread"),
    ("an all-core compile", "compile", "processor"),
    ("a job that swaps", "swap", "memory"),
    ("a copy to the disk", "copy", "disk"),
    ("a game capped at 60 Hz", "game", "cap"),
    ("a sleep", "sleep", "waiting"),
    ("one thread beside two busy programs", "beside", "contention"),
    ("a sleep beside two busy programs", "asleep", "waiting"),
    ("a sleep beside synchronous writes", "nearby", "waiting"),
]


def study(folder):
    with open(os.path.join(folder, "swapper.c"), "w") as file:
        file.write(SWAPPER)
    subprocess.run(["cc", "-O1", "-o", "swapper", "swapper.c"], cwd=folder, check=True)
    for unit in range(96):
        with open(os.path.join(folder, f"unit{unit}.c"), "w") as file:
            file.write("".join(PART.format(n=n + unit * 10_000) for n in range(600)))
            file.write(f"int u{unit}(int a) {{ return f{unit * 10_000}(a); }}\n")
    encode = "vpxenc --quiet --codec=vp8 --threads=1 --good --cpu-used=1 -o reel.webm reel.y4m"
    subprocess.run([LAP, "stand-in", "reel-frames", "--frames", "150", "--out", "reel.y4m"], cwd=folder, check=True)
    compiled = "ls unit*.c | xargs -P $(nproc) -n 1 cc -O2 -c"
    commands = {
        "encode": encode,
        "compile": compiled,
        "swap": "./swapper",
        "copy": "dd if=/dev/zero of=copy bs=4k count=2500 oflag=dsync status=none",
        "sleep": "sleep 1.2",
        "beside": SPIN.format(seconds=1.2),
        "asleep": "sleep 1.2",
        "nearby": "sleep 1.2",
        "clean": "timeout 0.8 sh -c 'i=0; while [ $i -lt 90000 ]; do i=$((i+1)); done'; true",
    }
    lines = ["[study]", "warm_up = 0"]
    for name, command in commands.items():
        lines += [f"[workload.{name}]", 'kind = "task"', f"command = {json.dumps(command)}"]
    lines += ["[workload.game]", 'kind = "frames"', 'by_hand = "play"', 'refresh = "60 Hz"']
    with open(os.path.join(folder, "study.toml"), "w") as file:
        file.write("\n".join(lines) + "\n")


def lap(folder, *args):
    done = subprocess.run([LAP, *args], cwd=folder, capture_output=True, text=True, check=False)
    if done.returncode not in (0, 1):
        sys.exit(f"lap {' '.join(args)}: {done.stderr}")
    return done.stdout


def limits(folder, workload):
    """Returns what each lap of a workload was limited by."""
    rows = [json.loads(line) for line in lap(folder, "export", "laps", "--format", "json-lines").splitlines()]
    names = [row["lap"] for row in rows if row["workload"] == workload]
    found = []
    for name in names:
        shown = json.loads(lap(folder, "show", name, "--format", "json"))
        found.append(shown["groups"][0]["rows"][0]["limited_by"] or "")
    return found


WORDS = {"one-thread": "one-thread-bound", "processor": "processor-bound", "memory": "memory-bound", "disk": "disk-bound",
         "cap": "capped", "waiting": "waiting", "contention": "short of processor"}


def main():
    with tempfile.TemporaryDirectory() as folder:
        study(folder)
        swap = os.path.join(folder, "swapfile")
        subprocess.run(["fallocate", "-l", "256M", swap], check=True)
        os.chmod(swap, 0o600)
        subprocess.run(["mkswap", swap], capture_output=True, check=True)
        swaps = subprocess.run(["swapon", swap], capture_output=True, check=False).returncode == 0
        try:
            measure(folder, swaps)
        finally:
            if swaps:
                subprocess.run(["swapoff", swap], check=False)


def measure(folder, swaps):
    print(f"{'what ran':38}{'rightly named':16}otherwise")
    for what, workload, limit in KINDS:
        if CHOSEN and workload not in CHOSEN:
            continue
        if workload == "swap" and not swaps:
            print(f"{what:38}not measured: no swap file may be added here")
            continue
        if workload == "game":
            game(folder)
        else:
            busy = beside(folder, workload)
            lap(folder, "run", workload, "--laps", LAPS)
            for program in busy:
                program.kill()
                program.wait()
        found = limits(folder, workload)
        rightly = sum(one.startswith(WORDS[limit]) for one in found)
        others = sorted({one.split(":")[0] or "nothing" for one in found if not one.startswith(WORDS[limit])})
        print(f"{what:38}{rightly} of {len(found):<11}{', '.join(others)}", flush=True)
    if CHOSEN and "clean" not in CHOSEN:
        return
    lap(folder, "run", "clean", "--laps", str(CLEAN))
    found = limits(folder, "clean")
    accused = sum(bool(one) and not one.startswith("one-thread") for one in found)
    print(f"{'clean laps of one thread, accused':38}{accused} of {len(found)}")


def beside(folder, workload):
    """Starts what runs beside the laps of a workload, if anything does."""
    if workload in ("beside", "asleep"):
        return [subprocess.Popen(["sh", "-c", "while :; do :; done"]) for _ in range(2)]
    if workload == "nearby":
        writes = ["dd", "if=/dev/zero", "of=theirs", "bs=4k", "count=1000000", "oflag=dsync", "status=none"]
        return [subprocess.Popen(writes, cwd=folder)]
    return []


def game(folder):
    """Imports twenty passes whose frames keep to 60 Hz, with a jitter of half a millisecond."""
    chance = random.Random(4)
    names = []
    for number in range(int(LAPS)):
        name = os.path.join(folder, f"pass-{number}.csv")
        with open(name, "w") as file:
            file.write("frame_ms\n")
            file.writelines(f"{16.667 * (1 + (chance.random() < 0.01)) + chance.gauss(0, 0.5):.3f}\n" for _ in range(1_800))
        names.append(name)
    lap(folder, "import", *names, "--rig", "here", "--workload", "game")


main()
