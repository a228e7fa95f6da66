"""How long reports take to be written, and how long they are; how long it takes to mark a class again:
`./oido bench report`."""

import time
from collections.abc import Callable
from typing import Any

from django.core.management.base import BaseCommand
from django.db import connection, transaction
from django.test import Client
from django.test.utils import CaptureQueriesContext

from benches.scene import Scene
from ear.judging.rubric import DEFAULT_RUBRICS, Rubric
from ear.notes import Kind
from oido.marking import remarking
from oido.people.scope import Scope, within
from oido.rubrics.services import make_rubric
from oido.takes.models import Take

SIZES = (100, 1000, 4000)
REPEATS = 9
STUDENTS, NOTES = 300, 250
HTMX = {"headers": {"HX-Request": "true"}}
STRICT = Rubric.from_json({**DEFAULT_RUBRICS[Kind.KEYBOARD].to_json(), "level": "exacting"})


class Command(BaseCommand):
    help = "Times and weighs a take's report for 100, 1,000 and 4,000 notes; marks 300 takes again."

    def handle(self, *args: Any, **options: Any) -> None:
        with transaction.atomic(), within(Scope.EVERYWHERE):
            self.reports()
            transaction.set_rollback(True)
        with transaction.atomic(), within(Scope.EVERYWHERE):
            self.marked_again()
            transaction.set_rollback(True)

    def reports(self) -> None:
        scene = Scene(students=2)
        client = Client(HTTP_HOST="127.0.0.1")
        client.force_login(scene.teacher)
        self.stdout.write(f"best of {REPEATS}{'':37}" + "".join(f"{n:>9,}" for n in SIZES))
        rows: dict[str, list[float]] = {}
        for size in SIZES:
            take, _other = scene.takes(scene.assignment(size))
            for name, figure in self.figures(client, take).items():
                rows.setdefault(name, []).append(figure)
        for name, row in rows.items():
            self.stdout.write(f"{name:46}" + "".join(f"{figure:9,.0f}" for figure in row))

    def figures(self, client: Client, take: Take) -> dict[str, float]:
        url = f"/takes/{take.pk}/"

        def get(path: str = "", **more: Any) -> Callable[[], Any]:
            return lambda: client.get(url + path, **more)

        report = get()
        seconds = {
            "report, ms on the server": _best(report),
            "another look (one hand), ms": _best(get("?of=left", **HTMX)),
            "the card of a note, ms": _best(get("notes/t20/")),
        }
        with CaptureQueriesContext(connection) as queries:
            page = report()
        return {
            **{name: took * 1000 for name, took in seconds.items()},
            "report, KB": len(page.content) / 1000,
            "report, queries": len(queries),
        }

    def marked_again(self) -> None:
        """Time a trial of another rubric on all takes, then keeping it."""
        scene = Scene(students=STUDENTS)
        assignment = scene.assignment(NOTES)
        scene.takes(assignment)
        rubric = make_rubric(scene.teacher, name="Strict", kind="keyboard", says=STRICT)
        job = remarking.begin(scene.teacher, assignment, rubric.current, with_released=True)
        for purpose in ("tried on", "kept for"):
            start = time.perf_counter()
            while remarking.step(job.pk):
                pass
            took = time.perf_counter() - start
            self.stdout.write(f"a rubric {purpose} {STUDENTS} takes of {NOTES} notes: {took:.1f} s")
            job.refresh_from_db()
            if job.state == job.State.TRIED:
                remarking.save_remarking(scene.teacher, job)
        assert job.state == job.State.KEPT, job.state


def _best(act: Callable[[], Any]) -> float:
    seconds = []
    for _ in range(REPEATS):
        start = time.perf_counter()
        response = act()
        seconds.append(time.perf_counter() - start)
        assert response.status_code == 200, response.status_code
    return min(seconds)
