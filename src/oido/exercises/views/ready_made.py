"""Ready-made exercises: looked through, heard, and added to the school's own."""

from django.contrib import messages
from django.http import Http404, HttpResponseBase
from django.shortcuts import redirect, render
from django.utils.translation import gettext as _
from django.utils.translation import ngettext
from django.views.decorators.http import require_GET

from ear.drawing.page import page_view
from ear.errors import UnknownName
from ear.labels import LabelKind
from ear.library.catalogue import LIBRARY, library_piece
from ear.library.piece import GRADES, LibraryPiece
from ear.notation.engraving import notation_svg
from ear.notes import Kind
from oido.common.methods import only_post
from oido.common.notation import notation_answer
from oido.common.numbers import whole
from oido.common.permissions import for_teachers
from oido.common.readers import PAGES, reader_with
from oido.common.screen import music_width
from oido.exercises.ladder_texts import describe_ladder
from oido.exercises.models import KindChoice
from oido.exercises.pages import playing_data
from oido.exercises.ready_made import add_ready_made, already_added, pieces_of, tags_of
from oido.people.conventions import conventions_of, reader_of
from oido.people.requests import Request

LABELS = (LabelKind.FINGERS, LabelKind.WORDS, LabelKind.CHORDS)


@require_GET
@for_teachers
def ready_made(request: Request) -> HttpResponseBase:
    """All of the library, by grade and instrument; what is in the school already is linked."""
    added = already_added(request.user)
    sections = [
        {
            "grade": grade,
            "lacking": sum(piece.name not in added for piece in pieces_of(grade)),
            "columns": [
                (KindChoice(kind.value).label, [
                    (piece, tags_of(piece)[1:], added.get(piece.name)) for piece in pieces_of(grade) if piece.kind is kind
                ])
                for kind in Kind
            ],
        }
        for grade in GRADES
    ]  # fmt: skip
    return render(
        request,
        "exercises/ready_made.html",
        {
            "sections": sections,
            "count": len(LIBRARY),
            "lacking": sum(piece.name not in added for piece in LIBRARY),
        },
    )


@require_GET
@for_teachers
def ready_piece(request: Request, name: str) -> HttpResponseBase:
    """One piece: its music to see and hear, its words and its ladder."""
    piece = _get_piece(name)
    part = piece.part
    return render(
        request,
        "exercises/ready_piece.html",
        {
            "piece": piece,
            "kind": KindChoice(piece.kind.value).label,
            "part": part,
            "page": page_view(
                part, width=music_width(request), labels=LABELS, reader=reader_of(request.user)
            ),
            "playing": playing_data(part),
            "rungs": describe_ladder(piece.ladder(PAGES), part),
            "tags": tags_of(piece),
            "exercise": already_added(request.user).get(name),
        },
    )


@require_GET
@for_teachers
def ready_notation(request: Request, name: str) -> HttpResponseBase:
    """The piece drawn as notation, for its page."""
    part, conventions = _get_piece(name).part, conventions_of(request.user)

    def draw(bars: range, seed: int) -> str:
        return notation_svg(
            part,
            width=music_width(request),
            labels=LABELS,
            reader=reader_with(conventions),
            bars=bars,
            seed=seed,
        )

    return notation_answer(request, part, draw)


@only_post
@for_teachers
def add(request: Request) -> HttpResponseBase:
    """Add what is ticked, a whole grade, or everything: as the button says."""
    which = request.POST.get("which", "chosen")
    if which == "chosen":
        pieces = tuple(_get_piece(name) for name in request.POST.getlist("piece"))
        if not pieces:
            messages.error(request, _("Tick the exercises you want first."))
            return redirect("ready-made")
    elif which == "all":
        pieces = pieces_of()
    else:
        pieces = pieces_of(whole(which) or 0)
    added = add_ready_made(request.user, pieces)
    message = ngettext("%(n)s exercise was added.", "%(n)s exercises were added.", len(added))
    messages.success(request, message % {"n": len(added)})
    if len(added) == 1:
        return redirect("exercise", pk=added[0].pk)
    return redirect("exercises")


def _get_piece(name: str) -> LibraryPiece:
    try:
        return library_piece(name)
    except UnknownName as problem:
        raise Http404 from problem
