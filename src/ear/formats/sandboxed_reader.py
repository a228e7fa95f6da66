"""A stranger's file, opened in a process of its own that has a deadline and so much memory.

Limits stop a reading where there is too much of something. Should a file find a way past them, this process ends and
not the one that serves people.
"""

import json
import os
import resource
import subprocess
import sys
from importlib import import_module
from pathlib import Path

from ear.errors import FormatError

CPU_S, MEMORY_BYTES = 5, 400_000_000
WAIT_S = 30
"""Beyond the deadline, for a machine that is busy with others."""
SOURCE = Path(__file__).resolve().parents[2]
MODULE = "ear.formats.sandboxed_reader"
PARTS = "ear.formats.importing"
"""Reads what an exercise can be made of."""


def read_in_sandbox(data: bytes, reader: str = PARTS) -> dict[str, object]:
    """Read a file in a process of its own, with limits on time and memory, and return plain values for
    `checked`.

    `reader` is the module whose `read_to_plain` reads it.
    """
    threads = {"OPENBLAS_NUM_THREADS": "1", "OMP_NUM_THREADS": "1"}
    try:
        ended = subprocess.run(
            [sys.executable, "-m", MODULE, reader, str(CPU_S), str(MEMORY_BYTES)],
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
    contents: dict[str, object] = json.loads(ended.stdout)
    return contents


def checked(contents: dict[str, object]) -> dict[str, object]:
    """Return what the sandboxed process read. Raises the FormatError with which it refused the file."""
    problem = contents.get("problem")
    if isinstance(problem, dict):
        raise FormatError(
            expected=problem["expected"],
            actual=problem["found"],
            track=problem["track"],
            offset=problem["offset"],
        )
    return contents


def _refused(problem: FormatError) -> dict[str, object]:
    values = {"expected": problem.expected, "found": problem.actual}
    return {"problem": {**values, "track": problem.track, "offset": problem.offset}}


def _too_hard() -> FormatError:
    return FormatError(
        expected=f"a file that is read within {CPU_S} seconds and {MEMORY_BYTES // 1_000_000} MB",
        actual="more",
    )


def _read_or_refuse(data: bytes, reader: str) -> dict[str, object]:
    try:
        plain: dict[str, object] = import_module(reader).read_to_plain(data)
    except FormatError as problem:
        return _refused(problem)
    return plain


if __name__ == "__main__":
    name, seconds, memory = sys.argv[1], int(sys.argv[2]), int(sys.argv[3])
    resource.setrlimit(resource.RLIMIT_CPU, (seconds, seconds))
    resource.setrlimit(resource.RLIMIT_DATA, (memory, memory))
    sys.stdout.write(json.dumps(_read_or_refuse(sys.stdin.buffer.read(), name)))
