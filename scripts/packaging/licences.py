#!/usr/bin/env python3
"""Prints the licence texts of everything that is linked into `lap`, each text once, with the crates that it is of.

    cargo metadata --format-version 1 --locked --filter-platform TARGET | scripts/packaging/licences.py

Texts come from the crates' own sources, those of C code within them too. A crate that brings none is under the text that its
licence has for everyone. One that is under neither of these licences and brings no text is an error.
"""

import collections
import html.parser
import json
import pathlib
import re
import subprocess
import sys

ROOT = pathlib.Path(__file__).resolve().parents[2]
NAMES = ("LICENSE", "LICENCE", "COPYING", "UNLICENSE", "NOTICE", "COPYRIGHT")
# What is none of a program: scripts named for what they do, sources.
NOT_TEXTS = {".py", ".rs", ".c", ".h", ".toml", ".yml", ".sh"}


def linked(metadata):
    """Returns the packages that are linked in: not what only builds or tests, nor what macros are made of."""
    packages = {package["id"]: package for package in metadata["packages"]}
    nodes = {node["id"]: node for node in metadata["resolve"]["nodes"]}
    wanted = [key for key, package in packages.items() if package["name"] == "honest-lap"]
    seen = set()
    while wanted:
        key = wanted.pop()
        kinds = {kind for target in packages[key]["targets"] for kind in target["kind"]}
        if key in seen or "proc-macro" in kinds:
            continue
        seen.add(key)
        for dependency in nodes[key]["deps"]:
            if any(kind["kind"] is None for kind in dependency["dep_kinds"]):
                wanted.append(dependency["pkg"])
    return sorted((packages[key] for key in seen), key=lambda package: package["name"])


def texts_in(folder):
    """Returns the licence texts anywhere below a folder."""
    for path in sorted(folder.rglob("*")):
        if path.name.upper().startswith(NAMES) and path.is_file() and path.suffix not in NOT_TEXTS:
            yield path.read_text(errors="replace").strip()


def plain(page):
    """Returns the text of an HTML page."""
    parser, pieces = html.parser.HTMLParser(), []
    parser.handle_data = pieces.append
    parser.feed(page[page.find("<body") :])
    return re.sub(r"\n\s*\n\s*", "\n\n", "".join(pieces)).strip()


def main():
    metadata = json.load(sys.stdin)
    of_text = collections.OrderedDict()

    def add(text, who):
        of_text.setdefault(text, []).append(who)

    add((ROOT / "LICENSE").read_text().strip(), "Honest Lap")
    for text in texts_in(ROOT / "crates/draw/fonts"):
        add(text, "the font Inter, which figures and pages carry")
    sysroot = pathlib.Path(subprocess.run(["rustc", "--print", "sysroot"], capture_output=True, text=True, check=True).stdout.strip())
    page = sysroot / "share/doc/rust/COPYRIGHT-library.html"
    add(plain(page.read_text()), "the standard library of Rust and what is in it")
    foreign = [package for package in linked(metadata) if package["source"]]
    without, apache = [], None
    for package in foreign:
        who = f"{package['name']} {package['version']} ({package['license']})"
        texts = list(texts_in(pathlib.Path(package["manifest_path"]).parent))
        for text in texts:
            add(text, who)
            if apache is None and "Apache License" in text and "APPENDIX" in text:
                apache = text
        if not texts:
            without.append((package, who))
    mit = (ROOT / "LICENSE").read_text().split("\n\n", 2)[2].strip()
    for package, who in without:
        held = ", ".join(package["authors"]) or f"the authors of {package['name']}"
        if "MIT" in package["license"]:
            add(f"MIT License\n\nCopyright (c) {held}\n\n{mit}", who)
        if package["license"] == "Apache-2.0" or " AND Apache-2.0" in package["license"]:
            add(apache, who)
        elif "MIT" not in package["license"]:
            sys.exit(f"{who} brings no licence text, and none is known for it")
    print(f"What is linked into lap: {len(foreign)} crates beside its own, and SQLite, which is in the public domain.")
    for text, whose in of_text.items():
        print("\n" + "=" * 100)
        print("Of " + ", ".join(whose) + ":\n")
        print(text)


main()
