"""A stranger's file, opened in a process of its own that has a deadline and so much memory.

Limits stop a reading where there is too much of something. Should a file find a way past them, this process ends and
not the one that serves people.
"""

import json
import os
import resource
import subprocess
import sys
from pathlib import Path
from typing import Any

from ear.errors import FormatError
from ear.formats.importing import OpenedFile, open_file, opened_from_json, opened_to_json

CPU_S, MEMORY_BYTES = 5, 400_000_000
WAIT_S = 30
"""Beyond the deadline, for a machine that is busy with others."""
SOURCE = Path(__file__).resolve().parents[2]
MODULE = "ear.formats.apart"


def told_apart(data: bytes) -> dict[str, Any]:
    """What such a process says of a file, as plain values, to be kept and to be read by `opened_told`."""
    threads = {"OPENBLAS_NUM_THREADS": "1", "OMP_NUM_THREADS": "1"}
    try:
        ended = subprocess.run(
            [sys.executable, "-m", MODULE, str(CPU_S), str(MEMORY_BYTES)],
            input=data,
            capture_output=True,
            timeout=CPU_S + WAIT_S,
            check=False,
            env={**os.environ, "PYTHONPATH": str(SOURCE), **threads},
        )
    except subprocess.TimeoutExpired:
        return _refused(_too_hard())
    if ended.returncode:
        return _refused(_too_hard())
    told: dict[str, Any] = json.loads(ended.stdout)
    return told


def opened_told(told: dict[str, Any]) -> OpenedFile:
    """The opened file. Raises the FormatError with which it was refused."""
    if "problem" in told:
        raise FormatError(**told["problem"])
    return opened_from_json(told)


def _refused(problem: FormatError) -> dict[str, Any]:
    values = {"expected": problem.expected, "found": problem.found}
    return {"problem": {**values, "track": problem.track, "offset": problem.offset}}


def _too_hard() -> FormatError:
    return FormatError(
        expected=f"a file that is read within {CPU_S} seconds and {MEMORY_BYTES // 1_000_000} MB",
        found="more",
    )


def _told(data: bytes) -> dict[str, Any]:
    try:
        return opened_to_json(open_file(data))
    except FormatError as problem:
        return _refused(problem)


if __name__ == "__main__":
    seconds, memory = (int(word) for word in sys.argv[1:])
    resource.setrlimit(resource.RLIMIT_CPU, (seconds, seconds))
    resource.setrlimit(resource.RLIMIT_DATA, (memory, memory))
    sys.stdout.write(json.dumps(_told(sys.stdin.buffer.read())))
