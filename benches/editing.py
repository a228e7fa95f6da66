"""How long the Bench takes to answer: `./oido bench editing`."""

import time
from collections.abc import Callable, Mapping
from decimal import Decimal
from random import Random
from statistics import median
from typing import Any

from django.core.management.base import BaseCommand
from django.db import transaction
from django.test import Client

from ear.conventions import PLAIN
from ear.notes import Hand, Kind, MeterMap, Note, Part, TempoMap
from oido.bench.page import AT_ONCE, SEEN_HEADER, BenchView
from oido.bench.services import open_draft
from oido.common.memory import freeze_loaded_objects
from oido.exercises.services import NewExercise, create_exercise
from oido.people.models import Role, School, User
from oido.people.scope import Scope, within
from oido.people.services import new_member

SIZES = (100, 1000, 4000)
ROUNDS = 15
SEED = 4
IN_VIEW = 5
"""Rows of music that a window of 1280 by 800 shows, with what is nearly in it."""


def long_part(notes: int) -> Part:
    """Return a part of quavers in two hands with this many notes."""
    chance = Random(SEED)
    return Part.of(
        (
            Note(
                onset_tick=240 * (k // 2), length_tick=200, velocity=80, hand=Hand.RIGHT if k % 2 else Hand.LEFT,
                pitch=chance.randrange(60, 80) if k % 2 else chance.randrange(40, 58),
            )
            for k in range(notes)
        ),
        kind=Kind.KEYBOARD, meters=MeterMap.of(4, 4), tempos=TempoMap.of(100),
    )  # fmt: skip


class Command(BaseCommand):
    help = "Times what a teacher waits for on the Bench, on a part of 100, 1,000 and 4,000 notes."

    def handle(self, *args: Any, **options: Any) -> None:
        with transaction.atomic(), within(Scope.EVERYWHERE):
            school = School.objects.create(name="Bench")
            teacher = new_member(school, Role.TEACHER, username="bench")
            client = Client(HTTP_HOST="127.0.0.1")
            client.force_login(teacher)
            client.get("/bench/new/")
            # As the server does once it has loaded everything.
            freeze_loaded_objects()
            self.stdout.write(
                f"best and middle of {ROUNDS}, in ms, request to answer  "
                + "".join(f"{n:>14,}" for n in SIZES)
            )
            figures: dict[str, list[list[float]]] = {}
            for size in SIZES:
                for name, took in self.timed(client, teacher, size).items():
                    figures.setdefault(name, []).append(took)
            for name, row in figures.items():
                self.stdout.write(
                    f"{name:52}"
                    + "".join(f"{min(took) * 1000:7.0f}{median(took) * 1000:7.0f}" for took in row)
                )
            transaction.set_rollback(True)

    def timed(self, client: Client, teacher: User, size: int) -> dict[str, list[float]]:
        new = NewExercise(
            title="long", kind="keyboard", instructions="", tempo_bpm=Decimal(100), count_in_bars=1, level="building",
            part=long_part(size),
        )  # fmt: skip
        exercise = create_exercise(teacher, new)
        url = f"/bench/{exercise.pk}/"
        client.get(url)
        rows = range(len(BenchView(labels=frozenset(), conventions=PLAIN).note_starts(new.part)))
        first = max(0, len(rows) // 2 - IN_VIEW // 2)
        in_view = rows[first : first + IN_VIEW]
        asks: dict[str, Any] = {"headers": {"HX-Request": "true", SEEN_HEADER: f"{in_view[0]}-{in_view[-1]}"}}
        chance = Random(SEED)

        def use(tool: str, **values: object) -> Callable[[], Any]:
            return lambda: client.post(f"{url}do/{tool}/", values, **asks)

        def others() -> Any:
            """Asked for a few at a time, as the page does, until all are there."""
            later = [k for k in rows if k not in in_view]
            state = open_draft(teacher, exercise).draft.state_id
            some = [",".join(map(str, later[k : k + AT_ONCE])) for k in range(0, max(1, len(later)), AT_ONCE)]
            return [client.get(f"{url}rows/?state={state}&rows={rows}", **asks) for rows in some][-1]

        def weigh() -> Any:
            return use("weigh", weights=f"{size // 3}:{chance.randrange(1, 127)}")()

        # One note a time: moving it there and back, so that each act changes something.
        middle = size // 2
        acts: dict[str, Callable[[], Any]] = {
            "pick a note": use("touch", note=middle),
            "drag a note": _in_turn(
                *(use("drag", note=middle, ticks=t, steps=s, longer=0) for t, s in ((1, 1), (-1, -1)))
            ),
            "draw one strength": weigh,
            "take back": lambda: client.post(f"{url}undo/", **asks),
            "transpose everything: what is in view": _in_turn(
                *(use("key", semitones=n, to_key="") for n in (2, -2))
            ),
            "the rows outside of the view, after it": others,
            "open the page": lambda: client.get(url),
            "open the page, all rows at once": lambda: client.get(url, {"rows": "all"}),
        }
        return _in_rounds(acts)


def _in_turn(*acts: Callable[[], Any]) -> Callable[[], Any]:
    count = iter(range(10**6))
    return lambda: acts[next(count) % len(acts)]()


def _in_rounds(acts: Mapping[str, Callable[[], Any]]) -> dict[str, list[float]]:
    """Seconds that acts take, all of them once a round: a machine that slows down for a while does so for all."""
    took: dict[str, list[float]] = {name: [] for name in acts}
    for _ in range(ROUNDS):
        for name, act in acts.items():
            start = time.perf_counter()
            response = act()
            took[name].append(time.perf_counter() - start)
            assert response.status_code == 200, response.status_code
    return took
