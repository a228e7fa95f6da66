"""The page of one exercise."""

from django.http import HttpResponseBase
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_GET

from ear.editing.comparing import compare
from ear.labels.chord_cards import chord_cards
from ear.practice.ladder import Ladder
from oido.common.permissions import for_teachers
from oido.common.screen import music_width
from oido.exercises.asked import asked
from oido.exercises.exports import EXPORTS
from oido.exercises.forms.rules import RulesForm
from oido.exercises.ladder_texts import describe_ladder
from oido.exercises.lifecycle import may_manage
from oido.exercises.models import Exercise
from oido.exercises.pages import backing_data, exercise_page, playing_data
from oido.exercises.panels import panel_contexts
from oido.exercises.queries import visible_exercises, with_unsaved
from oido.exercises.rule_texts import describe_rules
from oido.people.conventions import conventions_of
from oido.people.requests import Request


@require_GET
@for_teachers
def exercise(request: Request, pk: int) -> HttpResponseBase:
    shown = get_object_or_404(
        with_unsaved(visible_exercises(request.user)).select_related("part", "variation_of__exercise"), pk=pk
    )
    if shown.is_begun:
        return redirect("bench", pk=pk)
    return render(request, "exercises/exercise.html", exercise_context(request, shown))


def exercise_context(request: Request, exercise: Exercise) -> dict[str, object]:
    """What the page of an exercise shows; it was read `with_unsaved`."""
    part = exercise.part_in_force.read()
    conventions = conventions_of(request.user)
    compared = compare(exercise.variation_of.read(), part) if exercise.variation_of else None
    return {
        "part": part,
        "page": exercise_page(
            exercise,
            part,
            conventions,
            new_notes=compared.new if compared else frozenset(),
            width=music_width(request),
        ),
        "compared": compared,
        "playing": playing_data(part) | {"backing": backing_data(exercise, part.tempos)},
        "asked": asked(exercise.part_in_force.spec),
        "exports": EXPORTS,
        "may_manage": may_manage(request.user, exercise),
        "rungs": describe_ladder(Ladder.from_json(exercise.ladder, part), part),
        "tags": exercise.tags.all(),
        "cards": chord_cards(part, conventions=conventions) if part.instrument.has_key else (),
        **rules_context(request, exercise),
        **panel_contexts(request, exercise),
    }


def rules_context(
    request: Request, exercise: Exercise, *, opened: RulesForm | None = None
) -> dict[str, object]:
    """The rules in sentences, with one of their choices opened."""
    return {
        "exercise": exercise,
        "rules": describe_rules(exercise),
        "may_set": exercise.owner_id == request.user.pk and exercise.deleted_at is None,
        "opened": opened,
    }
