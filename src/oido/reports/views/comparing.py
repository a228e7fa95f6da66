"""A take beside the others that were handed in with it."""

import uuid

from django.http import HttpResponseBase
from django.shortcuts import get_object_or_404, redirect
from django.views.decorators.http import require_GET

from oido.common.permissions import for_teachers
from oido.people.requests import Request
from oido.reports.comparing import compared_page
from oido.takes.queries import visible_takes


@require_GET
@for_teachers
def beside(request: Request, pk: uuid.UUID) -> HttpResponseBase:
    """A take beside the others that its student has handed in for the same assignment."""
    found = get_object_or_404(visible_takes(request.user), pk=pk)
    takes = list(
        visible_takes(request.user)
        .filter(assignment=found.assignment_id, student=found.student_id)
        .order_by("number")
    )
    if len(takes) < 2:
        return redirect("take", pk=pk)
    return compared_page(request, found.assignment, takes)
