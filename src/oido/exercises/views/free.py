"""Free exercises: made and changed on one page."""

from django.contrib import messages
from django.http import Http404, HttpResponseBase
from django.shortcuts import get_object_or_404, redirect, render
from django.utils.translation import gettext as _
from django.views.decorators.http import require_http_methods

from oido.common.permissions import for_teachers
from oido.exercises.forms.free import FreeForm
from oido.exercises.queries import library
from oido.exercises.services import create_exercise, set_free
from oido.people.requests import Request


@require_http_methods(["GET", "POST"])
@for_teachers
def new(request: Request) -> HttpResponseBase:
    form = FreeForm(request.POST or None)
    if request.method == "POST" and form.is_valid():
        made = create_exercise(request.user, form.new_exercise())
        return redirect("exercise", pk=made.pk)
    return render(request, "exercises/free.html", {"form": form}, status=422 if form.is_bound else 200)


@require_http_methods(["GET", "POST"])
@for_teachers
def change(request: Request, pk: int) -> HttpResponseBase:
    """Of one's own: takes that were recorded are read as it was asked for then."""
    exercise = get_object_or_404(library(request.user).select_related("part"), pk=pk, owner=request.user)
    if exercise.part is None or exercise.part.spec is None:
        raise Http404
    form = FreeForm(request.POST or None, exercise=exercise)
    if request.method == "POST" and form.is_valid():
        set_free(
            request.user,
            exercise,
            form.facts(),
            form.rules,
            form.made_backing,
            spec=form.spec,
            page=form.page,
        )
        messages.success(request, _("Saved."))
        return redirect("exercise", pk=pk)
    context = {"form": form, "exercise": exercise}
    return render(request, "exercises/free.html", context, status=422 if form.is_bound else 200)
