"""Watch an assignment: a list that follows what students do."""

from django.http import HttpResponse, HttpResponseBase
from django.shortcuts import get_object_or_404, render
from django.utils import timezone
from django.views.decorators.http import require_GET

from oido.assignments.queries import visible_assignments
from oido.assignments.student_terms import is_open
from oido.common.permissions import for_teachers
from oido.desk.watching import watch as watched
from oido.people.requests import Request


@require_GET
@for_teachers
def watch(request: Request, pk: int) -> HttpResponseBase:
    """The page; for a script that has it (`seen` in the query) only what is new, or nothing."""
    assignment = get_object_or_404(visible_assignments(request.user), pk=pk)
    state = watched(assignment)
    if request.htmx and request.GET.get("seen") == state.imprint:
        return HttpResponse(status=204)
    context = {
        "assignment": assignment,
        "watch": state,
        "is_open": is_open(assignment),
        "now": timezone.now(),
    }
    return render(request, "desk/_watch.html" if request.htmx else "desk/watch.html", context)
