"""Puts each fault of `tests/faults.py` into a copy of the code and looks whether its tests notice.

python tools/mutants.py [words that a fault's place or text must hold]
"""

import os
import shutil
import subprocess
import sys
import tempfile
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

from tests.faults import FAULTS, Fault

ROOT = Path(__file__).resolve().parents[1]
WORKERS = 2
SECONDS_MOST = 300
SCRIPTS = "scripts"


def caught(fault: Fault) -> str:
    """Caught, or why not."""
    with tempfile.TemporaryDirectory(prefix="oido-fault-") as folder:
        copy = Path(folder)
        for name in ("src", "tests"):
            shutil.copytree(ROOT / name, copy / name, ignore=shutil.ignore_patterns("__pycache__"))
        file = copy / fault.file
        text = file.read_text()
        if text.count(fault.was) != 1:
            return f"its place stands {text.count(fault.was)} times in the file"
        file.write_text(text.replace(fault.was, fault.becomes))
        env = {**os.environ, "PYTHONPATH": f"{copy / 'src'}:{copy}", "PYTHONDONTWRITEBYTECODE": "1"}
        if fault.tests == SCRIPTS:
            names = sorted(str(one) for one in (copy / "tests" / "scripts").glob("*.test.js"))
            command = ["node", "--import", "./tests/scripts/register.js", "--test", *names]
        else:
            command = [sys.executable, "-m", "unittest", "-f", *fault.tests.split()]
        try:
            done = subprocess.run(
                command, cwd=copy, env=env, capture_output=True, check=False, timeout=SECONDS_MOST
            )
        except subprocess.TimeoutExpired:
            return "caught"
        return "caught" if done.returncode else "NOT noticed"


def main(words: list[str]) -> int:
    chosen = [one for one in FAULTS if all(word in f"{one.file} {one.was}" for word in words)]
    with ThreadPoolExecutor(WORKERS) as pool:
        results = list(pool.map(caught, chosen))
    for fault, result in zip(chosen, results, strict=True):
        print(f"{result:12} {fault.file}: {fault.was[:60]!r} → {fault.becomes[:60]!r}")
    missed = [result for result in results if result != "caught"]
    print(f"\n{len(chosen) - len(missed)} of {len(chosen)} faults are noticed")
    return 1 if missed else 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
