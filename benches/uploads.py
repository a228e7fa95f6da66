"""A class that records at once, and sends at once: `./oido bench uploads`.

    python -m benches.uploads ADDRESS

The server at ADDRESS and this script use the same throwaway database.
"""

import json
import statistics
import sys
import time
import urllib.request
import uuid
from concurrent.futures import ThreadPoolExecutor

import django

django.setup()

from django.test import Client  # noqa: E402
from django.utils import timezone  # noqa: E402

from benches.scene import HABITS, Scene  # noqa: E402
from ear.formats.events import events_from_take  # noqa: E402
from ear.players.robot import play  # noqa: E402
from oido.assignments.models import Assignment  # noqa: E402
from oido.people.models import User  # noqa: E402
from oido.people.scope import Scope, within  # noqa: E402
from oido.takes.models import Take  # noqa: E402

STUDENTS, NOTES, ALONE = 100, 250, 5
TOKEN = "bench" * 6 + "ok"
"""A cookie and a header that agree are what the check of forms asks for: 32 letters."""
LOOK_EVERY_S = 0.25


def cookies_of(student: User) -> str:
    client = Client()
    client.force_login(student)
    return f"sessionid={client.cookies['sessionid'].value}; csrftoken={TOKEN}"


def body_of(given: Assignment, seed: int) -> bytes:
    part = given.exercise.part_in_force
    events = events_from_take(play(part.read(), HABITS, seed=seed))
    return json.dumps({
        "id": str(uuid.uuid4()), "part": part.pk, "source": "midi", "latency_ms": 0.0, "events": events,
        "recorded_at": timezone.now().isoformat(),
    }).encode()  # fmt: skip


def answered(address: str, url: str, cookies: str, body: bytes | None = None) -> float:
    """Seconds until the whole answer is there. Raises HTTPError where it is a refusal."""
    headers = {"Cookie": cookies, "X-CSRFToken": TOKEN, "Content-Type": "application/json"}
    start = time.perf_counter()
    with urllib.request.urlopen(
        urllib.request.Request(address + url, data=body, headers=headers), timeout=600
    ) as got:
        got.read()
    return time.perf_counter() - start


def main(address: str) -> None:
    scene = Scene(students=STUDENTS + 1)
    *senders, looker = [cookies_of(student) for student in scene.students]
    given = scene.assignment(NOTES)
    url, tray = f"/stand/{given.pk}/takes/", f"/stand/{given.pk}/tray/"
    first = scene.assignment(NOTES)
    bodies = [body_of(first, seed) for seed in range(ALONE + 1)]
    alone = [answered(address, f"/stand/{first.pk}/takes/", looker, body) for body in bodies][1:]
    quiet = statistics.median(answered(address, tray, looker) for _ in range(ALONE))
    bodies = [body_of(given, seed) for seed in range(STUDENTS)]
    begun = time.perf_counter()
    with ThreadPoolExecutor(STUDENTS) as pool:
        sent = [
            pool.submit(answered, address, url, cookies, body)
            for cookies, body in zip(senders, bodies, strict=True)
        ]
        looks = []
        while not all(one.done() for one in sent):
            looks.append(answered(address, tray, looker))
            time.sleep(LOOK_EVERY_S)
        took = sorted(one.result() for one in sent)
    whole = time.perf_counter() - begun
    stored = Take.objects.filter(assignment=given).count()
    print(f"one take of {NOTES} notes alone, until its answer: {1000 * statistics.median(alone):6.0f} ms")
    print(
        f"{stored} takes to one assignment at once:     first {took[0]:.2f} s, middle {statistics.median(took):.2f} s, last {took[-1]:.2f} s"
    )
    print(
        f"takes a second: {stored / whole:.1f}; one after the other it would be {1 / statistics.median(alone):.1f}"
    )
    print(
        f"a class-mate's takes looked at: {1000 * quiet:.0f} ms before, middle {1000 * statistics.median(looks):.0f} ms meanwhile"
    )


with within(Scope.EVERYWHERE):
    main(sys.argv[1])
