"""How an exercise is recorded and practised; and exercises begun from others."""

from django.http import HttpResponse, HttpResponseBase
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.utils.translation import gettext as _
from django.views.decorators.http import require_GET, require_http_methods

from oido.common.methods import only_post
from oido.common.permissions import for_teachers
from oido.exercises.forms.rules import RulesForm
from oido.exercises.models import MAX_TITLE_LENGTH
from oido.exercises.queries import library, own_exercise_or_404, visible_exercises
from oido.exercises.services import begin_variation, set_rules
from oido.exercises.views.pages import exercise_context, rules_context
from oido.people.requests import Request


@require_GET
@for_teachers
def rules(request: Request, pk: int) -> HttpResponseBase:
    """The rules in sentences, none of their choices open."""
    exercise = own_exercise_or_404(request.user, pk)
    if not request.htmx:
        return _to_rules(pk)
    return render(request, "exercises/_rules.html", rules_context(request, exercise))


@require_http_methods(["GET", "POST"])
@for_teachers
def rule(request: Request, pk: int, choice: str) -> HttpResponseBase:
    """One choice of the rules, opened where it stands in their sentences, and set there."""
    exercise = own_exercise_or_404(request.user, pk)
    others = library(request.user).select_related("part").exclude(pk=pk).order_by("title")
    form = RulesForm(
        request.POST or None, files=request.FILES or None, exercise=exercise, choice=choice, others=others
    )
    if request.method == "POST" and form.is_valid():
        set_rules(request.user, exercise, form.facts(), form.rules, form.backing)
        if not request.htmx:
            return _to_rules(pk)
        # Title, tempo, backing: what was set stands in many places of the page.
        response = HttpResponse(status=204)
        response["HX-Refresh"] = "true"
        return response
    status = 422 if request.method == "POST" else 200
    opened = rules_context(request, exercise, opened=form)
    if request.htmx:
        return render(request, "exercises/_rules.html", opened, status=status)
    return render(
        request, "exercises/exercise.html", exercise_context(request, exercise) | opened, status=status
    )


@only_post
@for_teachers
def variation(request: Request, pk: int) -> HttpResponseBase:
    """Begin an exercise of one's own that starts as this one is."""
    source = get_object_or_404(visible_exercises(request.user).select_related("part"), pk=pk)
    title = _("%(title)s, a variation") % {"title": source.title}
    made = begin_variation(request.user, source, title=title[:MAX_TITLE_LENGTH])
    return redirect("bench", pk=made.pk)


def _to_rules(pk: int) -> HttpResponseBase:
    return redirect(f"{reverse('exercise', args=[pk])}#rules")
