"""The ladder, made on the music: what is done to it is done to the page's own draft, until it is saved."""

from collections.abc import Callable
from typing import Any

from django.http import HttpResponse, HttpResponseBase
from django.shortcuts import redirect, render
from django.urls import reverse
from django.utils.translation import gettext as _
from django.utils.translation import gettext_lazy, pgettext_lazy
from django.views.decorators.http import require_http_methods

from ear.errors import EarError
from ear.notes import Part
from ear.practice.ladder import Ladder
from oido.common.numbers import whole
from oido.common.permissions import for_teachers
from oido.common.problems import error_message
from oido.common.screen import music_width
from oido.exercises.forms.ladder import TEMPO_WORDS, RungForm
from oido.exercises.ladder_draft import LadderDraft, draft_sent
from oido.exercises.ladder_texts import describe_ladder
from oido.exercises.models import Exercise
from oido.exercises.pages import backing_data, exercise_page, playing_data, voice_of
from oido.exercises.queries import own_exercise_or_404
from oido.exercises.services import set_ladder
from oido.people.conventions import conventions_of
from oido.people.requests import Request

AT: dict[str, Callable[[LadderDraft, int], LadderDraft]] = {
    "up": lambda draft, at: draft.moved(at, -1),
    "down": lambda draft, at: draft.moved(at, 1),
    "remove": LadderDraft.without,
    "double": LadderDraft.doubled,
}
RUNG_ACTS = (
    ("up", pgettext_lazy("choice", "up")),
    ("down", pgettext_lazy("choice", "down")),
    ("double", gettext_lazy("once more")),
    ("remove", pgettext_lazy("choice", "remove")),
)
"""What is done to one rung, and its words."""


@require_http_methods(["GET", "POST"])
@for_teachers
def ladder(request: Request, pk: int) -> HttpResponseBase:
    """`act` in the data says what is done: a word, and behind a dash the rung's number from 0."""
    exercise = own_exercise_or_404(request.user, pk)
    part = exercise.part_in_force.read()
    stored = Ladder.from_json(exercise.ladder, part)
    if request.method == "GET":
        return _answer(request, exercise, part, LadderDraft(ladder=stored))
    draft = draft_sent(request.POST, part, stored)
    act, _dash, number = request.POST.get("act", "").partition("-")
    at = whole(number)
    open_at = _within(whole(request.POST.get("open", "")), draft.ladder)
    try:
        if open_at is not None and act != "undo":
            form = RungForm(
                request.POST, part=part, rung=draft.ladder.rungs[open_at], is_free=exercise.is_free
            )
            if not form.is_valid():
                return _answer(request, exercise, part, draft, open_at=open_at, form=form, status=422)
            draft = draft.with_rung(open_at, form.rung())
        if act == "save":
            set_ladder(request.user, exercise, draft.ladder)
            return _saved(request, exercise)
        at = _within(at, draft.ladder)
        draft, open_at = _done(draft, act, at, part, request.POST, is_free=exercise.is_free)
    except EarError as problem:
        return _answer(request, exercise, part, draft, problem=error_message(problem), status=422)
    return _answer(request, exercise, part, draft, open_at=open_at)


def _done(
    draft: LadderDraft, act: str, at: int | None, part: Part, data: Any, *, is_free: bool
) -> tuple[LadderDraft, int | None]:
    """The draft after an act, and the rung that is open then."""
    match act:
        case "undo":
            return draft.undone(), None
        case "redo":
            return draft.redone(), None
        case "propose":
            return draft.propose_ladder(part, is_free=is_free), None
        case "new":
            first, last = (whole(data.get(name, "")) or 1 for name in ("new_first", "new_last"))
            made = draft.with_new(part, first, last)
            return made, len(made.ladder.rungs) - 1
        case "open":
            return draft, at
    if at is not None and act in AT:
        return AT[act](draft, at), None
    return draft, None


def _within(at: int | None, ladder: Ladder) -> int | None:
    return at if at is not None and 0 <= at < len(ladder.rungs) else None


def _saved(request: Request, exercise: Exercise) -> HttpResponseBase:
    if not request.htmx:
        return redirect("exercise", pk=exercise.pk)
    response = HttpResponse(status=204)
    response["HX-Redirect"] = reverse("exercise", args=[exercise.pk])
    return response


def _answer(
    request: Request, exercise: Exercise, part: Part, draft: LadderDraft, *, open_at: int | None = None,
    form: RungForm | None = None, problem: str = "", status: int = 200,
) -> HttpResponse:  # fmt: skip
    if open_at is not None and form is None:
        form = RungForm(part=part, rung=draft.ladder.rungs[open_at], is_free=exercise.is_free)
    context = {
        "exercise": exercise,
        "part": part,
        "draft": draft,
        "rungs": describe_ladder(draft.ladder, part),
        "rung_acts": RUNG_ACTS,
        "open_at": open_at,
        "form": form,
        "problem": problem,
        "is_unsaved": draft.ladder != Ladder.from_json(exercise.ladder, part),
        "tempo_words": [(percent, _("%(word)s: ♩ = %(bpm)s") % {
            "word": word, "bpm": round(part.tempos.first_bpm * percent / 100)
        }) for percent, word in TEMPO_WORDS],
    }  # fmt: skip
    if request.htmx:
        return render(request, "exercises/_ladder.html", context, status=status)
    context |= {
        "page": exercise_page(exercise, part, conventions_of(request.user), width=music_width(request)),
        "playing": playing_data(part) | {"backing": backing_data(exercise, part.tempos)},
        "voices": [voice_of(part, note) for note in part.notes],
    }
    return render(request, "exercises/ladder.html", context, status=status)
