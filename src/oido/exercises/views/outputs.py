"""An exercise in open formats, and drawn as notation."""

from django.http import HttpResponseBase
from django.shortcuts import get_object_or_404
from django.urls import reverse
from django.views.decorators.http import require_GET

from ear.notation.engraving import notation_svg
from oido.common.notation import notation_answer
from oido.common.permissions import for_teachers
from oido.common.readers import reader_with
from oido.common.screen import music_width
from oido.exercises.background import file_name
from oido.exercises.exports import BY_FILE
from oido.exercises.models import Exercise
from oido.exercises.queries import visible_exercises
from oido.people.conventions import conventions_of
from oido.people.requests import Request


@require_GET
@for_teachers
def export(request: Request, pk: int, file: str) -> HttpResponseBase:
    """One of the files of the table: at once, or when its job is done."""
    exercise, wanted = _get_exercise(request, pk), BY_FILE[file]
    return wanted.answer(
        request, exercise, file_name=file_name(exercise, wanted.ending), names={"title": exercise.title},
        back=reverse("exercise", args=[pk]), exercise=pk,
    )  # fmt: skip


@require_GET
@for_teachers
def notation(request: Request, pk: int) -> HttpResponseBase:
    """The part drawn as notation, for the page."""
    exercise = _get_exercise(request, pk)
    part, labels, conventions = (
        exercise.part_in_force.read(), exercise.shown_labels, conventions_of(request.user),
    )  # fmt: skip

    def draw(bars: range, seed: int) -> str:
        return notation_svg(
            part,
            width=music_width(request),
            labels=labels,
            reader=reader_with(conventions),
            bars=bars,
            seed=seed,
        )

    return notation_answer(request, part, draw)


def _get_exercise(request: Request, pk: int) -> Exercise:
    return get_object_or_404(visible_exercises(request.user).select_related("part"), pk=pk)
