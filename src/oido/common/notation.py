"""Drawn notation as an answer: a long part comes in pieces, each when it is scrolled to."""

from collections.abc import Callable

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import render

from ear.notation.pieces import bar_pieces
from ear.notes import Part
from oido.common.numbers import whole

Draw = Callable[[range, int], str]
"""SVG of some bars, and a seed that keeps the ids of one piece apart from those of the others."""


def notation_answer(request: HttpRequest, part: Part, draw: Draw) -> HttpResponse:
    """Answer with the piece of notation that `piece` in the query names, and with where the next one is."""
    pieces, number = bar_pieces(part), whole(request.GET.get("piece", "0"))
    if number is None or not 0 <= number < len(pieces):
        raise Http404
    query = request.GET.copy()
    query["piece"] = str(number + 1)
    following = f"{request.path}?{query.urlencode()}" if number + 1 < len(pieces) else ""
    svg = draw(pieces[number], 1 + number)
    return render(request, "ui/notation_drawn.html", {"svg": svg, "following": following})
