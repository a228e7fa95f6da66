"""A take's report on paper: one or two pages that a parent can read, with notation."""

import base64
import re

from django.template.loader import render_to_string
from django.utils.translation import gettext as _

from ear.conventions import Conventions
from ear.findings.kind import FOR_STUDENT
from ear.findings.rendering import render_finding
from ear.judging.working import describe_ceiling
from ear.reader import Reader
from oido.exercises.printed import SHEET_WIDTH, fonts_url, for_print, write_pdf
from oido.feedback.things_to_do import things_to_do
from oido.marking.models import Remark
from oido.reports.analysed_take import AnalysedTake
from oido.reports.notation import notated
from oido.reports.report import describe_bars_controls

PAGE_HEIGHT = 940.0
"""px at 96 to the inch that a page has for the music: A4 without its margins and a line of text."""
SHRINKS = (1.0, 1.25, 1.5, 1.75, 2.0, 2.5, 3.0)
"""A long part is drawn smaller until it fits a page."""
VIEW_BOX = re.compile(r'viewBox="0 0 (?P<width>[\d.]+) (?P<height>[\d.]+)"')
STYLE = """<style>.head-mark{fill:black;stroke:black;stroke-width:26}.head-mark.is-wrong,.head-mark.is-missed{fill:none;stroke-width:34}
.head-mark.is-missed{stroke-dasharray:70 50}.went-missed .notehead{opacity:.35}</style>"""


def report_pdf(analysed: AnalysedTake, remarks: list[Remark], reader: Reader) -> bytes:
    """Return the report of a take whose mark may be seen as a PDF, in the reader's conventions."""
    take, mark = analysed.take, analysed.judgement
    svg = for_print(_fitting(analysed, reader.conventions)).replace("<defs>", f"{STYLE}<defs>", 1)
    context = {
        "take": take,
        "exercise": take.exercise,
        "part": analysed.part,
        "sheet": take.sheet,
        "mark": mark,
        "ceiling": describe_ceiling(mark.ceiling, reader) if mark.ceiling else None,
        "rubric": analysed.rubric,
        "facts": analysed.facts,
        "figures": analysed.facts.figures,
        "counts": analysed.facts.counts,
        "praise": [
            render_finding(finding, FOR_STUDENT, reader, played_on=take.played_on)
            for finding in analysed.judgement.praise
        ],
        "to_do": things_to_do(take.student, take, reader),
        "remarks": remarks,
        "controls": describe_bars_controls(analysed, reader),
        "notation": "data:image/svg+xml;base64," + base64.b64encode(svg.encode()).decode(),
        "fonts": fonts_url(),
        "foot": _("%(name)s, %(title)s") % {"name": take.student.name, "title": take.exercise.title},
    }
    return write_pdf(render_to_string("reports/paper.html", context))


def _fitting(analysed: AnalysedTake, conventions: Conventions) -> str:
    """The notation as large as a page holds it."""
    svg = ""
    for shrink in SHRINKS:
        svg = notated(analysed, conventions, width=SHEET_WIDTH * shrink)
        box = VIEW_BOX.search(svg)
        if box is None or float(box["height"]) / float(box["width"]) * SHEET_WIDTH <= PAGE_HEIGHT:
            break
    return svg
