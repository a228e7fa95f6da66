"""The page of one exercise."""

from django.http import HttpResponseBase
from django.shortcuts import get_object_or_404, render
from django.views.decorators.http import require_GET

from ear.editing.comparing import compare
from ear.labels.chord_cards import chord_cards
from oido.common.permissions import for_teachers
from oido.exercises.asked import asked
from oido.exercises.exports import EXPORTS
from oido.exercises.keeping import may_keep
from oido.exercises.pages import backing_data, exercise_page, playing_data
from oido.exercises.panels import panel_contexts
from oido.exercises.queries import visible_exercises
from oido.people.conventions import conventions_of
from oido.people.requests import Request


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
        "playing": playing_data(part) | {"backing": backing_data(found, part.tempos)},
        "asked": asked(found.part_in_force.spec),
        "exports": EXPORTS,
        "may_keep": may_keep(request.user, found),
        "tags": found.tags.all(),
        "cards": chord_cards(part, conventions=conventions) if part.instrument.has_key else (),
        **panel_contexts(request, found),
    }
    return render(request, "exercises/exercise.html", context)
