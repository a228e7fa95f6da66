"""Takes beside each other: a student's own, or the several that were handed in together."""

import uuid
from collections.abc import Callable, Sequence
from typing import Any

from django.http import Http404, HttpRequest, HttpResponseBase, QueryDict
from django.shortcuts import get_object_or_404, redirect, render
from django.utils.translation import gettext as _
from django.views.decorators.http import require_GET

from ear.drawing.boxes import PageView
from ear.facts.facts import Facts
from oido.assignments.models import Assignment
from oido.assignments.queries import visible_assignments
from oido.common.permissions import for_students, for_teachers
from oido.marking.looking import Look
from oido.marking.reading import Reading
from oido.marking.report import draw_rows
from oido.takes.judging import judged
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
    for take in takes:
        if not judged(take).is_readable:
            # Its own page says what to do.
            return redirect("take", pk=take.pk)
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
    return draw_rows(reading, look, remarks=[], count=ROWS_COMPARED).page


def _figures(takes: Sequence[Take]) -> list[tuple[str, list[Any]]]:
    """Figures of all, each under its name."""
    found = [judged(take).facts for take in takes]

    def row(name: str, read: Callable[[Facts], Any]) -> tuple[str, list[Any]]:
        return name, [read(facts) for facts in found]

    def ms(name: str, form: str = "+.0f") -> Callable[[Facts], str]:
        def read(facts: Facts) -> str:
            value = getattr(facts.figures, name)
            return "–" if value is None else f"{value:{form}} ms"

        return read

    return [
        row(_("right notes"), lambda f: f"{f.counts.matched} / {f.counts.target}"),
        row(_("wrong notes"), lambda f: f.counts.wrong_pitch),
        row(_("missed"), lambda f: f.counts.missed),
        row(_("extra notes"), lambda f: f.counts.extras),
        row(_("lead (−) or lag (+)"), ms("bias_ms")),
        row(_("steadiness"), ms("spread_ms", ".0f")),
        row(_("tempo played"), lambda f: f"{f.figures.played_bpm:.0f}"),
    ]
