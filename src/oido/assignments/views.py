from datetime import datetime, time

from django.contrib import messages
from django.http import HttpResponseBase
from django.shortcuts import get_object_or_404, redirect, render
from django.utils import timezone
from django.utils.translation import gettext as _

from oido.assignments.forms import GiveForm
from oido.assignments.panel import given_panel
from oido.assignments.services import give_exercise
from oido.common.methods import only_post
from oido.common.permissions import for_teachers
from oido.exercises.queries import visible_exercises
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
