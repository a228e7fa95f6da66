from django.contrib import messages
from django.http import Http404, HttpResponseBase
from django.shortcuts import get_object_or_404, redirect, render
from django.utils.translation import gettext as _
from django.views.decorators.http import require_GET, require_http_methods

from ear.judging.rubric import DEFAULT_RUBRICS
from ear.judging.rubric import Rubric as EarRubric
from ear.notes import Kind
from oido.common.methods import only_post
from oido.common.permissions import for_teachers
from oido.exercises.models import KindChoice
from oido.people.requests import Request
from oido.rubrics import services
from oido.rubrics.examples import would_give
from oido.rubrics.forms import RubricForm
from oido.rubrics.models import Rubric
from oido.rubrics.queries import visible_rubrics

MAX_NAME_LENGTH = 120


@require_GET
@for_teachers
def rubrics(request: Request) -> HttpResponseBase:
    rows = list(visible_rubrics(request.user))
    context = {
        "own": [r for r in rows if r.owner_id == request.user.pk],
        "others": [r for r in rows if r.owner_id != request.user.pk],
        "kinds": KindChoice.choices,
    }
    return render(request, "rubrics/list.html", context)


@require_http_methods(["GET", "POST"])
@for_teachers
def new(request: Request, kind: str) -> HttpResponseBase:
    """A rubric that starts as Oido's own for the kind."""
    if kind not in KindChoice.values:
        raise Http404
    form = RubricForm(request.POST or None, name="", rubric=DEFAULT_RUBRICS[Kind(kind)], kind=Kind(kind))
    if request.method == "POST" and form.is_valid():
        services.make_rubric(request.user, name=form.cleaned_data["name"], kind=kind, says=form.rubric)
        return redirect("rubrics")
    return _page(
        request,
        form,
        kind=kind,
        shown=form.rubric if hasattr(form, "rubric") else DEFAULT_RUBRICS[Kind(kind)],
    )


@require_http_methods(["GET", "POST"])
@for_teachers
def rubric(request: Request, pk: int) -> HttpResponseBase:
    """To be changed by its owner; others look at it, and copy it."""
    own_rubric = get_object_or_404(visible_rubrics(request.user), pk=pk)
    if own_rubric.owner_id != request.user.pk:
        if request.method == "POST":
            raise Http404
        return render(
            request, "rubrics/look.html", {"rubric": own_rubric, "says": own_rubric.in_force.read()}
        )
    form = RubricForm(
        request.POST or None,
        name=own_rubric.name,
        rubric=own_rubric.in_force.read(),
        kind=Kind(own_rubric.kind),
    )
    if request.method == "POST" and form.is_valid():
        before = own_rubric.current_id
        changed = services.change_rubric(
            request.user, own_rubric, name=form.cleaned_data["name"], says=form.rubric
        )
        if changed.current_id != before:
            messages.success(
                request,
                _("“%(name)s” is saved as version %(n)s. Marks made by an older version stay until the assignment is marked again.")
                % {"name": changed.name, "n": changed.in_force.number},
            )  # fmt: skip
        return redirect("rubrics")
    return _page(request, form, kind=own_rubric.kind, shown=own_rubric.in_force.read(), rubric=own_rubric)


def _page(
    request: Request, form: RubricForm, *, kind: str, shown: EarRubric, **more: object
) -> HttpResponseBase:
    """`shown` is the rubric of which the table of examples is made."""
    status = 422 if request.method == "POST" else 200
    context = {
        "form": form, "kind": kind, "kind_name": KindChoice(kind).label, "would_give": would_give(kind, shown),
        **more,
    }  # fmt: skip
    return render(request, "rubrics/rubric.html", context, status=status)


@only_post
@for_teachers
def preview(request: Request, kind: str) -> HttpResponseBase:
    """What the rubric that stands in the form would give robot takes; nothing is saved."""
    if kind not in KindChoice.values:
        raise Http404
    form = RubricForm(request.POST, name="", rubric=DEFAULT_RUBRICS[Kind(kind)], kind=Kind(kind))
    # A rubric without a name yet gives marks as well.
    form.fields["name"].required = False
    shown = would_give(kind, form.rubric) if form.is_valid() else None
    return render(request, "rubrics/_would_give.html", {"would_give": shown})


@only_post
@for_teachers
def copy(request: Request, pk: int) -> HttpResponseBase:
    original = get_object_or_404(visible_rubrics(request.user), pk=pk)
    name = _("%(name)s, a copy") % {"name": original.name}
    made = services.copy_rubric(request.user, original, name=name[:MAX_NAME_LENGTH])
    return redirect("rubric", pk=made.pk)


@only_post
@for_teachers
def share(request: Request, pk: int) -> HttpResponseBase:
    shared: Rubric = get_object_or_404(visible_rubrics(request.user), pk=pk)
    services.share_rubric(request.user, shared, is_shared="share" in request.POST)
    return redirect("rubrics")
