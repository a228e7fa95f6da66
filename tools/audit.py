"""Looks through the lock files without a network: all is pinned by its hash, nothing names where it comes from, and
what is installed is what is locked.

    python tools/audit.py
"""

import json
import re
import sys
from collections.abc import Iterator
from importlib.metadata import PackageNotFoundError, version
from pathlib import Path

ROOT = Path(__file__).resolve().parents[1]
PIN = re.compile(r"^(?P<name>[A-Za-z0-9._-]+)==(?P<version>\S+)")
ADDRESS = re.compile(r"https?://")
TOOLS = {"pip", "setuptools", "wheel"}


def python_locks() -> Iterator[str]:
    for lock in sorted((ROOT / "requirements").glob("*.txt")):
        text = lock.read_text()
        if ADDRESS.search(text):
            yield f"{lock.name}: names an address"
        for block in re.split(r"\n(?=[A-Za-z])", text):
            pin = PIN.match(block)
            if pin is None:
                continue
            if "--hash=sha256:" not in block:
                yield f"{lock.name}: {pin['name']} has no hash"
            if pin["name"].lower() not in TOOLS and installed(pin["name"]) not in (None, pin["version"]):
                yield f"{lock.name}: {pin['name']} {pin['version']} is locked, {installed(pin['name'])} installed"


def installed(name: str) -> str | None:
    try:
        return version(name)
    except PackageNotFoundError:
        return None


def node_lock() -> Iterator[str]:
    text = (ROOT / "package-lock.json").read_text()
    if ADDRESS.search(text):
        yield "package-lock.json: names an address"
    for name, package in json.loads(text)["packages"].items():
        if name and "integrity" not in package and not package.get("link"):
            yield f"package-lock.json: {name} has no hash"


def main() -> int:
    actual = [*python_locks(), *node_lock()]
    for problem in actual:
        print(problem)
    return 1 if actual else 0


if __name__ == "__main__":
    sys.exit(main())
