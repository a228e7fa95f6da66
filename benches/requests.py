"""The largest requests that are accepted, each in a fresh process: `./oido bench requests`."""

import io
import json
import os
import time
import uuid
import zipfile
from collections.abc import Callable
from decimal import Decimal
from pathlib import Path
from random import Random
from typing import Any

from django.core.files.uploadedfile import SimpleUploadedFile
from django.core.management.base import BaseCommand
from django.db import connection
from django.test import Client
from django.utils import timezone

from benches.scene import HABITS, Scene
from ear.formats.events import RawEvent, events_from_take
from ear.formats.limits import PART_NOTES
from ear.formats.musicxml.writing import write_musicxml
from ear.formats.smf_writing import write_part
from ear.notes import Hand, Kind, MeterMap, Note, Part, TempoMap
from ear.players.robot import play
from oido.assignments.models import Assignment
from oido.booklets.bundle import MANIFEST, SCHEMA
from oido.common.sources import Source
from oido.exercises.bundle import write_bundle
from oido.exercises.models import Exercise
from oido.exercises.services import NewExercise, create_exercise
from oido.people.models import User
from oido.people.scope import Scope, within
from oido.takes.services import NewTake, measure_take, receive_take

LIMIT_S, LIMIT_MB = 2.0, 150.0
SEED = 11
TAKE_SIZES = (500, 950, 2_000, 10_000, 20_000)


def dense_part(notes: int, *, bars: int | None = None) -> Part:
    """Two hands in semiquavers."""
    chance = Random(SEED)
    return Part.of(
        (
            Note(
                onset_tick=120 * (n // 2), length_tick=110, velocity=80, hand=Hand.RIGHT if n % 2 else Hand.LEFT,
                pitch=chance.randrange(60, 84) if n % 2 else chance.randrange(36, 58),
            )
            for n in range(notes)
        ),
        kind=Kind.KEYBOARD, meters=MeterMap.of(4, 4), tempos=TempoMap.of(100),
    )  # fmt: skip


def take_body(exercise: Exercise, notes: int) -> bytes:
    """A take of so many notes at random: nothing of the part is in it, and that takes longest to find out."""
    chance = Random(SEED)
    events = []
    for number in range(notes):
        at, pitch = 40.0 * number + chance.uniform(-15, 15), chance.randrange(40, 90)
        events += [[round(at, 2), 0x90, pitch, 70], [round(at + 30, 2), 0x80, pitch, 64]]
    return json.dumps({
        "id": str(uuid.uuid4()), "part": exercise.part_in_force.pk, "source": "midi", "latency_ms": 0.0,
        "recorded_at": timezone.now().isoformat(), "events": sorted(events),
    }).encode()  # fmt: skip


def people_list(bytes_: int, line: str) -> bytes:
    return ("First name;Last name\n" + line * (bytes_ // len(line))).encode()[:bytes_]


def zipped(**files: bytes) -> bytes:
    buffer = io.BytesIO()
    with zipfile.ZipFile(buffer, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, data in files.items():
            archive.writestr(name.replace("_csv", ".csv"), data)
    return buffer.getvalue()


class Command(BaseCommand):
    help = "Weighs the largest requests that are accepted: seconds of CPU and memory, each in a process of its own."

    def handle(self, *args: Any, **options: Any) -> None:
        with within(Scope.EVERYWHERE):
            worst = [self.weighed(name, user, ask) for name, user, ask in self.cases()]
        over = sum(seconds > LIMIT_S or megabytes > LIMIT_MB for seconds, megabytes in worst)
        self.stdout.write(f"{over} of {len(worst)} over {LIMIT_S:g} s or {LIMIT_MB:g} MB")

    def cases(self) -> list[tuple[str, User, Callable[[Client], Any]]]:
        scene = Scene(students=2)
        teacher, student = scene.teacher, scene.students[0]
        assignment, large = scene.assignment(250), scene.assignment(PART_NOTES)
        dense = create_exercise(
            teacher,
            NewExercise(
                title="Dense", kind="keyboard", instructions="", tempo_bpm=Decimal(100), count_in_bars=1,
                level="building", part=dense_part(PART_NOTES),
            ),
        )  # fmt: skip
        cases: list[tuple[str, User, Callable[[Client], Any]]] = []
        for size in TAKE_SIZES:
            body = take_body(assignment.exercise, size)
            cases.append(
                (
                    f"a take of {size:,} notes against 250",
                    student,
                    _json(f"/stand/{assignment.pk}/takes/", body),
                )
            )
        even = scene.assignment(600)
        cases.append(
            (
                "a take of 600 notes against 600",
                student,
                _json(f"/stand/{even.pk}/takes/", take_body(even.exercise, 600)),
            )
        )
        cases.append(
            (
                f"a take of 5,000 notes against {PART_NOTES:,}", student,
                _json(f"/stand/{large.pk}/takes/", take_body(large.exercise, 5_000)),
            )
        )  # fmt: skip
        users = b"sourcedId,status,enabledUser,username,givenName,familyName,email,role\n"
        bomb = zipped(users_csv=users + b"," * 19_000_000)
        rows = b"".join(b"u%d,active,true,,A%d,B,,student\n" % (n, n) for n in range(5_000))
        enrolled = b"sourcedId,classSourcedId,userSourcedId,role\n" + b"".join(
            b"e%d,c%d,u%d,student\n" % (n, n % 40, n % 5_000) for n in range(30_000)
        )
        classes = b"sourcedId,title\n" + b"".join(b"c%d,Class %d\n" % (n, n) for n in range(40))
        lists = (
            ("a OneRoster archive of 19 kB that opens to 19 MB", "a.zip", bomb),
            (
                "a OneRoster archive of 5,000 people in 30,000 places", "b.zip",
                zipped(users_csv=users + rows, classes_csv=classes, enrollments_csv=enrolled),
            ),
            ("a list of 2 MB, one name a line", "c.csv", people_list(2_000_000, "Ada;Keel\n")),
            ("a list of 2 MB, of separators", "d.csv", people_list(2_000_000, ";" * 1000 + "\n")),
            ("a list of 2 MB, in no encoding", "e.csv", bytes(Random(SEED).randbytes(1_999_000))),
            (
                "a list of 5,000 people", "f.csv",
                "".join(["First name;Last name;Class\n", *(f"F{n};L{n};C{n % 40}\n" for n in range(5_000))]).encode(),
            ),
        )  # fmt: skip
        head = scene.head
        cases += [(name, head, _file("/people/list/", file, data)) for name, file, data in lists]
        bundle = write_bundle(dense)

        def booklet(times: int) -> bytes:
            items = [{"file": "a.zip"} for _ in range(times)]
            manifest = json.dumps({"schema": SCHEMA, "title": "Often", "items": items}).encode()
            return zipped(**{MANIFEST: manifest, "a.zip": bundle})

        for name, file, data in (
            ("an exercise of 8,000 notes as an archive", "g.zip", bundle),
            ("8,000 notes as MIDI", "h.mid", write_part(dense_part(PART_NOTES))),
            ("8,000 notes as MusicXML", "i.musicxml", write_musicxml(dense_part(PART_NOTES))),
        ):
            cases.append((name, teacher, _file("/exercises/new/", file, data)))
        cases += [
            (
                f"a booklet that names one file of 8,000 notes {times} times", teacher,
                _file("/booklets/send/", "j.zip", booklet(times)),
            )
            for times in (12, 60)
        ]  # fmt: skip
        played = play(large.exercise.part_in_force.read(), HABITS, seed=SEED)
        take = receive_take(student, large, new_take(large, events_from_take(played)))
        measure_take(take)
        cases += [
            (
                "handing in a take of 8,000 notes", student,
                _post(f"/stand/{large.pk}/hand-in/", {"takes": str(take.pk)}),
            ),
            ("the report of a take of 8,000 notes", student, _get(f"/takes/{take.pk}/")),
            ("notation of a take of 8,000 notes", student, _get(f"/takes/{take.pk}/notation/")),
        ]  # fmt: skip
        cases += [
            (
                "notation of 8,000 notes",
                teacher,
                lambda client: client.get(f"/exercises/{dense.pk}/notation/"),
            ),
            ("the exercise of 8,000 notes", teacher, lambda client: client.get(f"/exercises/{dense.pk}/")),
            ("the Bench with 8,000 notes", teacher, lambda client: client.get(f"/bench/{dense.pk}/")),
            ("the Stand with 8,000 notes", student, lambda client: client.get(f"/stand/{large.pk}/")),
            (
                "music of 8,000 notes",
                student,
                lambda client: client.get(f"/stand/{large.pk}/music/?width=800"),
            ),
            ("8,000 notes in words", student, lambda client: client.get(f"/stand/{large.pk}/words/")),
            ("8,000 notes as text", student, lambda client: client.get(f"/stand/{large.pk}/words.txt")),
            *(
                (f"8,000 notes as {file}", teacher, _get(f"/exercises/{dense.pk}/{file}"))
                for file in ("part.mid", "part.musicxml")
            ),
        ]
        return cases

    def weighed(self, name: str, user: User, ask: Callable[[Client], Any]) -> tuple[float, float]:
        """Seconds of CPU and megabytes on top, in a process that has answered one page before."""
        read_end, write_end = os.pipe()
        connection.close()
        child = os.fork()
        if child == 0:
            try:
                os.write(write_end, json.dumps(_weigh(user, ask)).encode())
            finally:
                os._exit(0)
        os.close(write_end)
        with os.fdopen(read_end, "rb") as pipe:
            seconds, megabytes, status = json.loads(pipe.read() or b"[999, 999, 0]")
        os.waitpid(child, 0)
        mark = "  over" if seconds > LIMIT_S or megabytes > LIMIT_MB else ""
        self.stdout.write(f"{name:58}{seconds:7.2f} s{megabytes:8.0f} MB   {status}{mark}")
        return seconds, megabytes


def _weigh(user: User, ask: Callable[[Client], Any]) -> tuple[float, float, int]:
    with within(Scope.UNNAMED):
        client = Client(HTTP_HOST="127.0.0.1", raise_request_exception=False)
        with within(Scope.EVERYWHERE):
            client.force_login(user)
        client.get("/")
        Path("/proc/self/clear_refs").write_text("5")
        before, start = _memory_mb("VmRSS"), time.process_time()
        answer = ask(client)
        return time.process_time() - start, _memory_mb("VmHWM") - before, answer.status_code


def _memory_mb(name: str) -> float:
    status = Path("/proc/self/status").read_text()
    line = next(line for line in status.splitlines() if line.startswith(name))
    return int(line.split()[1]) / 1000


def _json(url: str, body: bytes) -> Callable[[Client], Any]:
    return lambda client: client.post(url, body, content_type="application/json")


def _file(url: str, name: str, data: bytes) -> Callable[[Client], Any]:
    return lambda client: client.post(url, {"file": SimpleUploadedFile(name, data)}, follow=True)


def _post(url: str, data: dict[str, str]) -> Callable[[Client], Any]:
    return lambda client: client.post(url, data, follow=True)


def new_take(assignment: Assignment, events: list[RawEvent]) -> NewTake:
    """A take of the student, as the Stand would send it."""
    return NewTake(
        id=uuid.uuid4(), part_id=assignment.exercise.part_in_force.pk, source=Source.MIDI, device="", latency_ms=0.0,
        events=events, recorded_at=timezone.now(),
    )  # fmt: skip


def _get(url: str) -> Callable[[Client], Any]:
    return lambda client: client.get(url)
