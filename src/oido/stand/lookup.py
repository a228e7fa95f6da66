"""What a student is given, as this student has it; and what a teacher looks at as a student would have it."""

from collections.abc import Callable
from functools import wraps

from django.http import HttpResponseBase
from django.shortcuts import get_object_or_404

from ear.formats.part_json import part_to_json
from oido.assignments.queries import visible_assignments
from oido.assignments.student_terms import StudentTerms, get_student_terms, trial_terms
from oido.bench.services import part_on_bench
from oido.common.permissions import for_students, for_teachers
from oido.exercises.models import TargetPart
from oido.exercises.queries import visible_exercises
from oido.people.requests import Request

FROM_BENCH = "from-bench"
WAYS = ("as-student", FROM_BENCH)
"""What a teacher looks at: the exercise as it is saved, or as it lies on the Bench."""

Shown = Callable[[Request, StudentTerms], HttpResponseBase]


def student_terms_or_404(request: Request, pk: int) -> StudentTerms:
    return get_student_terms(get_object_or_404(visible_assignments(request.user), pk=pk), request.user)


def trial_or_404(request: Request, pk: int, way: str) -> StudentTerms:
    exercise = get_object_or_404(visible_exercises(request.user).select_related("part"), pk=pk)
    part = part_on_bench(request.user, exercise) if way == FROM_BENCH else None
    if part is not None:
        exercise.part = TargetPart(
            exercise=exercise, data=part_to_json(part), free=exercise.part_in_force.free
        )
    return trial_terms(exercise)


def way_of(request: Request) -> str:
    """Return how a teacher came to open the page; empty for anybody else."""
    match = request.resolver_match
    return str(match.kwargs.get("way", "")) if match else ""


def to_students(view: Shown) -> Callable[..., HttpResponseBase]:
    """Let the view serve what a student was given."""

    @for_students
    @wraps(view)
    def shown(request: Request, pk: int) -> HttpResponseBase:
        return view(request, student_terms_or_404(request, pk))

    return shown


def to_teachers(view: Shown) -> Callable[..., HttpResponseBase]:
    """Let the view serve a teacher the same page as a student would have it. Nothing is stored."""

    @for_teachers
    @wraps(view)
    def shown(request: Request, pk: int, way: str) -> HttpResponseBase:
        return view(request, trial_or_404(request, pk, way))

    return shown
