from typing import Any

from django.http import Http404, HttpRequest, HttpResponse, HttpResponseBase
from django.shortcuts import get_object_or_404, redirect, render
from django.utils.translation import gettext as _
from django.views.decorators.http import require_GET, require_http_methods, require_POST

from ear.errors import EarError
from ear.notes import sound_name
from oido.bench import services
from oido.bench.forms import BeginForm
from oido.bench.services import Work
from oido.bench.tools import BY_SLUG, SEEN_FIRST, tools_for
from oido.bench.tools.base import Tool
from oido.bench.tools.shaping import QuantiseTool
from oido.common.permissions import for_teachers
from oido.exercises.models import Exercise
from oido.exercises.pages import playing_data, target_page
from oido.exercises.queries import visible_exercises
from oido.exercises.services import create_exercise


@require_http_methods(["GET", "POST"])
@for_teachers
def begin(request: HttpRequest) -> HttpResponseBase:
    """A new exercise from an empty page or a pattern."""
    form = BeginForm(request.POST or None, initial={"way": "fingers"})
    if request.method == "POST":
        if form.is_valid():
            exercise = create_exercise(request.user, form.new_exercise())
            return redirect("bench", pk=exercise.pk)
        return render(request, "bench/begin.html", {"form": form}, status=422)
    return render(request, "bench/begin.html", {"form": form})


PICKING = frozenset({"touch", "pick"})
"""Tools that change nothing but what is picked."""


@require_GET
@for_teachers
def bench(request: HttpRequest, pk: int) -> HttpResponseBase:
    exercise = _own(request, pk)
    work = services.open_draft(request.user, exercise)
    return render(request, "bench/bench.html", _context(exercise, work))


@require_POST
@for_teachers
def use_tool(request: HttpRequest, pk: int, slug: str) -> HttpResponseBase:
    """Use a tool; “look” in the data shows what quantising would do, and does nothing."""
    exercise = _own(request, pk)
    if slug not in BY_SLUG:
        raise Http404
    work = services.open_draft(request.user, exercise)
    tool = BY_SLUG[slug](request.POST, part=work.part, selected=work.selected)
    if not tool.is_valid():
        return _answer(request, exercise, work, used=tool, status=422)
    try:
        if "look" in request.POST and isinstance(tool, QuantiseTool):
            return _answer(request, exercise, work, used=tool, looked=True)
        work = services.change(request.user, exercise, slug, tool.apply)
    except EarError as problem:
        tool.add_error(None, str(problem))
        return _answer(request, exercise, work, used=tool, status=422)
    if request.htmx and slug in PICKING:
        return _answer_pick(request, exercise, work)
    return _answer(request, exercise, work, used=tool.after(work.part, work.selected))


@require_POST
@for_teachers
def step(request: HttpRequest, pk: int, way: str) -> HttpResponseBase:
    exercise = _own(request, pk)
    work = services.step(request.user, exercise, by=-1 if way == "undo" else 1)
    return _answer(request, exercise, work)


@require_POST
@for_teachers
def keep(request: HttpRequest, pk: int) -> HttpResponseBase:
    exercise = _own(request, pk)
    services.keep(request.user, exercise)
    if request.htmx:
        return _answer(request, exercise, services.open_draft(request.user, exercise))
    return redirect("exercise", pk=pk)


def _own(request: HttpRequest, pk: int) -> Exercise:
    """The exercise, if it is the teacher's own; others of the school are not changed."""
    exercise = get_object_or_404(visible_exercises(request.user).select_related("part"), pk=pk)
    if not services.may_edit(request.user, exercise):
        raise Http404
    return exercise


def _answer_pick(request: HttpRequest, exercise: Exercise, work: Work) -> HttpResponseBase:
    """Picking leaves the page of music as it is: only what is picked goes back, and the note's card."""
    context = {
        "exercise": exercise, "work": work, "picked": _picked(work), "tools": tools_for(work.part, work.selected),
        "open": _open(work),
    }  # fmt: skip
    response = render(request, "bench/_picked_alone.html", context)
    response["HX-Retarget"] = "#pick"
    response["HX-Reswap"] = "outerHTML"
    return response


def _open(work: Work, used: Tool | None = None) -> frozenset[str]:
    """Tools that lie open: the first ones, the one just used, the card of a note that is picked."""
    card = {"note"} if len(work.selected) == 1 else set()
    return SEEN_FIRST | card | ({used.slug} if used is not None else set())


def _answer(
    request: HttpRequest,
    exercise: Exercise,
    work: Work,
    *,
    used: Tool | None = None,
    looked: bool = False,
    status: int = 200,
) -> HttpResponse | HttpResponseBase:
    if not request.htmx and status == 200 and not looked:
        return redirect("bench", pk=exercise.pk)
    template = "bench/_work.html" if request.htmx else "bench/bench.html"
    return render(request, template, _context(exercise, work, used=used, looked=looked), status=status)


def _context(
    exercise: Exercise, work: Work, *, used: Tool | None = None, looked: bool = False
) -> dict[str, Any]:
    part = work.part
    tools = [
        used if used is not None and used.slug == tool.slug else tool
        for tool in tools_for(part, work.selected)
    ]
    return {
        "exercise": exercise,
        "work": work,
        "part": part,
        "page": target_page(part),
        "playing": playing_data(part),
        "tools": tools,
        "open": _open(work, used),
        "picked": _picked(work),
        "last_act": BY_SLUG[work.last_act].title if work.last_act else "",
        "next_act": BY_SLUG[work.next_act].title if work.next_act else "",
        "moves": _moves(work, used) if looked and isinstance(used, QuantiseTool) else None,
    }


def _picked(work: Work) -> str:
    """What is picked, in words, for the line under the page and for screen readers."""
    part = work.part
    if not work.selected:
        return _("Nothing is picked: tools work on all %(count)s notes.") % {"count": len(part.notes)}
    if len(work.selected) > 1:
        return _("%(count)s notes are picked.") % {"count": len(work.selected)}
    (at,) = work.selected
    note = part.notes[at]
    place = part.meters.position(note.onset_tick)
    return _(
        "Picked: %(name)s in bar %(bar)s, beat %(beat)s, %(length)s ticks long, strength %(velocity)s."
    ) % {
        "name": sound_name(part, note.pitch),
        "bar": place.bar,
        "beat": place.beat if not place.tick else f"{place.beat} + {place.tick}",
        "length": note.length_tick,
        "velocity": note.velocity,
    }


def _moves(work: Work, tool: QuantiseTool) -> dict[str, Any]:
    """What quantising would do: how many notes, how far, and which are unclear."""
    moves = [m for m in tool.moves(work.part, work.selected) if m.to_tick != m.from_tick]
    rows = [
        {
            "name": sound_name(work.part, work.part.notes[m.note].pitch),
            "place": work.part.meters.position(m.from_tick),
            "ticks": m.to_tick - m.from_tick,
            "is_unclear": m.is_unclear,
        }
        for m in sorted(moves, key=lambda m: (not m.is_unclear, -abs(m.to_tick - m.from_tick)))
    ]
    return {"rows": rows[:12], "count": len(rows), "unclear": sum(r["is_unclear"] for r in rows)}
