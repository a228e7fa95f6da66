"""An installation of its own with a class at work in it: what the benches of kills and outages break."""

import os
import signal
import subprocess
import sys
import time
import urllib.request
from collections.abc import Callable
from contextlib import suppress
from pathlib import Path
from random import Random

from benches.at_work import Outcome, compare, make_class, working
from launch.database import Database, free_port
from launch.places import DATA, ROOT
from launch.processes import environment

STUDENTS, ASSIGNMENTS = 8, 6
VICTIMS = ("server", "worker", "database", "launcher")


class Installation:
    """An Oido of its own, started by its launcher, whose processes can be found and killed."""

    def __init__(self) -> None:
        self.port, self.db_port = free_port(), free_port()
        self.address = f"http://127.0.0.1:{self.port}"
        self.env = {**os.environ, "OIDO_PORT": str(self.port), "OIDO_DB_PORT": str(self.db_port)}
        self.launcher: subprocess.Popen[bytes] | None = None

    def start(self) -> None:
        """Start the launcher and wait until pages are served. Raises RuntimeError."""
        DATA.mkdir(parents=True, exist_ok=True)
        log = (DATA / "launcher.log").open("ab")
        self.launcher = subprocess.Popen(
            [sys.executable, "-m", "launch", "start", "--empty"], cwd=ROOT, env=self.env, stdout=log, stderr=log,
            start_new_session=True,
        )  # fmt: skip
        while self.launcher.poll() is None:
            if self._answers() and self.processes()["worker"]:
                return
            time.sleep(0.1)
        raise RuntimeError(f"the launcher gave up; see {log.name}")

    def processes(self) -> dict[str, list[int]]:
        """Process ids of this installation, by what they are."""
        mark = f"OIDO_DATA={os.environ['OIDO_DATA']}\0".encode()
        actual: dict[str, list[int]] = {name: [] for name in VICTIMS}
        for folder in Path("/proc").glob("[0-9]*"):
            try:
                if mark not in (folder / "environ").read_bytes():
                    continue
                line = (folder / "cmdline").read_bytes().replace(b"\0", b" ").decode()
            except OSError:
                continue
            for name, sign in (
                ("server", "gunicorn"), ("worker", "manage.py work"), ("database", "mariadbd"), ("launcher", "launch start"),
            ):  # fmt: skip
                if sign in line:
                    actual[name].append(int(folder.name))
        return actual

    def kill(self, victim: str, random: Random) -> None:
        """Kill one process without warning. With the launcher goes everything, as where a machine loses its power."""
        processes = self.processes()
        wanted = (
            [pid for pids in processes.values() for pid in pids]
            if victim == "launcher"
            else processes[victim]
        )
        if victim != "launcher":
            wanted = [random.choice(wanted)] if wanted else []
        for pid in wanted:
            _kill(pid)

    def recover(self) -> None:
        """Wait for what the launcher mends by itself; where it has ended, end the rest and start anew."""
        assert self.launcher is not None
        deadline = time.monotonic() + 15
        while time.monotonic() < deadline and self.launcher.poll() is None:
            if all(self.processes().values()) and self._answers():
                return
            time.sleep(0.2)
        self.stop()
        self.start()

    def _answers(self) -> bool:
        try:
            with urllib.request.urlopen(f"{self.address}/join/", timeout=2):
                return True
        except OSError:
            return False

    def stop(self) -> None:
        if self.launcher is not None and self.launcher.poll() is None:
            self.launcher.send_signal(signal.SIGTERM)
            try:
                self.launcher.wait(30)
            except subprocess.TimeoutExpired:
                self.launcher.kill()
        if self.launcher is not None:
            self.launcher.wait()
        deadline = time.monotonic() + 10
        while (
            left := [pid for pids in self.processes().values() for pid in pids]
        ) and time.monotonic() < deadline:
            for pid in left:
                _kill(pid)
            time.sleep(0.2)


def _kill(pid: int) -> None:
    with suppress(ProcessLookupError):
        os.kill(pid, signal.SIGKILL)


def while_class_works(seed: int, act: Callable[[Installation], None]) -> Outcome:
    """Start an installation in OIDO_DATA, break it by `act` while a class works, and compare what it was promised with what
    is stored."""
    installation = Installation()
    installation.start()
    try:
        os.environ |= {"OIDO_LOG": "ERROR"} | environment(
            Database(folder=DATA / "empty", port=installation.db_port)
        )
        import django

        django.setup()
        from oido.people.scope import Scope, within

        with within(Scope.EVERYWHERE):
            people = make_class(installation.address, seed, students=STUDENTS, assignments=ASSIGNMENTS)
            with working(people):
                act(installation)
            return compare(people)
    finally:
        installation.stop()
