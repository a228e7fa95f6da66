"""Puts each fault of `tests/faults.py` into a copy of the code and looks whether its tests notice.

./oido bench mutants [--room takes] [words that a fault's place or text must hold]

A room is one package of the core, one app, or `scripts`: it is done in minutes, all of them in an hour.

First the tests are run without a fault: those that fail then, or cannot start, say nothing about faults.
Noticed is a fault where a test ran and failed. Where the tests could not start, or did not end in time,
that is said, and counts as not noticed.
"""

import argparse
import os
import re
import shutil
import subprocess
import sys
import tempfile
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from contextlib import contextmanager
from enum import StrEnum
from pathlib import Path
from threading import Lock

from tests.faults import FAULTS, Fault

ROOT = Path(__file__).resolve().parents[1]
WORKERS = 2
MAX_SECONDS = 300
MAX_SCRIPT_SECONDS = 40
"""Scripts take two; where one waits for ever, that is enough."""
SCRIPTS = "scripts"
LINKED = ("build", "docs", "node_modules", "package.json")
"""What tests read beside the code."""
BROKEN = re.compile(r"_FailedTest|ImportError|SyntaxError|ImproperlyConfigured")
one_database = Lock()
"""Tests of the application share one database: they run one after the other."""


class Outcome(StrEnum):
    PASSED = "NOT noticed"
    NOTICED = "noticed"
    NOT_STARTED = "tests could not start"
    TOO_LONG = "tests did not end"


@contextmanager
def copied() -> Iterator[Path]:
    """Give a copy of the code and its tests."""
    with tempfile.TemporaryDirectory(prefix="oido-fault-") as folder:
        copy = Path(folder)
        for name in ("src", "tests", "benches"):
            shutil.copytree(ROOT / name, copy / name, ignore=shutil.ignore_patterns("__pycache__"))
        for name in LINKED:
            (copy / name).symlink_to(ROOT / name)
        yield copy


def run_tests(tests: str, copy: Path) -> Outcome:
    """Run tests in a copy of the code."""
    env = {**os.environ, "PYTHONPATH": f"{copy / 'src'}:{copy}", "PYTHONDONTWRITEBYTECODE": "1"}
    if tests == SCRIPTS:
        names = sorted(str(one) for one in (copy / "tests" / "scripts").glob("*.test.js"))
        return _outcome(["node", "--import", "./tests/scripts/register.js", "--test", *names], copy, env)
    labels = tests.split()
    if all(label.startswith("tests.ear") for label in labels):
        return _outcome([sys.executable, "-m", "unittest", "-f", *labels], copy, env)
    env["DJANGO_SETTINGS_MODULE"] = "oido.config.settings_test"
    words = ["test", "--keepdb", "--no-input", "--failfast", "-t", ".", *labels]
    with one_database:
        return _outcome([sys.executable, "src/manage.py", *words], copy, env)


def _outcome(command: list[str], copy: Path, env: dict[str, str]) -> Outcome:
    limit = MAX_SCRIPT_SECONDS if command[0] == "node" else MAX_SECONDS
    try:
        done = subprocess.run(
            command, cwd=copy, env=env, capture_output=True, text=True, check=False, timeout=limit
        )
    except subprocess.TimeoutExpired:
        return Outcome.TOO_LONG
    if done.returncode == 0:
        return Outcome.PASSED
    said = done.stdout + done.stderr
    has_failed = re.search(r"^FAILED \(|^# fail [1-9]|^ℹ fail [1-9]", said, re.MULTILINE) is not None
    return Outcome.NOTICED if has_failed and not BROKEN.search(said) else Outcome.NOT_STARTED


def try_fault(fault: Fault) -> str:
    """Put a fault into a copy; return how its tests went."""
    with copied() as copy:
        file = copy / fault.file
        text = file.read_text()
        if text.count(fault.was) != 1:
            return f"its place is in the file {text.count(fault.was)} times"
        file.write_text(text.replace(fault.was, fault.becomes))
        return run_tests(fault.tests, copy)


def broken_baseline(chosen: list[Fault]) -> dict[str, str]:
    """Run each set of tests without a fault; return what is wrong with those that do not pass."""
    with copied() as copy:
        outcomes = {tests: run_tests(tests, copy) for tests in dict.fromkeys(one.tests for one in chosen)}
    return {
        tests: "they fail without a fault" if outcome is Outcome.NOTICED else outcome.value
        for tests, outcome in outcomes.items()
        if outcome is not Outcome.PASSED
    }


def room_of(fault: Fault) -> str:
    """Return the package, the app, or that it is a script."""
    return "scripts" if fault.file.endswith(".js") else fault.file.split("/")[2].removesuffix(".py")


def main(words: list[str]) -> int:
    parser = argparse.ArgumentParser(prog="./oido bench mutants")
    parser.add_argument("--room", choices=sorted({room_of(one) for one in FAULTS}))
    parser.add_argument("words", nargs="*")
    wanted = parser.parse_args(words)
    chosen = [
        one
        for one in FAULTS
        if wanted.room in (None, room_of(one))
        and all(word in f"{one.file} {one.was}" for word in wanted.words)
    ]
    broken = broken_baseline(chosen)
    for tests, why in broken.items():
        print(f"{tests}: {why}")
    chosen = [one for one in chosen if one.tests not in broken]
    results = []
    with ThreadPoolExecutor(WORKERS) as pool:
        for fault, result in zip(chosen, pool.map(try_fault, chosen), strict=True):
            results.append(result)
            print(f"{result:22} {fault.file}: {fault.was[:60]!r} → {fault.becomes[:60]!r}", flush=True)
    noticed = results.count(Outcome.NOTICED)
    print(f"\n{noticed} of {len(chosen)} faults are noticed")
    return 1 if broken or noticed < len(chosen) else 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
