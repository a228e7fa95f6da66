"""A class at work over HTTP: what the server acknowledges to students and teachers, compared at the end with what is stored.

Students send takes and hand them in; two teachers release marks, often of the same take at once, and send files to import.
"""

import http.client
import io
import json
import re
import ssl
import threading
import time
import urllib.error
import urllib.parse
import urllib.request
import uuid
from collections import Counter
from collections.abc import Iterator, Mapping, Sequence
from contextlib import contextmanager
from dataclasses import dataclass, field
from random import Random
from typing import Any

NOTES = 120
PERFORMANCES = 6
"""How many different takes of an assignment are sent again and again."""
MEASURED_WITHIN_S = 150.0
HAND_IN_SHARE, IMPORT_SHARE = 0.3, 0.2
TOKEN = "kills" * 6 + "ok"
REQUEST_S = 30.0
PAUSE_S, TEACHER_PAUSE_S = 0.2, 1.0
FORM, JSON = "application/x-www-form-urlencoded", "application/json"
BOUNDARY = "oido-bench-boundary"
STATE = re.compile(r'name="state" value="([^"]+)"')
IMPORTED = re.compile(r"/exercises/import/(\d+)/")


@dataclass(frozen=True, slots=True)
class Answer:
    """What arrived whole; a status of 0 where nothing did."""

    status: int
    text: str = ""
    location: str = ""


class Person:
    """Somebody who is signed in, and asks until there is an answer."""

    def __init__(self, address: str, cookies: str, seed: str, trust: ssl.SSLContext | None) -> None:
        self.address, self.cookies, self.random = address, cookies, Random(seed)
        self.opener = urllib.request.build_opener(_NoRedirect, urllib.request.HTTPSHandler(context=trust))
        self.answers: Counter[int] = Counter()

    def work(self, is_over: threading.Event) -> None:
        raise NotImplementedError

    def ask(self, url: str, data: bytes | None = None, kind: str = FORM, **headers: str) -> Answer:
        sent = {
            "Cookie": self.cookies, "X-CSRFToken": TOKEN, "Content-Type": kind, "Sec-Fetch-Mode": "cors",
            "Referer": f"{self.address}/", **headers,
        }  # fmt: skip
        request = urllib.request.Request(self.address + url, data, sent)
        try:
            with self.opener.open(request, timeout=REQUEST_S) as reply:
                answer = Answer(int(reply.status), reply.read().decode())
        except urllib.error.HTTPError as problem:
            answer = Answer(int(problem.code), location=problem.headers.get("Location") or "")
        except (OSError, http.client.HTTPException):
            # The connection was cut, also in the middle of an answer.
            answer = Answer(0)
        self.answers[answer.status] += 1
        if answer.status not in (200, 201, 302):
            time.sleep(PAUSE_S)
        return answer


class _NoRedirect(urllib.request.HTTPRedirectHandler):
    def redirect_request(self, *args: Any, **kwargs: Any) -> None:
        return None


@dataclass(slots=True)
class Given:
    """An assignment, and what its students play of it."""

    pk: int
    takes: list[dict[str, Any]]


@dataclass(slots=True)
class HandIns:
    """Of one student and assignment: the takes that may be handed in, by what was acknowledged."""

    sent: list[str] = field(default_factory=list)
    acknowledged: str = ""
    attempted: str = ""
    """The last take that was tried, acknowledged or not."""


class Student(Person):
    """Sends takes and hands them in, each until it is acknowledged; remembers what was."""

    def __init__(
        self, address: str, cookies: str, seed: str, trust: ssl.SSLContext | None, given: Sequence[Given]
    ) -> None:
        super().__init__(address, cookies, seed, trust)
        self.given = given
        self.sent: dict[str, list[Any]] = {}
        """Acknowledged takes, by id: their events."""
        self.hand_ins = {assignment.pk: HandIns() for assignment in given}

    def work(self, is_over: threading.Event) -> None:
        while not is_over.is_set():
            given = self.random.choice(self.given)
            if self.hand_ins[given.pk].sent and self.random.random() < HAND_IN_SHARE:
                self._hand_in(given, is_over)
            else:
                self._send(given, is_over)

    def _send(self, given: Given, is_over: threading.Event) -> None:
        key = str(uuid.UUID(int=self.random.getrandbits(128), version=4))
        body = {**self.random.choice(given.takes), "id": key}
        data = json.dumps(body).encode()
        while not is_over.is_set():
            if self.ask(f"/stand/{given.pk}/takes/", data, JSON).status == 201:
                self.sent[key] = body["events"]
                self.hand_ins[given.pk].sent.append(key)
                return

    def _hand_in(self, given: Given, is_over: threading.Event) -> None:
        hand_ins = self.hand_ins[given.pk]
        take = self.random.choice(hand_ins.sent)
        data = urllib.parse.urlencode({"takes": take}).encode()
        while not is_over.is_set():
            hand_ins.attempted = take
            status = self.ask(f"/stand/{given.pk}/hand-in/", data).status
            if status == 302:
                hand_ins.acknowledged = take
            if status in (302, 403, 422):
                # Refused: not measured yet, after a kill, or its mark is released. Another time.
                return


class Teacher(Person):
    """Releases marks of what was handed in, and sends files to import."""

    def __init__(
        self, address: str, cookies: str, seed: str, trust: ssl.SSLContext | None, file: bytes
    ) -> None:
        super().__init__(address, cookies, seed, trust)
        body = io.BytesIO()
        head = f'--{BOUNDARY}\r\nContent-Disposition: form-data; name="file"; filename="bench.mid"\r\nContent-Type: audio/midi\r\n\r\n'
        for piece in (head.encode(), file, f"\r\n--{BOUNDARY}--\r\n".encode()):
            body.write(piece)
        self.upload = body.getvalue()
        self.released: list[str] = []
        self.imported: list[int] = []

    def work(self, is_over: threading.Event) -> None:
        while not is_over.is_set():
            if self.random.random() < IMPORT_SHARE:
                self._import()
            else:
                self._release_first()
            is_over.wait(TEACHER_PAUSE_S)

    def _import(self) -> None:
        answer = self.ask("/exercises/new/", self.upload, f"multipart/form-data; boundary={BOUNDARY}")
        if stored := IMPORTED.search(answer.location):
            self.imported.append(int(stored[1]))

    def _release_first(self) -> None:
        """Open the first take of the queue and release its mark as the page shows it; the other teacher may be at it, too."""
        queue = self.ask("/marking/")
        take = re.search(r"/takes/([0-9a-f-]{36})/", queue.text)
        if take is None:
            return
        state = STATE.search(self.ask(f"/takes/{take[1]}/").text)
        if state is None:
            return
        data = urllib.parse.urlencode({"state": state[1], "release": "yes"}).encode()
        # To a script, a mark that has changed meanwhile is told otherwise than one that was released.
        if self.ask(f"/takes/{take[1]}/accept/", data, **{"HX-Request": "true"}).status == 302:
            self.released.append(take[1])


@dataclass(frozen=True, slots=True)
class People:
    """Who works."""

    students: list[Student]
    teachers: list[Teacher]

    def __iter__(self) -> Iterator[Person]:
        yield from self.students
        yield from self.teachers


@contextmanager
def working(people: People) -> Iterator[None]:
    """Have them work, each in a thread of their own."""
    is_over = threading.Event()
    threads = [threading.Thread(target=person.work, args=(is_over,)) for person in people]
    for thread in threads:
        thread.start()
    try:
        yield
    finally:
        is_over.set()
        for thread in threads:
            thread.join()


def make_class(
    address: str, seed: int, *, students: int, assignments: int, trust: ssl.SSLContext | None = None
) -> People:
    """Return so many students of one class and its two teachers, signed in."""
    from django.test import Client

    from benches.scene import HABITS, Scene
    from ear.formats.events import events_from_take
    from ear.formats.smf_writing import write_part
    from ear.players.robot import play

    scene = Scene(students=students, teachers=2)
    given = []
    for assignment in (scene.assignment(NOTES) for _ in range(assignments)):
        in_force = assignment.exercise.part_in_force
        part = in_force.read()
        takes = [
            {
                "part": in_force.pk, "source": "midi", "latency_ms": 0.0, "recorded_at": "2026-11-20T18:42:00Z",
                "events": [list(event) for event in events_from_take(play(part, HABITS, seed=number))],
            }
            for number in range(PERFORMANCES)
        ]  # fmt: skip
        given.append(Given(assignment.pk, takes))

    def cookies_of(person: Any) -> str:
        client = Client()
        client.force_login(person)
        session = client.cookies[next(name for name in client.cookies if "session" in name)]
        return f"{session.key}={session.value}; {session.key.replace('sessionid', 'csrftoken')}={TOKEN}"

    return People(
        [
            Student(address, cookies_of(person), f"{seed} {number}", trust, given)
            for number, person in enumerate(scene.students)
        ],
        [
            Teacher(address, cookies_of(person), f"{seed} teacher {number}", trust, write_part(part))
            for number, person in enumerate(scene.teachers)
        ],
    )


@dataclass(frozen=True, slots=True)
class Outcome:
    """How much was acknowledged, and every way in which what is stored differs from it, with examples."""

    counts: Mapping[str, int]
    faults: Mapping[str, Sequence[object]]

    @property
    def is_kept(self) -> bool:
        return not any(self.faults.values())

    @property
    def lines(self) -> list[str]:
        counted = ", ".join(f"{name} {count}" for name, count in self.counts.items())
        return [
            counted,
            *(f"{name}: {len(some)} {list(some[:5])}" for name, some in self.faults.items() if some),
        ]


def compare(people: People) -> Outcome:
    """Wait until everything is measured and opened, and compare."""
    from django.db import connection

    from oido.exercises.models import ImportedFile
    from oido.marking.models import SheetChange
    from oido.takes.models import Take

    connection.close()
    deadline = time.monotonic() + MEASURED_WITHIN_S
    while (
        Take.objects.exclude(measure_after=None).exists()
        or ImportedFile.objects.filter(contents=None).exists()
    ) and time.monotonic() < deadline:
        time.sleep(1)
    acknowledged = {key: events for student in people.students for key, events in student.sent.items()}
    stored = {str(take.pk): take for take in Take.objects.select_related("judgement")}
    files = dict(ImportedFile.objects.values_list("pk", "contents"))
    imported = [key for teacher in people.teachers for key in teacher.imported]
    released = Counter(key for teacher in people.teachers for key in teacher.released)
    releases = Counter(
        str(key)
        for key in SheetChange.objects.filter(kind=SheetChange.Kind.RELEASED).values_list(
            "sheet__take", flat=True
        )
    )
    handed = Counter((take.student_id, take.assignment_id) for take in stored.values() if take.handed_in_at)
    hand_ins = [
        hand_in
        for student in people.students
        for hand_in in student.hand_ins.values()
        if hand_in.acknowledged
    ]
    numbers = Counter((take.student_id, take.assignment_id, take.number) for take in stored.values())
    answers: Counter[int] = sum((person.answers for person in people), Counter())
    return Outcome(
        counts={
            "answers": sum(answers.values()), "cut off": answers[0], "takes acknowledged": len(acknowledged), "stored": len(stored),
            "hand-ins": len(hand_ins), "marks released": len(released), "files imported": len(imported),
        },
        faults={
            "lost": [key for key in acknowledged if key not in stored],
            "changed": [key for key, events in acknowledged.items() if key in stored and stored[key].events != events],
            "not measured": [
                key for key, take in stored.items() if take.judgement_id is None or take.measure_after is not None
            ],
            "measured twice": [key for key, take in stored.items() if take.measurements.count() > 1],
            "numbered twice": [key for key, count in numbers.items() if count > 1],
            "acknowledged but not handed in": [
                one.acknowledged
                for one in hand_ins
                if not any(stored[key].handed_in_at for key in {one.acknowledged, one.attempted} if key in stored)
            ],
            "without a mark sheet": [key for key, take in stored.items() if take.handed_in_at and not hasattr(take, "sheet")],
            "handed in twice": [key for key, count in handed.items() if count > 1],
            "released but hidden": [
                key for key in released if key not in stored or not stored[key].sheet.is_released
            ],
            "released twice": [key for key, count in releases.items() if count > 1],
            "files lost": [key for key in imported if key not in files],
            "files not opened": [key for key in imported if files.get(key, b"") is None],
        },
    )  # fmt: skip
