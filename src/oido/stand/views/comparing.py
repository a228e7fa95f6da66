"""A student's own takes beside each other."""

import uuid

from django.http import Http404, HttpResponseBase
from django.shortcuts import get_object_or_404
from django.views.decorators.http import require_GET

from oido.common.permissions import for_students
from oido.people.requests import Request
from oido.reports.comparing import compared_page
from oido.stand.lookup import student_terms_or_404
from oido.stand.tray import read_tray
from oido.takes.queries import visible_takes


@require_GET
@for_students
def compare(request: Request, pk: int) -> HttpResponseBase:
    """Two of one's own takes on one page, row under row."""
    student_terms = student_terms_or_404(request, pk)
    takes = []
    for name in ("a", "b"):
        try:
            key = uuid.UUID(request.GET.get(name, ""))
        except ValueError as problem:
            raise Http404 from problem
        takes.append(
            get_object_or_404(visible_takes(request.user), pk=key, assignment=student_terms.assignment)
        )
    if not read_tray(request.user, student_terms).shows_analysis:
        raise Http404
    return compared_page(request, student_terms.assignment, takes)
