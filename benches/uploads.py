"""Many students who send their takes at the same moment: `./oido bench uploads [--students 500] [--over SECONDS]`.

    python -m benches.uploads ADDRESS [--students 500] [--over 0]

The server at ADDRESS, its worker and this script use the same throwaway database. The students are locust's (`load_users.py`).
"""

import argparse
import json
import os
import statistics
import subprocess
import sys
import tempfile
import time
import uuid
from pathlib import Path

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

STUDENTS, NOTES, LONG_EVENTS = 500, 250, 100_000
TOKEN = "bench" * 6 + "ok"
"""A cookie and a header that agree are what the check of forms asks for: 32 letters."""
MEASURED_WITHIN_S = 600.0
LOOK_EVERY_S = 0.25
SERVER, WORKER = "gunicorn", "manage.py work"


def cookies_of(student: User) -> str:
    client = Client()
    client.force_login(student)
    return f"sessionid={client.cookies['sessionid'].value}; csrftoken={TOKEN}"


def body_of(given: Assignment, seed: int, *, events: int | None = None) -> str:
    """Return a take as the Stand sends it; with `events`, one of so many: the pedal moves between the notes."""
    part = given.exercise.part_in_force
    played = events_from_take(play(part.read(), HABITS, seed=seed))
    if events is not None:
        pedal = [(0.5 * k, 0xB0, 64, k % 128) for k in range(events - len(played))]
        played = sorted([*played, *pedal])
    return json.dumps({
        "id": str(uuid.uuid4()), "part": part.pk, "source": "midi", "latency_ms": 0.0, "events": played,
        "recorded_at": timezone.now().isoformat(),
    })  # fmt: skip


def cpu_s(sign: str) -> float:
    """Return the CPU seconds of all processes of this installation whose command has this sign."""
    mark = f"OIDO_DB_PORT={os.environ['OIDO_DB_PORT']}\0".encode()
    total = 0.0
    for folder in Path("/proc").glob("[0-9]*"):
        try:
            line = (folder / "cmdline").read_bytes().replace(b"\0", b" ").decode()
            if sign not in line or mark not in (folder / "environ").read_bytes():
                continue
            fields = (folder / "stat").read_text().rsplit(")", 1)[1].split()
        except OSError:
            continue
        total += (int(fields[11]) + int(fields[12])) / os.sysconf("SC_CLK_TCK")
    return total


def send_all(address: str, requests: list[dict[str, str]], over_s: float) -> list[dict[str, float]]:
    """Have locust send these; return for each answer its status and seconds."""
    with tempfile.TemporaryDirectory(prefix="oido-load-") as folder:
        plan, answers = Path(folder) / "plan.json", Path(folder) / "answers.json"
        plan.write_text(json.dumps({"requests": requests, "over_s": over_s}))
        count = str(len(requests))
        command = [
            sys.executable, "-m", "locust", "--locustfile", str(Path(__file__).parent / "load_users.py"), "--headless",
            "--host", address, "--users", count, "--spawn-rate", count, "--loglevel", "ERROR", "--only-summary",
        ]  # fmt: skip
        env = {**os.environ, "OIDO_LOAD_PLAN": str(plan), "OIDO_LOAD_ANSWERS": str(answers)}
        subprocess.run(command, env=env, check=False, stdout=subprocess.DEVNULL)
        read: list[dict[str, float]] = json.loads(answers.read_text())
    return read


def wait_until_measured(given: Assignment, begun: float) -> float:
    """Return the seconds from `begun` until every take of an assignment is measured."""
    while Take.objects.filter(assignment=given).exclude(measure_after=None).exists():
        if time.monotonic() - begun > MEASURED_WITHIN_S:
            raise RuntimeError("takes are left that nobody measures")
        time.sleep(LOOK_EVERY_S)
    return time.monotonic() - begun


def main(address: str, students: int, over_s: float) -> None:
    scene = Scene(students=students + 1)
    warm, given = scene.assignment(NOTES), scene.assignment(NOTES)
    cookies = [cookies_of(student) for student in scene.students]

    def request(of: Assignment, seed: int, *, events: int | None = None) -> dict[str, str]:
        return {
            "url": f"/stand/{of.pk}/takes/", "cookies": cookies[seed], "token": TOKEN, "body": body_of(of, seed, events=events),
        }  # fmt: skip

    begun = time.monotonic()
    send_all(address, [request(warm, seed) for seed in range(min(20, students))], 0.0)
    wait_until_measured(warm, begun)
    requests = [request(given, seed) for seed in range(students)]
    requests.append(request(given, students, events=LONG_EVENTS))
    server_before, worker_before, begun = cpu_s(SERVER), cpu_s(WORKER), time.monotonic()
    answers = send_all(address, requests, over_s)
    server_s = cpu_s(SERVER) - server_before
    measured_s = wait_until_measured(given, begun)
    worker_s = cpu_s(WORKER) - worker_before
    took = sorted(answer["seconds"] for answer in answers)
    stored = Take.objects.filter(assignment=given).count()
    refused = sorted({int(answer["status"]) for answer in answers} - {201})
    p95 = statistics.quantiles(took, n=20)[-1]
    print(
        f"{len(took)} answers within {over_s:.0f} s, {stored} takes stored; other statuses: {refused or 'none'}"
    )
    print(
        f"acknowledged: median {statistics.median(took):.2f} s, 95 % within {p95:.2f} s, last {took[-1]:.2f} s"
    )
    print(
        f"all measured {measured_s:.1f} s after the first was sent, one of {LONG_EVENTS:,} events among them"
    )
    print(
        f"CPU: {1000 * server_s / stored:.0f} ms of the server and {1000 * worker_s / stored:.0f} ms of the worker for each take"
    )


if __name__ == "__main__":
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("address")
    parser.add_argument("--students", type=int, default=STUDENTS)
    parser.add_argument(
        "--over", type=float, default=0.0, help="seconds within which they send, each at a random moment"
    )
    chosen = parser.parse_args()
    with within(Scope.EVERYWHERE):
        main(chosen.address, chosen.students, chosen.over)
