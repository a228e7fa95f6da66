from django.http import HttpRequest, HttpResponse, HttpResponseBase
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_GET, require_http_methods

from ear.formats.smf import write_part
from oido.assignments.forms import GiveForm
from oido.assignments.queries import assignments_of_exercise
from oido.common.permissions import for_teachers
from oido.exercises.forms import ExerciseForm
from oido.exercises.pages import playing_data, target_page
from oido.exercises.queries import visible_exercises
from oido.exercises.services import create_exercise


@require_GET
@for_teachers
def exercise_list(request: HttpRequest) -> HttpResponseBase:
    exercises = visible_exercises(request.user).order_by("kind", "title")
    return render(request, "exercises/list.html", {"exercises": exercises})


@require_http_methods(["GET", "POST"])
@for_teachers
def new_exercise(request: HttpRequest) -> HttpResponseBase:
    form = ExerciseForm(request.POST or None, request.FILES or None)
    if request.method == "POST":
        if form.is_valid():
            exercise = create_exercise(request.user, form.new_exercise())
            return redirect("exercise", pk=exercise.pk)
        return render(request, "exercises/new.html", {"form": form}, status=422)
    return render(request, "exercises/new.html", {"form": form})


@require_GET
@for_teachers
def exercise(request: HttpRequest, pk: int) -> HttpResponseBase:
    found = get_object_or_404(visible_exercises(request.user), pk=pk)
    part = found.part.read()
    return render(
        request,
        "exercises/exercise.html",
        {
            "exercise": found,
            "part": part,
            "page": target_page(part),
            "playing": playing_data(part),
            "assignments": assignments_of_exercise(request.user, found),
            "give_form": GiveForm(teacher=request.user),
        },
    )


@require_GET
@for_teachers
def exercise_file(request: HttpRequest, pk: int) -> HttpResponseBase:
    """The target part as a Standard MIDI File."""
    found = get_object_or_404(visible_exercises(request.user), pk=pk)
    response = HttpResponse(write_part(found.part.read()), content_type="audio/midi")
    response["Content-Disposition"] = f'attachment; filename="exercise-{found.pk}.mid"'
    return response
