#!/usr/bin/env python3
"""What driving rigs from one seat costs: the time of three rigs over SSH beside that of one alone, and a lap's own time.

    python3 scripts/measure/driving.py target/release/lap [LAPS] [PAIRS]

Starts an SSH server of its own on loopback, with keys of its own. All "rigs" are this machine, and so is the seat: what the
seat does beside a lap is a worst case.
"""

import math
import os
import pathlib
import re
import socket
import statistics
import subprocess
import sys
import tempfile
import time

lap = os.path.abspath(sys.argv[1])
laps = int(sys.argv[2]) if len(sys.argv) > 2 else 150
pairs = int(sys.argv[3]) if len(sys.argv) > 3 else 8
# In memory where that can be: rigs have disks of their own, and these would wait for one.
memory = "/dev/shm" if os.path.isdir("/dev/shm") else None
root = pathlib.Path(tempfile.mkdtemp(prefix="lap-driving-", dir=memory))


def server():
    for key in ("host", "user"):
        subprocess.run(["ssh-keygen", "-q", "-t", "ed25519", "-N", "", "-f", root / key], check=True)
    with socket.socket() as free:
        free.bind(("127.0.0.1", 0))
        port = free.getsockname()[1]
    (root / "sshd").write_text(
        f"Port {port}\nListenAddress 127.0.0.1\nHostKey {root}/host\nAuthorizedKeysFile {root}/user.pub\nPidFile none\n"
        "UsePAM no\nStrictModes no\nPermitRootLogin yes\nAcceptEnv *\n"
    )
    (root / "known").write_text(f"[127.0.0.1]:{port} {(root / 'host.pub').read_text()}")
    if os.geteuid() == 0:
        os.makedirs("/run/sshd", exist_ok=True)
    running = subprocess.Popen(["/usr/sbin/sshd", "-D", "-f", root / "sshd"])
    while subprocess.run(["ssh-keyscan", "-p", str(port), "127.0.0.1"], capture_output=True).stdout == b"":
        time.sleep(0.1)
    return running, port


def rig(name, port):
    home = root / name
    home.mkdir()
    of_its_own = f"HOME={home} XDG_CACHE_HOME={home}/.cache XDG_CONFIG_HOME={home}/.config LAP_MACHINE_LOCK={home}/lock"
    (root / f"{name}.config").write_text(
        f"Host {name}\nHostName 127.0.0.1\nPort {port}\nIdentityFile {root}/user\nUserKnownHostsFile {root}/known\n"
        f"BatchMode yes\nLogLevel ERROR\nSetEnv {of_its_own}\n"
    )
    return f'[rig.{name}]\nreach = "ssh -F {root}/{name}.config {name}"\n'


def study(name, workload, rigs):
    folder = root / name
    folder.mkdir()
    (folder / "study.toml").write_text(f"[study]\nwarm_up = 0\n{workload}{rigs}")
    return folder


def run(folder, *args):
    environment = {**os.environ, "HOME": str(root), "LAP_MACHINE_LOCK": str(root / "lock")}
    began = time.monotonic()
    subprocess.run([lap, "run", *args], cwd=folder, env=environment, check=True, capture_output=True)
    return time.monotonic() - began


def times(folder):
    """The laps' own times, by session, in the order run."""
    environment = {**os.environ, "HOME": str(root)}
    told = subprocess.run([lap, "export", "laps"], cwd=folder, env=environment, check=True, capture_output=True, text=True)
    lines = told.stdout.splitlines()
    heading = lines[0].split(",")
    name, wall = heading.index("lap"), heading.index("time_ns")
    sessions = {}
    for line in lines[1:]:
        row = line.split(",")
        sessions.setdefault(re.sub(r"\.\d+$", "", row[name]), []).append(int(row[wall]))
    return sessions


ssh, port = server()
try:
    rigs = {name: rig(name, port) for name in ("heron", "wren", "plover")}
    second = '[workload.w]\nkind = "task"\ncommand = ["sleep", "1"]\n'
    waiting = study("waiting", second, "".join(rigs.values()))
    alone = run(waiting, "--rig", "heron", "--here", "--laps", str(laps))
    together = run(waiting, "--rig", "heron,wren,plover", "--laps", str(laps))
    print(f"{laps} laps of 1 s: alone {alone:.2f} s, three over ssh {together:.2f} s: {together / alone:.4f}, {together - alone:+.2f} s")

    busy = f'[workload.w]\nkind = "task"\ncommand = ["{lap}", "stand-in", "orbit-solve", "--steps", "120000", "--threads", "1"]\n'
    folder = study("busy", busy, rigs["heron"])
    here, there = ("--rig", "heron", "--here", "--laps", "12"), ("--rig", "heron", "--laps", "12")
    order = []
    for pair in range(pairs):
        for args in (here, there) if pair % 2 == 0 else (there, here):
            run(folder, *args)
            order.append(args is there)
    medians = [statistics.median(found) for _, found in sorted(times(folder).items(), key=lambda it: int(it[0].split("-")[1]))]
    logs = []
    for pair in range(pairs):
        two = dict(zip(order[2 * pair : 2 * pair + 2], medians[2 * pair : 2 * pair + 2]))
        logs.append(math.log(two[True] / two[False]))
    mean, spread = statistics.mean(logs), statistics.stdev(logs) / math.sqrt(len(logs))
    print(
        f"a lap's own time, driven over local, {pairs} pairs of sessions of 12 laps: {math.exp(mean):.4f} "
        f"({math.exp(mean - 2 * spread):.4f} to {math.exp(mean + 2 * spread):.4f}, two standard errors)"
    )
finally:
    ssh.terminate()
    subprocess.run(["rm", "-rf", root])
