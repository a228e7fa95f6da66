"""Check the lock files without a network: everything is pinned by its hash, nothing names where it comes from, what is
installed is what is locked, and no locked version has a known fault.

    python tools/audit.py

Known faults are in `advisories.json`, which says of which day it is.
"""

import json
import re
import sys
from collections.abc import Iterator
from importlib.metadata import PackageNotFoundError, version
from pathlib import Path
from typing import Any

from packaging.version import Version

ROOT = Path(__file__).resolve().parents[1]
ADVISORIES = Path(__file__).parent / "advisories.json"
PIN = re.compile(r"^(?P<name>[A-Za-z0-9._-]+)==(?P<version>[^\s\\;]+)")
ADDRESS = re.compile(r"https?://")
TOOLS = {"pip", "setuptools", "wheel"}


def python_pins(lock: Path) -> Iterator[tuple[str, str, str]]:
    """Yield name, version and text of each library in a lock file."""
    for block in re.split(r"\n(?=[A-Za-z])", lock.read_text()):
        pin = PIN.match(block)
        if pin is not None:
            yield pin["name"], pin["version"], block


def python_locks() -> Iterator[str]:
    for lock in sorted((ROOT / "requirements").glob("*.txt")):
        if ADDRESS.search(lock.read_text()):
            yield f"{lock.name}: names an address"
        for name, locked, block in python_pins(lock):
            if "--hash=sha256:" not in block:
                yield f"{lock.name}: {name} has no hash"
            if name.lower() not in TOOLS and installed(name) not in (None, locked):
                yield f"{lock.name}: {name} {locked} is locked, {installed(name)} installed"


def installed(name: str) -> str | None:
    try:
        return version(name)
    except PackageNotFoundError:
        return None


def node_packages() -> Iterator[tuple[str, dict[str, Any]]]:
    """Yield the name and the entry of each library in the lock file of Node."""
    for path, package in json.loads((ROOT / "package-lock.json").read_text())["packages"].items():
        if path and not package.get("link"):
            yield path.split("node_modules/")[-1], package


def node_lock() -> Iterator[str]:
    if ADDRESS.search((ROOT / "package-lock.json").read_text()):
        yield "package-lock.json: names an address"
    for name, package in node_packages():
        if "integrity" not in package:
            yield f"package-lock.json: {name} has no hash"


def plain_name(name: str) -> str:
    """Return a name as the Python registry compares names."""
    return re.sub(r"[-_.]+", "-", name).lower()


def is_affected(locked: str, events: list[dict[str, str]]) -> bool:
    """Return whether a version lies in a range of an advisory: introduced at one version, fixed at a later one."""
    affected = False
    for event in events:
        if "introduced" in event and Version(locked) >= Version(event["introduced"]):
            affected = True
        if "fixed" in event and Version(locked) >= Version(event["fixed"]):
            affected = False
    return affected


def known_faults(records: list[dict[str, Any]], locked: dict[tuple[str, str], str]) -> Iterator[str]:
    """Yield a line for each locked version, by ecosystem and name, that has a known fault."""
    for record in records:
        for affected in record["affected"]:
            package = affected["package"]
            known = locked.get((package["ecosystem"], plain_name(package["name"])))
            ranges = affected.get("ranges", [])
            if known and any(is_affected(known, each["events"]) for each in ranges):
                yield f"{package['name']} {known}: {record['id']}, {record['summary']}"


def locked_versions() -> dict[tuple[str, str], str]:
    pins = {
        ("PyPI", plain_name(name)): locked
        for lock in (ROOT / "requirements").glob("*.txt")
        for name, locked, _block in python_pins(lock)
    }
    return pins | {("npm", plain_name(name)): package["version"] for name, package in node_packages()}


def main() -> int:
    advisories = json.loads(ADVISORIES.read_text())
    print(f"faults known on {advisories['as_of']}: {len(advisories['records'])}")
    problems = [*python_locks(), *node_lock(), *known_faults(advisories["records"], locked_versions())]
    for problem in problems:
        print(problem)
    return 1 if problems else 0


if __name__ == "__main__":
    sys.exit(main())
