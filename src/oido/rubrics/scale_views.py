"""The page on which a teacher sets a scale by ear."""

from dataclasses import dataclass
from typing import Any

from django import forms
from django.contrib import messages
from django.http import Http404, HttpResponseBase, JsonResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils.translation import gettext as _
from django.utils.translation import gettext_lazy
from django.views.decorators.http import require_GET, require_http_methods

from ear.criteria.levels import LEVELS
from ear.judging.scale import TAKES, ContradictoryMarks, FittedRubric
from oido.common.permissions import for_teachers
from oido.exercises.models import Exercise
from oido.exercises.pages import heard_data
from oido.exercises.queries import visible_exercises
from oido.people.requests import Request
from oido.rubrics import scale as services
from oido.rubrics.labels import CRITERION_LABELS
from oido.rubrics.models import ScaleHearing

LETTERS = "ABCDEFGH"
FAR_OFF = 8.0
"""Points from which a fit is said to be a rough one."""


class ScaleForm(forms.Form):
    """A mark for each take; the name of the rubric where it is saved."""

    name = forms.CharField(label=gettext_lazy("Name of the rubric"), max_length=120, required=False)
    had = forms.CharField(max_length=40, required=False)
    """Numbers of the takes that had a mark when the page was made."""

    def __init__(self, data: Any = None, *, marks: dict[str, float], name: str) -> None:
        initial = {f"mark-{k}": f"{marks[str(k)]:g}" for k in range(TAKES) if str(k) in marks}
        super().__init__(data, initial={"name": name, **initial})
        for k in range(TAKES):
            self.fields[f"mark-{k}"] = forms.FloatField(
                label=_("Your mark for take %(letter)s") % {"letter": LETTERS[k]}, min_value=0, max_value=100,
                required=False,
            )  # fmt: skip

    @property
    def marks(self) -> dict[int, float | None]:
        """Those that are written and valid; None where one that the page showed is cleared."""
        had = self.cleaned_data.get("had", "").split(",")
        given_marks = (
            (k, self.cleaned_data[f"mark-{k}"]) for k in range(TAKES) if f"mark-{k}" in self.cleaned_data
        )
        return {k: mark for k, mark in given_marks if mark is not None or str(k) in had}


@dataclass(frozen=True, slots=True, kw_only=True)
class HeardTake:
    number: int
    letter: str
    field: Any
    fitted: float | None
    off: float | None


@require_http_methods(["GET", "POST"])
@for_teachers
def scale(request: Request, pk: int) -> HttpResponseBase:
    """Show eight takes to hear and mark, then the scale that fits, to be saved as a rubric."""
    exercise = _exercise(request, pk)
    hearing = services.hearing_of(request.user, exercise)
    name = _("By ear: %(title)s") % {"title": exercise.title}
    form = ScaleForm(request.POST if request.method == "POST" else None, marks=hearing.marks, name=name[:120])
    if request.method == "POST" and (is_valid := form.is_valid()) | bool(form.marks):
        hearing = services.write_marks(hearing, form.marks)
        # The script that follows the form sends the button last pressed, too; only pressing it saves.
        if is_valid and "save" in request.POST and not request.htmx and _fit(hearing)[0]:
            made = services.save_scale(
                request.user, hearing, name=form.cleaned_data["name"] or name[:120], kind=exercise.kind
            )
            messages.success(request, _("“%(name)s” is saved as one of your rubrics.") % {"name": made.name})
            return redirect("rubric", pk=made.pk)
    fitted, refused = _fit(hearing)
    context = {
        "exercise": exercise, "form": form, "heard": _heard(form, hearing, fitted), "fitted": fitted, "refused": refused,
        "is_rough": bool(fitted and fitted.greatest > FAR_OFF), "left": TAKES - len(hearing.marks),
        "says": _says(fitted) if fitted else None, "had": ",".join(sorted(hearing.marks)),
    }  # fmt: skip
    status = 422 if request.method == "POST" and form.errors else 200
    template = "rubrics/_scale.html" if request.htmx else "rubrics/scale.html"
    return render(request, template, context, status=status)


def _exercise(request: Request, pk: int) -> Exercise:
    return get_object_or_404(visible_exercises(request.user).select_related("part"), pk=pk)


def _fit(hearing: ScaleHearing) -> tuple[FittedRubric | None, tuple[str, str] | None]:
    """The scale, once all takes have a mark; or the two takes whose marks contradict each other."""
    if len(hearing.marks) < TAKES:
        return None, None
    try:
        return services.fitted(hearing), None
    except ContradictoryMarks as problem:
        return None, (LETTERS[problem.worse], LETTERS[problem.better])


def _heard(form: ScaleForm, hearing: ScaleHearing, best_fit: FittedRubric | None) -> list[HeardTake]:
    rows = []
    for k in range(TAKES):
        fitted = best_fit.marks[k] if best_fit else None
        rows.append(
            HeardTake(
                number=k,
                letter=LETTERS[k],
                field=form[f"mark-{k}"],
                fitted=fitted,
                off=None if fitted is None else fitted - hearing.marks[str(k)],
            )
        )
    return rows


def _says(best_fit: FittedRubric) -> dict[str, object]:
    rubric = best_fit.rubric
    assert rubric.level is not None
    return {
        "level": LEVELS[rubric.level.key].name,
        "floor": rubric.floor_percent,
        "weights": [(CRITERION_LABELS[name], weight) for name, weight in rubric.weights if weight],
        "has_ceilings": rubric.has_ceilings,
    }


@require_GET
@for_teachers
def take(request: Request, pk: int, number: int) -> HttpResponseBase:
    """Answer with what the page needs to play one of the takes."""
    exercise = _exercise(request, pk)
    if not 0 <= number < TAKES:
        raise Http404
    graded = services.takes_of(services.hearing_of(request.user, exercise))[number]
    return JsonResponse({**heard_data(exercise.part_in_force.read(), graded.take), "controls": []})
