from datetime import datetime, time

from django.contrib import messages
from django.http import HttpResponseBase
from django.shortcuts import get_object_or_404, redirect, render
from django.utils import timezone
from django.utils.translation import gettext as _
from django.views.decorators.http import require_GET

from oido.assignments.forms import GiveForm
from oido.assignments.panel import given_panel
from oido.assignments.queries import visible_assignments, with_counts
from oido.assignments.services import give_exercise
from oido.common.methods import only_post
from oido.common.permissions import for_teachers
from oido.exercises.queries import visible_exercises
from oido.people.queries import classes_of
from oido.people.requests import Request

LAST_MINUTE = time(23, 59)


@only_post
@for_teachers
def give(request: Request, pk: int) -> HttpResponseBase:
    """Give an exercise; answers with the list of who has it, and the form again if it is wrong."""
    exercise = get_object_or_404(visible_exercises(request.user), pk=pk)
    form = GiveForm(request.POST, teacher=request.user, kind=exercise.kind)
    status = 422
    if form.is_valid():
        due = timezone.make_aware(datetime.combine(form.cleaned_data["due_on"], LAST_MINUTE))
        school_class = form.cleaned_data["school_class"]
        give_exercise(
            request.user, exercise, school_class, due_at=due, rubric=form.cleaned_data["rubric"],
            releases_at_once=form.cleaned_data["releases_at_once"],
        )  # fmt: skip
        form, status = GiveForm(teacher=request.user, kind=exercise.kind), 200
        if not request.htmx:
            messages.success(request, _("Given to %(name)s.") % {"name": school_class})
            return redirect("exercise", pk=pk)
    context = {**given_panel(request, exercise), "exercise": exercise, "give_form": form}
    return render(request, "assignments/_given.html", context, status=status)


@require_GET
@for_teachers
def classes(request: Request) -> HttpResponseBase:
    found = classes_of(request.user).prefetch_related("students", "teachers")
    assignments = with_counts(visible_assignments(request.user))
    by_class: dict[int, list] = {}
    for assignment in assignments:
        by_class.setdefault(assignment.school_class_id, []).append(assignment)
    rows = [{"school_class": c, "assignments": by_class.get(c.pk, [])} for c in found]
    return render(request, "assignments/classes.html", {"rows": rows})
