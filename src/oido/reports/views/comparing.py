"""A take beside the others that were handed in with it."""

import uuid

from django.contrib import messages
from django.http import HttpResponseBase
from django.shortcuts import get_object_or_404, redirect
from django.utils.translation import gettext as _
from django.views.decorators.http import require_GET

from oido.common.permissions import for_teachers
from oido.people.requests import Request
from oido.reports.comparing import compared_page
from oido.takes.queries import visible_takes


@require_GET
@for_teachers
def beside(request: Request, pk: uuid.UUID) -> HttpResponseBase:
    """A take beside the others that its student has handed in for the same assignment."""
    take = get_object_or_404(visible_takes(request.user), pk=pk)
    takes = list(
        visible_takes(request.user)
        .filter(assignment=take.assignment_id, student=take.student_id)
        .order_by("number")
    )
    if len(takes) < 2:
        return redirect("take", pk=pk)
    return compared_page(request, take.assignment, takes)


@require_GET
@for_teachers
def compare(request: Request, pk: uuid.UUID) -> HttpResponseBase:
    """A take with any other that was handed in for the same assignment, of the same student or of another; `with` in the
    query says with which."""
    take = get_object_or_404(visible_takes(request.user), pk=pk)
    others = (
        visible_takes(request.user)
        .filter(assignment=take.assignment_id)
        .exclude(pk=pk)
        .order_by("student__last_name", "student__first_name", "number")
    )
    own: list[tuple[str, str]] = []
    classmates: list[tuple[str, str]] = []
    rows = others.values_list("pk", "student", "student__first_name", "student__last_name", "number")
    for key, student, first, last, number in rows:
        name = _("%(name)s, take %(n)s") % {"name": f"{first} {last}".strip(), "n": number}
        (own if student == take.student_id else classmates).append((str(key), name))
    choices = {
        _("Other takes of %(name)s") % {"name": take.student.name}: own,
        _("Classmates"): classmates,
    }
    if not own and not classmates:
        messages.info(request, _("Nothing else is handed in to compare it with."))
        return redirect("take", pk=pk)
    try:
        wanted = uuid.UUID(request.GET.get("with", ""))
    except ValueError:
        wanted = uuid.UUID((own or classmates)[0][0])
    other = get_object_or_404(others, pk=wanted)
    return compared_page(request, take.assignment, [take, other], choices=choices)
