from django.contrib import messages
from django.http import HttpResponseBase
from django.shortcuts import get_object_or_404, redirect, render
from django.utils.translation import gettext as _

from oido.assignments.forms import GiveForm
from oido.assignments.panel import given_panel
from oido.assignments.services import give_exercise
from oido.common.days import due_on
from oido.common.methods import only_post
from oido.common.permissions import for_teachers
from oido.exercises.queries import visible_exercises
from oido.people.requests import Request


@only_post
@for_teachers
def give(request: Request, pk: int) -> HttpResponseBase:
    """Give an exercise; answers with the list of who has it, and the form again if it is wrong."""
    exercise = get_object_or_404(visible_exercises(request.user), pk=pk)
    form = GiveForm(request.POST, teacher=request.user, kind=exercise.kind)
    status = 422
    if form.is_valid():
        due = due_on(form.cleaned_data["due_on"])
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
