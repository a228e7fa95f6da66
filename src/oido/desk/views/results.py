"""The results of an exercise: where it has trouble, in all classes that the teacher may see."""

from django.http import HttpResponseBase
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_GET

from oido.assignments.queries import assignments_of_exercise
from oido.common.permissions import for_teachers
from oido.desk.class_picture import trouble_of
from oido.exercises.queries import visible_exercises
from oido.people.requests import Request


@require_GET
@for_teachers
def results(request: Request, pk: int) -> HttpResponseBase:
    """A piece of the exercise's page; by itself it leads there."""
    exercise = get_object_or_404(visible_exercises(request.user).select_related("part"), pk=pk)
    if not request.htmx:
        return redirect("exercise", pk=pk)
    assignments = [
        assignment for assignment in assignments_of_exercise(request.user, exercise) if assignment.handed_in
    ]
    context = {"exercise": exercise, "assignments": assignments, "trouble": trouble_of(exercise, assignments)}
    return render(request, "desk/_results.html", context)
