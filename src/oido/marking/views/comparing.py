"""Takes beside each other: a student's own, or the several that were handed in together."""

import uuid
from collections.abc import Sequence
from typing import Any

from django.http import Http404, HttpRequest, HttpResponseBase, QueryDict
from django.shortcuts import get_object_or_404, redirect, render
from django.utils.translation import gettext as _
from django.views.decorators.http import require_GET

from ear.drawing.boxes import PageView
from oido.assignments.models import Assignment
from oido.assignments.queries import visible_assignments
from oido.common.permissions import for_students, for_teachers
from oido.marking.looking import Look
from oido.marking.reading import Reading
from oido.marking.report import draw_rows
from oido.takes.models import Take
from oido.takes.queries import visible_takes
from oido.takes.tray import read_tray

ROWS_COMPARED = 400


@require_GET
@for_students
def compare(request: HttpRequest, pk: int) -> HttpResponseBase:
    """Two of one's own takes on one page, row under row."""
    assignment = get_object_or_404(visible_assignments(request.user), pk=pk)
    found = []
    for name in ("a", "b"):
        try:
            key = uuid.UUID(request.GET.get(name, ""))
        except ValueError as problem:
            raise Http404 from problem
        found.append(get_object_or_404(visible_takes(request.user), pk=key, assignment=assignment))
    if not read_tray(request.user, assignment).shows_reading:
        raise Http404
    return _page(request, assignment, found)


@require_GET
@for_teachers
def beside(request: HttpRequest, pk: uuid.UUID) -> HttpResponseBase:
    """A take beside the others that its student has handed in for the same assignment."""
    found = get_object_or_404(visible_takes(request.user), pk=pk)
    takes = list(
        visible_takes(request.user)
        .filter(assignment=found.assignment_id, student=found.student_id)
        .order_by("number")
    )
    if len(takes) < 2:
        return redirect("take", pk=pk)
    return _page(request, found.assignment, takes)


def _page(request: HttpRequest, assignment: Assignment, takes: Sequence[Take]) -> HttpResponseBase:
    pages = [_drawn(take) for take in takes]
    rows = [
        (number, take, page, row)
        for number, together in enumerate(zip(*(page.rows for page in pages), strict=False))
        for take, page, row in zip(takes, pages, together, strict=True)
    ]
    numbers = [str(take.number) for take in takes]
    context = {
        "assignment": assignment,
        "exercise": assignment.exercise,
        "takes": takes,
        "title": _("Takes %(numbers)s and %(last)s")
        % {"numbers": ", ".join(numbers[:-1]), "last": numbers[-1]},
        "rows": rows,
        "figures": _figures(takes),
        "are_of_one_part": len({take.part_id for take in takes}) == 1,
    }
    return render(request, "marking/compare.html", context)


def _drawn(take: Take) -> PageView:
    reading = Reading(take)
    look = Look.of(QueryDict(), reading)
    return draw_rows(reading, look, for_teacher=False, remarks=[], count=ROWS_COMPARED).page


def _figures(takes: Sequence[Take]) -> list[tuple[str, list[Any]]]:
    """Figures of all, each under its name."""
    results = [take.measurement.result for take in takes]

    def row(name: str, read: Any) -> tuple[str, list[Any]]:
        return name, [read(result) for result in results]

    def ms(name: str) -> Any:
        return lambda r: "–" if r["measures"][name] is None else f"{r['measures'][name]:+.0f} ms"

    return [
        row(_("right notes"), lambda r: f"{r['measures']['counts']['matched']} / {r['measures']['counts']['target']}"),
        row(_("wrong keys"), lambda r: r["measures"]["counts"]["wrong_pitch"]),
        row(_("missed"), lambda r: r["measures"]["counts"]["missed"]),
        row(_("more than written"), lambda r: r["measures"]["counts"]["extras"]),
        row(_("lead (−) or lag (+)"), ms("bias_ms")),
        row(_("steadiness"), lambda r: "–" if r["measures"]["spread_ms"] is None else f"{r['measures']['spread_ms']:.0f} ms"),
        row(_("tempo played"), lambda r: f"{r['measures']['played_bpm']:.0f}"),
    ]  # fmt: skip
