"""Progress of a student, for the student and for teachers; progress of a class."""

from django.core.paginator import Paginator
from django.http import HttpResponseBase
from django.shortcuts import get_object_or_404, render
from django.views.decorators.http import require_GET

from oido.assignments.queries import visible_assignments
from oido.common.permissions import for_students, for_teachers
from oido.people.models import User
from oido.people.queries import classes_seen
from oido.people.requests import Request
from oido.progress.need import class_progress
from oido.progress.progress import student_progress

ON_A_PAGE = 60
"""Students."""


@require_GET
@for_students
def own(request: Request) -> HttpResponseBase:
    return _page(request, request.user)


@require_GET
@for_teachers
def student(request: Request, pk: int) -> HttpResponseBase:
    """A student of one of the teacher's classes."""
    person = get_object_or_404(
        User.objects.filter(classes_attended__in=classes_seen(request.user)).distinct(), pk=pk
    )
    return _page(request, person)


def _page(request: Request, person: User) -> HttpResponseBase:
    asked = request.GET.get("exercise", "")
    assignments = list(visible_assignments(request.user).filter(school_class__students=person))
    chosen = next((a for a in assignments if str(a.pk) == asked), None)
    context = {
        "student": person,
        "is_own": person.pk == request.user.pk,
        "assignments": assignments,
        "chosen": chosen,
        "progress": student_progress(request.user, person, assignment=chosen),
    }
    return render(request, "progress/progress.html", context)


@require_GET
@for_teachers
def school_class(request: Request, pk: int) -> HttpResponseBase:
    shown_class = get_object_or_404(classes_seen(request.user), pk=pk)
    page = Paginator(class_progress(shown_class), ON_A_PAGE).get_page(request.GET.get("page"))
    context = {"school_class": shown_class, "page": page}
    return render(request, "progress/class_progress.html", context)
