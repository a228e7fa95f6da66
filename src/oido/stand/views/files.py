"""An exercise as files for its student: to print, to hear, to open elsewhere. Not where it is to be found out by ear."""

from django.http import Http404, HttpResponseBase
from django.urls import reverse
from django.views.decorators.http import require_GET

from oido.assignments.student_terms import StudentTerms
from oido.common.permissions import for_students
from oido.exercises.background import file_name
from oido.exercises.exports import BY_FILE, EXPORTS, FOR_TEACHERS
from oido.exercises.models import Exercise
from oido.jobs.exports import Export
from oido.people.requests import Request
from oido.stand.lookup import student_terms_or_404
from oido.takes.hearing import is_hidden


def part_exports(request: Request, student_terms: StudentTerms) -> list[Export[Exercise]]:
    """Return what a student can download of the part; nothing where there is no part to show."""
    is_free = student_terms.exercise.part_in_force.free is not None
    if is_free or student_terms.is_trial or is_hidden(request.user, student_terms):
        return []
    offered = [export for line in EXPORTS for export in line if export.file not in FOR_TEACHERS]
    return [export for export in offered if export.applies_to(student_terms.exercise)]


@require_GET
@for_students
def part_file(request: Request, pk: int, file: str) -> HttpResponseBase:
    """One of the files of the part: at once, or when its job is done."""
    student_terms = student_terms_or_404(request, pk)
    wanted = BY_FILE[file]
    if wanted not in part_exports(request, student_terms):
        raise Http404
    exercise = student_terms.exercise
    return wanted.answer(
        request, exercise, file_name=file_name(exercise, wanted.ending), names={"title": exercise.title},
        back=reverse("stand", args=[pk]), exercise=exercise.pk,
    )  # fmt: skip
