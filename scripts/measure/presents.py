#!/usr/bin/env python3
"""Measures the recorder of presented frames: see docs/measurements.md. Takes about fifteen minutes.

presents.py LAP [PAIRS [rates]]; needs Xvfb, mesa-utils, chromium-bsu, gcc-multilib and valgrind.
"""

import glob
import json
import math
import os
import re
import statistics
import struct
import subprocess
import sys
import tempfile
import time

LAP = os.path.abspath(sys.argv[1])
PAIRS = int(sys.argv[2]) if len(sys.argv) > 2 else 16
HERE = os.path.dirname(os.path.abspath(__file__))
# Where records begin: see docs/formats/capture.md.
RECORDS_AT = 528_384
EMPTY = os.path.join(HERE, "../../crates/cli/tests/screens/programs/empty_driver.c")
# The game takes no input, and no two of its flights are alike; the gears are.
PROGRAMS = {"a game": ["timeout", "6", "/usr/games/chromium-bsu"], "gears": ["timeout", "4", "glxgears"]}


def study(folder, workloads):
    text = "[study]\nwarm_up = 0\nlaps = 1\nrest = \"0s\"\n" + "".join(workloads)
    with open(os.path.join(folder, "study.toml"), "w") as file:
        file.write(text)


def workload(name, kind, command, more):
    return f"[workload.{name}]\nkind = \"{kind}\"\ncommand = {json.dumps(command)}\n{more}\n"


def drive(folder, name, env=None):
    """Drives one lap and returns its record."""
    done = subprocess.run([LAP, "run", name], cwd=folder, capture_output=True, text=True, env=env)
    lap = max(int(n) for n in re.findall(r"session here-(\d+)", done.stderr))
    shown = subprocess.run([LAP, "show", f"here-{lap}.1", "--format", "json"], cwd=folder,
                           capture_output=True, text=True, check=True)
    return json.loads(shown.stdout)["groups"][0]["rows"][0]


def cost(folder):
    """Prints what a present costs, of this machine's own programs and of 32-bit ones."""
    for bits in ["64", "32"]:
        subprocess.run(["cc", f"-m{bits}", "-shared", "-fPIC", "-O2", "-o", f"{folder}/libempty.so", EMPTY], check=True)
        subprocess.run(["cc", f"-m{bits}", "-O2", "-o", f"{folder}/presents", f"{HERE}/presents.c", f"-L{folder}", "-lempty",
                        f"-Wl,-rpath,{folder}"], check=True)
        for words, title in [(["100000", "0"], "back to back, 100,000"),
                             (["400000", "50"], "20,000 a second, 400,000 over three growths")][:1 if bits == "32" else 2]:
            with_it = workload("with", "frames", ["./presents"] + words, 'frames = "presented"')
            study(folder, [with_it, workload("without", "task", ["./presents"] + words, "")])
            for name in ["with", "without"] * 3:
                print(f"  {bits} bits, {title}, {name} the recorder, ns: {drive(folder, name)['stdout_lines'][0]}")
    subprocess.run(["cc", "-shared", "-fPIC", "-O2", "-o", f"{folder}/libempty.so", EMPTY], check=True)


def instructions(folder):
    """Counts what a present takes of the processor's instructions, by a tool that makes the system's calls no instructions.

    The clock is read by a call there, of 15 instructions; of the two that are made nothing is the recorder's own.
    """
    with open(f"{folder}/loop.c", "w") as file:
        file.write("#include <stdlib.h>\nvoid glXSwapBuffers(void *, unsigned long);\n"
                   "int main(int n, char **w) { for (long i = atol(w[1]); i; i--) glXSwapBuffers(0, 7); return 0; }\n")
    subprocess.run(["cc", "-O2", "-o", f"{folder}/loop", f"{folder}/loop.c", f"-L{folder}", "-lempty", f"-Wl,-rpath,{folder}"],
                   check=True)
    built = glob.glob(f"{HERE}/../../target/release/build/honest-lap-measure-*/out/libhonest_lap_present.so")
    capture = f"{folder}/counted"
    counted = {}
    for preload in ["", max(built, key=os.path.getmtime)]:
        for presents in [1_000, 11_000]:
            with open(capture, "wb") as file:
                header = b"LAPSHOWN" + struct.pack("<IIQQQ", 2, 32, 0, 0, 20_000)
                file.write(header.ljust(RECORDS_AT, b"\0") + bytes(32 * 20_000))
            env = dict(os.environ, LD_PRELOAD=preload, HONEST_LAP_PRESENTED=capture)
            said = subprocess.run(["valgrind", "--tool=callgrind", f"--callgrind-out-file={folder}/out", f"{folder}/loop",
                                   str(presents)], capture_output=True, text=True, env=env, check=True).stderr
            counted[bool(preload), presents] = int(re.search(r"Collected : (\d+)", said)[1])
    each = [(counted[which, 11_000] - counted[which, 1_000]) / 10_000 for which in (False, True)]
    print(f"  instructions of a present: {each[1] - each[0]:.1f}, of which reading the clock twice 30")


def exact(folder, screen):
    """Holds what a program says that it has drawn against what was recorded by then, to the frame."""
    built = glob.glob(f"{HERE}/../../target/release/build/honest-lap-measure-*/out/libhonest_lap_present.so")
    library = max(built, key=os.path.getmtime)
    for program in ["glxgears", "es2gears_x11"]:
        capture = os.path.join(folder, program)
        room = 1_000_000
        with open(capture, "wb") as file:
            header = b"LAPSHOWN" + struct.pack("<IIQQQ", 2, 32, 0, 0, room)
            file.write(header.ljust(RECORDS_AT, b"\0") + bytes(32 * room))
        env = dict(screen, LD_PRELOAD=library, HONEST_LAP_PRESENTED=capture)
        run = subprocess.Popen(["stdbuf", "-oL", program], stdout=subprocess.PIPE, stderr=subprocess.DEVNULL, env=env)
        said, total = [], 0
        for line in run.stdout:
            at = time.monotonic_ns()
            if found := re.match(rb"(\d+) frames in", line):
                total += int(found[1])
                said.append((at, total))
            if len(said) == 3:
                break
        run.kill()
        run.wait()
        with open(capture, "rb") as file:
            header, records = file.read(RECORDS_AT), file.read()
        count = struct.unpack_from("<Q", header, 16)[0]
        # When each call ended: its begin, and how long it took.
        ended = [begun + took for begun, _, took, *_ in struct.iter_unpack("<QQIIII", records[:32 * count])]
        for at, total in said:
            by_then = sum(1 for moment in ended if moment <= at)
            print(f"  {program} has said that it drew {total} frames; recorded by then: {by_then}")


def rates(folder, screen, pairs, title):
    counter = f"{folder}/libcounter.so"
    subprocess.run(["cc", "-shared", "-fPIC", "-O2", "-o", counter, f"{HERE}/counter.c"], check=True)
    own = (f'environment = {{ LD_PRELOAD = "{counter}", COUNTER = "{folder}/count", SDL_AUDIODRIVER = "dummy" }}\n'
           "exit_codes = [0, 124]")

    study(folder, [workload("with", "frames", PROGRAMS[title], f'frames = "presented"\n{own}'),
                   workload("without", "task", PROGRAMS[title], own)])

    def lap(name):
        shown = drive(folder, name, screen)
        with open(f"{folder}/count", "rb") as file:
            frames = struct.unpack("q", file.read(8))[0]
        cpu = (shown["user_ns"] + shown["system_ns"]) / 1e9
        return frames / (shown["wall_ns"] / 1e9), frames / cpu, frames, shown
    logs = ([], [])
    for pair in range(pairs):
        order = ["with", "without"] if pair % 2 == 0 else ["without", "with"]
        found = {name: lap(name) for name in order}
        for which in range(2):
            logs[which].append(math.log(found["with"][which] / found["without"][which]))
    for name, all_of in zip(["frames a second", "frames a second of processor time"], logs):
        mean = statistics.mean(all_of)
        half = t(pairs - 1) * statistics.stdev(all_of) / math.sqrt(pairs)
        print(f"  {title}, with over without, {pairs} pairs A B B A, {name}: {math.exp(mean):.4f} "
              f"({math.exp(mean - half):.4f} to {math.exp(mean + half):.4f})")
    print(f"  of the last lap it counted {found['with'][2]} frames; recorded: {found['with'][3]['frames_read_as']}")


def t(freedom):
    """Student's t at 97.5 %, by the Cornish-Fisher series: three digits from 7 degrees on."""
    z = 1.959964
    return z + (z**3 + z) / (4 * freedom) + (5 * z**5 + 16 * z**3 + 3 * z) / (96 * freedom**2)


def main():
    server = subprocess.Popen(["Xvfb", "-displayfd", "1", "-screen", "0", "1280x800x24"],
                              stdout=subprocess.PIPE, stderr=subprocess.DEVNULL, text=True)
    screen = dict(os.environ, DISPLAY=":" + server.stdout.readline().strip())
    try:
        # On a disk, as a study is: the folder for temporary files may be memory.
        with tempfile.TemporaryDirectory(dir=os.environ.get("LAP_MEASURE_DIR")) as folder:
            if "rates" not in sys.argv[3:]:
                cost(folder)
                instructions(folder)
                exact(folder, screen)
            for title in PROGRAMS:
                rates(folder, screen, PAIRS, title)
    finally:
        server.kill()


main()
