"""How an exercise is recorded and practised; and exercises begun from others."""

from typing import Any

from django.http import Http404, HttpResponseBase
from django.shortcuts import get_object_or_404, redirect, render
from django.utils.translation import gettext as _
from django.views.decorators.http import require_http_methods

from ear.practice.ladder import Ladder, proposed
from oido.common.methods import only_post
from oido.common.permissions import for_teachers
from oido.exercises.forms.ladder import RungForm, RungFormSet
from oido.exercises.forms.rules import RulesForm
from oido.exercises.models import TITLE_MOST, Exercise
from oido.exercises.queries import library, visible_exercises
from oido.exercises.services import begin_variation, set_ladder, set_rules
from oido.people.requests import Request


@require_http_methods(["GET", "POST"])
@for_teachers
def rules(request: Request, pk: int) -> HttpResponseBase:
    exercise = _own(request, pk)
    others = library(request.user).select_related("part").exclude(pk=pk).order_by("title")
    form = RulesForm(request.POST or None, request.FILES or None, exercise=exercise, others=others)
    if request.method == "POST":
        if form.is_valid():
            set_rules(request.user, exercise, form.facts(), form.rules, form.backing)
            return redirect("exercise", pk=pk)
        return render(request, "exercises/rules.html", {"form": form, "exercise": exercise}, status=422)
    return render(request, "exercises/rules.html", {"form": form, "exercise": exercise})


@require_http_methods(["GET", "POST"])
@for_teachers
def ladder(request: Request, pk: int) -> HttpResponseBase:
    """Rungs to be written; “propose” in the data makes them from the part, to be changed before they are kept."""
    exercise = _own(request, pk)
    part = exercise.part_in_force.read()
    if request.method == "POST" and "propose" not in request.POST:
        rungs: Any = RungFormSet(request.POST, initial=_start(exercise.practice_ladder))
        rungs.part = part
        if rungs.is_valid():
            set_ladder(request.user, exercise, rungs.ladder())
            return redirect("exercise", pk=pk)
        return render(
            request, "exercises/ladder.html", {"rungs": rungs, "exercise": exercise, "part": part}, status=422
        )
    is_proposal = request.method == "POST"
    made = proposed(part) if is_proposal else exercise.practice_ladder
    context = {
        "rungs": RungFormSet(initial=_start(made)), "exercise": exercise, "part": part, "is_proposal": is_proposal,
    }  # fmt: skip
    return render(request, "exercises/ladder.html", context)


@only_post
@for_teachers
def variation(request: Request, pk: int) -> HttpResponseBase:
    """Begin an exercise of one's own that starts as this one is."""
    source = get_object_or_404(visible_exercises(request.user).select_related("part"), pk=pk)
    title = _("%(title)s, a variation") % {"title": source.title}
    made = begin_variation(request.user, source, title=title[:TITLE_MOST])
    return redirect("bench", pk=made.pk)


def _start(made: Ladder) -> list[dict]:
    return [RungForm.start(rung) for rung in made.rungs]


def _own(request: Request, pk: int) -> Exercise:
    exercise = get_object_or_404(library(request.user).select_related("part"), pk=pk)
    if exercise.owner_id != request.user.pk:
        raise Http404
    return exercise
