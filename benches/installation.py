"""An installation of its own with students who send takes and hand them in: what the benches of kills and outages break."""

import http.client
import json
import os
import signal
import subprocess
import sys
import threading
import time
import urllib.error
import urllib.parse
import urllib.request
import uuid
from collections import Counter
from collections.abc import Callable, Sequence
from contextlib import suppress
from pathlib import Path
from random import Random
from typing import Any

from launch.database import Database, free_port
from launch.places import DATA, ROOT
from launch.processes import environment

STUDENTS = 8
NOTES = 120
VICTIMS = ("server", "worker", "database", "launcher")
MEASURED_WITHIN_S = 150.0
HAND_IN_SHARE = 0.3
TOKEN = "kills" * 6 + "ok"
REQUEST_S = 30.0
PAUSE_S = 0.2


class Installation:
    """An Oido of its own, started by its launcher, whose processes can be found and killed."""

    def __init__(self) -> None:
        self.port, self.db_port = free_port(), free_port()
        self.address = f"http://127.0.0.1:{self.port}"
        self.env = {**os.environ, "OIDO_PORT": str(self.port), "OIDO_DB_PORT": str(self.db_port)}
        self.launcher: subprocess.Popen[bytes] | None = None

    def start(self) -> None:
        """Start the launcher and wait until pages are served. Raises RuntimeError."""
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


class Student:
    """Sends takes and hands them in, each until it is acknowledged; remembers what was."""

    def __init__(
        self, address: str, cookies: str, urls: dict[str, str], takes: list[dict[str, Any]], seed: str
    ) -> None:
        self.address, self.cookies, self.urls, self.takes = address, cookies, urls, takes
        self.random = Random(seed)
        self.sent: dict[str, list[Any]] = {}
        """Acknowledged takes, by id: their events."""
        self.handed_in = ""
        self.attempted = ""
        """The last take that was tried to be handed in, acknowledged or not."""
        self.answers: Counter[int] = Counter()

    def work(self, is_over: threading.Event) -> None:
        while not is_over.is_set():
            if self.sent and self.random.random() < HAND_IN_SHARE:
                self._hand_in(self.random.choice(list(self.sent)), is_over)
            else:
                self._send(is_over)

    def _send(self, is_over: threading.Event) -> None:
        body = {
            **self.random.choice(self.takes),
            "id": str(uuid.UUID(int=self.random.getrandbits(128), version=4)),
        }
        data = json.dumps(body).encode()
        while not is_over.is_set():
            if self._asked(self.urls["takes"], data, "application/json") == 201:
                self.sent[body["id"]] = body["events"]
                return

    def _hand_in(self, take: str, is_over: threading.Event) -> None:
        data = urllib.parse.urlencode({"takes": take}).encode()
        while not is_over.is_set():
            self.attempted = take
            status = self._asked(self.urls["hand-in"], data, "application/x-www-form-urlencoded")
            if status == 302:
                self.handed_in = take
                return
            if status in (403, 422):
                # Not measured yet, after a kill: another time.
                return

    def _asked(self, url: str, data: bytes, kind: str) -> int:
        """The status of an answer that has arrived whole; 0 for none."""
        headers = {
            "Cookie": self.cookies,
            "X-CSRFToken": TOKEN,
            "Content-Type": kind,
            "Sec-Fetch-Mode": "cors",
        }
        opener = urllib.request.build_opener(_NoRedirect)
        try:
            with opener.open(
                urllib.request.Request(self.address + url, data, headers), timeout=REQUEST_S
            ) as answer:
                answer.read()
                status = int(answer.status)
        except urllib.error.HTTPError as problem:
            status = int(problem.code)
        except (OSError, http.client.HTTPException):
            # The connection was cut, also in the middle of an answer.
            status = 0
        self.answers[status] += 1
        if status not in (201, 302):
            time.sleep(PAUSE_S)
        return status


class _NoRedirect(urllib.request.HTTPRedirectHandler):
    def redirect_request(self, *args: Any, **kwargs: Any) -> None:
        return None


def while_students_work(seed: int, act: Callable[[Installation], None]) -> int:
    """Start an installation in OIDO_DATA, break it by `act` while its students work, and report. 1 where anything is wrong."""
    installation = Installation()
    installation.start()
    try:
        os.environ |= environment(Database(folder=DATA / "empty", port=installation.db_port))
        import django

        django.setup()
        from oido.people.scope import Scope, within

        with within(Scope.EVERYWHERE):
            students = make_students(installation, seed)
            _work_while(installation, students, act)
            return report(students)
    finally:
        installation.stop()


def _work_while(
    installation: Installation, students: list[Student], act: Callable[[Installation], None]
) -> None:
    is_over = threading.Event()
    threads = [threading.Thread(target=student.work, args=(is_over,)) for student in students]
    for thread in threads:
        thread.start()
    try:
        act(installation)
    finally:
        is_over.set()
        for thread in threads:
            thread.join()


def make_students(installation: Installation, seed: int) -> list[Student]:
    """A class of eight with one exercise, and what each of them plays of it."""
    from django.test import Client

    from benches.scene import HABITS, Scene
    from ear.formats.events import events_from_take
    from ear.players.robot import play

    scene = Scene(students=STUDENTS)
    given = scene.assignment(NOTES)
    part = given.exercise.part_in_force
    takes = [
        {
            "part": part.pk, "source": "midi", "latency_ms": 0.0, "recorded_at": "2026-11-20T18:42:00Z",
            "events": [list(event) for event in events_from_take(play(part.read(), HABITS, seed=number))],
        }
        for number in range(6)
    ]  # fmt: skip
    urls = {"takes": f"/stand/{given.pk}/takes/", "hand-in": f"/stand/{given.pk}/hand-in/"}
    made = []
    for number, person in enumerate(scene.students):
        client = Client()
        client.force_login(person)
        cookies = f"sessionid={client.cookies['sessionid'].value}; csrftoken={TOKEN}"
        made.append(Student(installation.address, cookies, urls, takes, f"{seed} {number}"))
    return made


def report(students: list[Student]) -> int:
    """Print what was found; 1 if anything is lost, unmeasured or there twice."""
    from django.db import connection

    from oido.takes.models import HandIn, Take

    connection.close()
    deadline = time.monotonic() + MEASURED_WITHIN_S
    while Take.objects.exclude(measure_after=None).exists() and time.monotonic() < deadline:
        time.sleep(1)
    acknowledged = {key: events for student in students for key, events in student.sent.items()}
    stored = {str(take.pk): take for take in Take.objects.select_related("judgement")}
    lost = [key for key in acknowledged if key not in stored]
    changed = [key for key, events in acknowledged.items() if key in stored and stored[key].events != events]
    unmeasured = [
        key for key, take in stored.items() if take.judgement_id is None or take.measure_after is not None
    ]
    measured_twice = [key for key, take in stored.items() if take.measurements.count() > 1]
    numbers = Counter(Take.objects.values_list("student", "number"))
    twice = [pair for pair, count in numbers.items() if count > 1]
    not_handed_in = [
        student.handed_in
        for student in students
        if student.handed_in
        and not any(
            stored[key].handed_in_at for key in {student.handed_in, student.attempted} if key in stored
        )
    ]
    sheets = [key for key, take in stored.items() if take.handed_in_at and not hasattr(take, "sheet")]
    handed = Counter(take.student_id for take in stored.values() if take.handed_in_at)
    handed_twice = [student for student, count in handed.items() if count > 1]
    answers: Counter[int] = sum((student.answers for student in students), Counter())
    print(f"answers: {dict(sorted(answers.items()))}   (0: cut off)")
    print(
        f"takes acknowledged {len(acknowledged)}, stored {len(stored)}, measured {len(stored) - len(unmeasured)}"
    )
    print(
        f"hand-ins: {HandIn.objects.count()} of {STUDENTS} students, {sum(handed.values())} takes handed in"
    )
    faults: dict[str, Sequence[object]] = {
        "lost": lost, "changed": changed, "not measured": unmeasured, "measured twice": measured_twice,
        "numbered twice": twice, "acknowledged but not handed in": not_handed_in, "without a mark sheet": sheets,
        "handed in twice": handed_twice,
    }  # fmt: skip
    for name, actual in faults.items():
        print(f"{name}: {len(actual)} {actual[:5] if actual else ''}")
    return int(any(faults.values()))
