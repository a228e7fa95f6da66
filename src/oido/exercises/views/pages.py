"""The exercises of a school, and one of them."""

from django.contrib import messages
from django.http import HttpResponseBase
from django.shortcuts import get_object_or_404, redirect, render
from django.utils.translation import gettext as _
from django.views.decorators.http import require_GET

from ear.editing.comparing import compare
from ear.labels.chord_cards import chord_cards
from oido.common.methods import only_post
from oido.common.permissions import for_teachers
from oido.exercises.exports import EXPORTS
from oido.exercises.pages import exercise_page, playing_data
from oido.exercises.panels import panel_contexts
from oido.exercises.queries import visible_exercises
from oido.exercises.services import StillUsed, delete_exercise
from oido.people.conventions import conventions_of
from oido.people.requests import Request


@require_GET
@for_teachers
def exercise_list(request: Request) -> HttpResponseBase:
    exercises = visible_exercises(request.user).order_by("kind", "title")
    return render(request, "exercises/list.html", {"exercises": exercises})


@require_GET
@for_teachers
def exercise(request: Request, pk: int) -> HttpResponseBase:
    found = get_object_or_404(
        visible_exercises(request.user).select_related("part", "variation_of__exercise"), pk=pk
    )
    part = found.part_in_force.read()
    conventions = conventions_of(request.user)
    compared = compare(found.variation_of.read(), part) if found.variation_of else None
    context = {
        "exercise": found,
        "part": part,
        "page": exercise_page(found, part, conventions, new_notes=compared.new if compared else frozenset()),
        "compared": compared,
        "playing": playing_data(part),
        "exports": EXPORTS,
        "cards": chord_cards(part, conventions=conventions) if part.instrument.has_key else (),
        **panel_contexts(request, found),
    }
    return render(request, "exercises/exercise.html", context)


@only_post
@for_teachers
def delete(request: Request, pk: int) -> HttpResponseBase:
    """One that was never given."""
    found = get_object_or_404(visible_exercises(request.user), pk=pk)
    title = found.title
    try:
        delete_exercise(request.user, found)
    except StillUsed:
        messages.error(
            request, _("“%(title)s” was given, or has a variation, so it stays.") % {"title": title}
        )
        return redirect("exercise", pk=pk)
    messages.success(request, _("“%(title)s” is deleted.") % {"title": title})
    return redirect("exercises")
