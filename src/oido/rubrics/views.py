from django.contrib import messages
from django.http import Http404, HttpRequest, HttpResponseBase
from django.shortcuts import get_object_or_404, redirect, render
from django.utils.translation import gettext as _
from django.views.decorators.http import require_GET, require_http_methods, require_POST

from ear.judging.rubric import DEFAULT_RUBRICS
from ear.notes import Kind
from oido.common.permissions import for_teachers
from oido.exercises.models import KindChoice
from oido.rubrics import services
from oido.rubrics.forms import RubricForm
from oido.rubrics.labels import CRITERION_LABELS
from oido.rubrics.models import Rubric
from oido.rubrics.queries import visible_rubrics

NAME_MOST = 120


@require_GET
@for_teachers
def rubrics(request: HttpRequest) -> HttpResponseBase:
    found = list(visible_rubrics(request.user))
    context = {
        "own": [r for r in found if r.owner_id == request.user.pk],
        "others": [r for r in found if r.owner_id != request.user.pk],
        "kinds": KindChoice.choices,
    }
    return render(request, "rubrics/list.html", context)


@require_http_methods(["GET", "POST"])
@for_teachers
def new(request: HttpRequest, kind: str) -> HttpResponseBase:
    """A rubric that starts as Oido's own for the kind."""
    if kind not in KindChoice.values:
        raise Http404
    form = RubricForm(
        request.POST or None, name="", rubric=DEFAULT_RUBRICS[Kind(kind)], labels=CRITERION_LABELS
    )
    if request.method == "POST" and form.is_valid():
        services.make_rubric(request.user, name=form.cleaned_data["name"], kind=kind, says=form.rubric)
        return redirect("rubrics")
    return _page(request, form, kind=KindChoice(kind).label)


@require_http_methods(["GET", "POST"])
@for_teachers
def rubric(request: HttpRequest, pk: int) -> HttpResponseBase:
    """To be changed by its owner; others look at it, and copy it."""
    found = get_object_or_404(visible_rubrics(request.user), pk=pk)
    if found.owner_id != request.user.pk:
        if request.method == "POST":
            raise Http404
        return render(request, "rubrics/look.html", {"rubric": found, "says": found.current.read()})
    form = RubricForm(
        request.POST or None, name=found.name, rubric=found.current.read(), labels=CRITERION_LABELS
    )
    if request.method == "POST" and form.is_valid():
        before = found.current_id
        changed = services.change_rubric(
            request.user, found, name=form.cleaned_data["name"], says=form.rubric
        )
        if changed.current_id != before:
            messages.success(
                request,
                _("“%(name)s” is kept as version %(n)s. What is marked by an older version stays so, until its assignment is marked again.")
                % {"name": changed.name, "n": changed.current.number},
            )  # fmt: skip
        return redirect("rubrics")
    return _page(request, form, rubric=found, kind=found.get_kind_display())


def _page(request: HttpRequest, form: RubricForm, **more: object) -> HttpResponseBase:
    status = 422 if request.method == "POST" else 200
    return render(request, "rubrics/rubric.html", {"form": form, **more}, status=status)


@require_POST
@for_teachers
def copy(request: HttpRequest, pk: int) -> HttpResponseBase:
    found = get_object_or_404(visible_rubrics(request.user), pk=pk)
    name = _("%(name)s, a copy") % {"name": found.name}
    made = services.copy_rubric(request.user, found, name=name[:NAME_MOST])
    return redirect("rubric", pk=made.pk)


@require_POST
@for_teachers
def share(request: HttpRequest, pk: int) -> HttpResponseBase:
    found: Rubric = get_object_or_404(visible_rubrics(request.user), pk=pk)
    services.share_rubric(request.user, found, is_shared="share" in request.POST)
    return redirect("rubrics")
