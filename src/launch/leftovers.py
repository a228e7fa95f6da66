"""Stop what an earlier start left running: a launcher that is killed cannot end its processes."""

import json
import os
import signal
import time
from collections.abc import Mapping
from contextlib import suppress
from pathlib import Path

from launch.say import GiveUp, say

RECORD = "running.json"
LAUNCHER = "launcher"
STOP_SECONDS = 20.0
LOOK_SECONDS = 0.1
START_TIME_FIELD = 22
"""Of `/proc/<pid>/stat`, counted from 1 (proc(5)): with it a process is told from a later one that has its number."""


def start_time(pid: int) -> int | None:
    """Return when a process began, in clock ticks since the machine did; None where it is gone, or a zombie."""
    try:
        after_name = Path(f"/proc/{pid}/stat").read_text().rpartition(")")[2].split()
    except OSError:
        return None
    # The fields after the name begin with the third, the state.
    return None if after_name[0] == "Z" else int(after_name[START_TIME_FIELD - 3])


def record_running(folder: Path, pids: Mapping[str, int]) -> None:
    """Write down which processes are running, for the next start."""
    running = {name: [pid, start_time(pid)] for name, pid in {LAUNCHER: os.getpid(), **pids}.items()}
    new = folder / f"{RECORD}.new"
    new.write_text(json.dumps(running))
    new.replace(folder / RECORD)


def forget_running(folder: Path) -> None:
    (folder / RECORD).unlink(missing_ok=True)


def stop_leftovers(folder: Path) -> None:
    """End the processes of an earlier start whose launcher is gone. Raises GiveUp where that start is still at work."""
    try:
        recorded = json.loads((folder / RECORD).read_text())
    except (OSError, ValueError):
        return
    running = {
        name: pid for name, (pid, began) in recorded.items() if began is not None and start_time(pid) == began
    }
    if LAUNCHER in running:
        raise GiveUp(f"Oido is already running here (process {running[LAUNCHER]}); Ctrl-C there stops it")
    if running:
        say(f"  stopping what an earlier start left running: {', '.join(running)}")
    for pid in running.values():
        _signal(pid, signal.SIGTERM)
    ends = time.monotonic() + STOP_SECONDS
    left = {pid: recorded[name][1] for name, pid in running.items()}
    while left and time.monotonic() < ends:
        time.sleep(LOOK_SECONDS)
        left = {pid: began for pid, began in left.items() if start_time(pid) == began}
    for pid in left:
        _signal(pid, signal.SIGKILL)
    forget_running(folder)


def _signal(pid: int, number: int) -> None:
    """To the process and those that it has begun: each leads a group of its own."""
    with suppress(ProcessLookupError):
        os.killpg(pid, number)
