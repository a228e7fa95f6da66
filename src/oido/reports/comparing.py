"""Takes beside each other on one page, row under row."""

from collections.abc import Callable, Mapping, Sequence
from typing import Any

from django.http import HttpResponseBase, QueryDict
from django.shortcuts import redirect, render
from django.urls import reverse
from django.utils.translation import gettext as _
from django.utils.translation import pgettext

from ear.drawing.boxes import PageView
from ear.facts.facts import Facts
from oido.assignments.models import Assignment
from oido.common.screen import music_width
from oido.people.requests import Request
from oido.reports.analysed_take import AnalysedTake
from oido.reports.report import draw_rows
from oido.reports.view_options import ReportView
from oido.takes.judging import judged
from oido.takes.models import Take

ROWS_COMPARED = 400


def compared_page(
    request: Request,
    assignment: Assignment,
    takes: Sequence[Take],
    *,
    choices: Mapping[str, Sequence[tuple[str, str]]] | None = None,
) -> HttpResponseBase:
    """Return the page that compares two takes.

    `choices` are the takes that could replace the second, by their keys, in named groups.
    """
    for take in takes:
        if not judged(take).is_readable:
            # Its own page says what to do.
            return redirect("take", pk=take.pk)
    numbers = [str(take.number) for take in takes]
    is_of_one = len({take.student_id for take in takes}) == 1
    names = {take.pk: _name(take, is_of_one=is_of_one) for take in takes}
    pages = [_drawn(take, music_width(request)) for take in takes]
    rows = [
        (number, take, page, row, names[take.pk])
        for number, together in enumerate(zip(*(page.rows for page in pages), strict=False))
        for take, page, row in zip(takes, pages, together, strict=True)
    ]
    context = {
        "assignment": assignment,
        "exercise": assignment.exercise,
        "takes": [(take, names[take.pk]) for take in takes],
        "title": _("Takes %(numbers)s and %(last)s")
        % {"numbers": ", ".join(numbers[:-1]), "last": numbers[-1]}
        if is_of_one
        else _("%(a)s and %(b)s") % {"a": takes[0].student.name, "b": takes[-1].student.name},
        "choices": [
            (group, [(key, name, key == str(takes[-1].pk)) for key, name in rows])
            for group, rows in (choices or {}).items()
            if rows
        ],
        "in_turn": " ".join(reverse("take-notes", args=[take.pk]) for take in takes),
        "rows": rows,
        "figures": _figures(takes),
        "are_of_one_part": len({take.part_id for take in takes}) == 1,
    }
    return render(request, "reports/compare.html", context)


def _name(take: Take, *, is_of_one: bool) -> str:
    number = _("take %(n)s") % {"n": take.number}
    return number if is_of_one else f"{take.student.name}, {number}"


def _drawn(take: Take, screen: float) -> PageView:
    analysed = AnalysedTake(take)
    look = ReportView.of(QueryDict(), analysed, screen=screen)
    return draw_rows(analysed, look, remarks=[], count=ROWS_COMPARED).page


def _figures(takes: Sequence[Take]) -> list[tuple[str, list[Any]]]:
    """Figures of all, each under its name."""
    facts_of_takes = [judged(take).facts for take in takes]

    def row(name: str, read: Callable[[Facts], Any]) -> tuple[str, list[Any]]:
        return name, [read(facts) for facts in facts_of_takes]

    def ms(name: str, form: str = "+.0f") -> Callable[[Facts], str]:
        def read(facts: Facts) -> str:
            value = getattr(facts.figures, name)
            return "–" if value is None else f"{value:{form}} ms"

        return read

    return [
        row(_("right notes"), lambda f: f"{f.counts.matched} / {f.counts.target}"),
        row(_("wrong notes"), lambda f: f.counts.wrong_pitch),
        row(pgettext("timing", "missed"), lambda f: f.counts.missed),
        row(_("extra notes"), lambda f: f.counts.extras),
        row(_("lead (−) or lag (+)"), ms("bias_ms")),
        row(_("steadiness"), ms("spread_ms", ".0f")),
        row(_("tempo played"), lambda f: f"{f.figures.played_bpm:.0f}"),
    ]
