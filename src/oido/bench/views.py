from collections.abc import Callable, Iterator, Mapping
from functools import cached_property
from typing import Any

from django.http import Http404, HttpRequest, HttpResponse, HttpResponseBase, JsonResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils.translation import gettext as _
from django.views.decorators.http import require_GET, require_http_methods, require_POST

from ear.editing.edited import Edited, Selection
from ear.errors import EarError
from ear.notation.engraving import notation_svg
from ear.notes import Part
from oido.bench import services
from oido.bench.forms import BeginForm, GridForm
from oido.bench.page import Look, note_starts
from oido.bench.services import Work
from oido.bench.tools import BY_HAND, BY_SLUG, SEEN_FIRST, tools_for
from oido.bench.tools.base import Tool
from oido.bench.tools.playing import PlayTool
from oido.bench.tools.shaping import QuantiseTool
from oido.bench.tools.single import NoteTool
from oido.common.permissions import for_teachers
from oido.exercises.models import Exercise
from oido.exercises.pages import PAGE_WIDTH, playing_data
from oido.exercises.queries import visible_exercises
from oido.exercises.services import create_exercise
from oido.people.conventions import conventions_of

PICKING = frozenset({"touch", "pick"})
"""Tools that change nothing but what is picked."""


class ToolRefused(Exception):
    """A tool is not filled in well, or the core refuses what it asks."""

    def __init__(self, tool: Tool) -> None:
        self.tool = tool


@require_http_methods(["GET", "POST"])
@for_teachers
def begin(request: HttpRequest) -> HttpResponseBase:
    """A new exercise from an empty page or a pattern."""
    form = BeginForm(
        request.POST or None, conventions=conventions_of(request.user), initial={"way": "fingers"}
    )
    if request.method == "POST":
        if form.is_valid():
            exercise = create_exercise(request.user, form.new_exercise())
            return redirect("bench", pk=exercise.pk)
        return render(request, "bench/begin.html", {"form": form}, status=422)
    return render(request, "bench/begin.html", {"form": form})


@require_GET
@for_teachers
def bench(request: HttpRequest, pk: int) -> HttpResponseBase:
    exercise = _own(request, pk)
    work = services.open_draft(request.user, exercise)
    return _whole_page(request, exercise, work)


@require_GET
@for_teachers
def playing(request: HttpRequest, pk: int) -> HttpResponseBase:
    """What the page's player needs of the part as it lies on the Bench."""
    work = services.open_draft(request.user, _own(request, pk))
    # Passes may be played on lanes that the part has not yet.
    return JsonResponse(playing_data(work.part, left_handed=request.user.left_handed, whole_kit=True))


@require_GET
@for_teachers
def notation(request: HttpRequest, pk: int) -> HttpResponseBase:
    """The part as it lies on the Bench, drawn as notation."""
    exercise = _own(request, pk)
    work = services.open_draft(request.user, exercise)
    look = _look(request, exercise)
    svg = notation_svg(work.part, width=PAGE_WIDTH, labels=look.labels, conventions=look.conventions)
    return render(request, "ui/notation_drawn.html", {"svg": svg})


@require_GET
@for_teachers
def grid(request: HttpRequest, pk: int) -> HttpResponseBase:
    """Some bars as a grid of steps."""
    exercise = _own(request, pk)
    work = services.open_draft(request.user, exercise)
    return _grid(request, exercise, work)


@require_POST
@for_teachers
def use_tool(request: HttpRequest, pk: int, slug: str) -> HttpResponseBase:
    """Use a tool; “look” in the data shows what quantising would do, and does nothing."""
    exercise = _own(request, pk)
    if slug not in BY_SLUG:
        raise Http404
    used: list[Tool] = []
    conventions, others = conventions_of(request.user), _Others(request, exercise)

    def make(part: Part, selected: Selection) -> Edited:
        tool = BY_SLUG[slug](
            request.POST, part=part, selected=selected, conventions=conventions, others=others
        )
        used.append(tool)
        if not tool.is_valid():
            raise ToolRefused(tool)
        try:
            if "look" in request.POST and isinstance(tool, QuantiseTool):
                tool.looked_at = tool.look(part, selected)
                return Edited(part=part, selected=selected)
            return tool.apply(part, selected)
        except EarError as problem:
            tool.add_error(None, str(problem))
            raise ToolRefused(tool) from problem

    try:
        work = services.change(request.user, exercise, slug, make)
    except ToolRefused as refused:
        return _refuse(request, exercise, refused.tool)
    if slug == "cell":
        return _grid(request, exercise, work)
    tool = used[0] if "look" in request.POST else used[0].after(work.part, work.selected)
    return _answer(request, exercise, work, used=tool, is_pick=slug in PICKING)


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


@require_POST
@for_teachers
def set_labels(request: HttpRequest, pk: int) -> HttpResponseBase:
    """Which labels the exercise's page shows."""
    exercise = _own(request, pk)
    services.set_labels(request.user, exercise, request.POST.getlist("labels"))
    work = services.open_draft(request.user, exercise)
    return _whole_page(request, exercise, work) if request.htmx else redirect("bench", pk=pk)


def _own(request: HttpRequest, pk: int) -> Exercise:
    """The exercise, if it is the teacher's own; others of the school are not changed."""
    exercise = get_object_or_404(
        visible_exercises(request.user).select_related("part", "variation_of"), pk=pk
    )
    if not services.may_edit(request.user, exercise):
        raise Http404
    return exercise


class _Others(Mapping[str, tuple[str, Callable[[], Part]]]):
    """The school's other exercises of a kind; asked for only if a tool looks at them."""

    def __init__(self, request: HttpRequest, exercise: Exercise) -> None:
        self.found = visible_exercises(request.user).filter(kind=exercise.kind).exclude(pk=exercise.pk)

    @cached_property
    def titles(self) -> dict[str, str]:
        return {str(pk): title for pk, title in self.found.order_by("title").values_list("pk", "title")}

    def __getitem__(self, key: str) -> tuple[str, Callable[[], Part]]:
        return self.titles[key], lambda: self.found.select_related("part").get(pk=key).part.read()

    def __iter__(self) -> Iterator[str]:
        return iter(self.titles)

    def __len__(self) -> int:
        return len(self.titles)


def _look(request: HttpRequest, exercise: Exercise) -> Look:
    origin = exercise.variation_of.read() if exercise.variation_of else None
    return Look(labels=exercise.shown_labels, conventions=conventions_of(request.user), origin=origin)


def _open(work: Work, used: Tool | None = None) -> frozenset[str]:
    """Tools that lie open: the first ones, the one just used, the card of a note that is picked."""
    card = {"note"} if len(work.selected) == 1 else set()
    return SEEN_FIRST | card | ({used.slug} if used is not None else set())


def _facts(request: HttpRequest, exercise: Exercise, work: Work, used: Tool | None = None) -> dict[str, Any]:
    """What every answer of the Bench says."""
    return {
        "exercise": exercise,
        "work": work,
        "part": work.part,
        "picked": _picked(request, work),
        "open": _open(work, used),
        "last_act": BY_SLUG[work.last_act].title if work.last_act else "",
        "next_act": BY_SLUG[work.next_act].title if work.next_act else "",
        "moves": used.looked_at if isinstance(used, QuantiseTool) else None,
        "starts": note_starts(work.part),
    }


def _whole_page(
    request: HttpRequest, exercise: Exercise, work: Work, *, used: Tool | None = None, status: int = 200
) -> HttpResponse:
    look = _look(request, exercise)
    page = look.page(work.part)
    tools = [
        used if used is not None and used.slug == tool.slug else tool
        for tool in tools_for(work.part, work.selected, look.conventions, _Others(request, exercise))
    ]
    context = {
        **_facts(request, exercise, work, used),
        "page": page,
        "rows": [(row.box.index, row) for row in page.rows],
        "tools": tools,
        "label_choices": exercise.label_choices,
        "play": PlayTool(part=work.part, conventions=look.conventions),
        "grid": GridForm.for_part(work.part, look.conventions),
    }
    return render(request, "bench/bench.html", context, status=status)


def _answer(
    request: HttpRequest, exercise: Exercise, work: Work, *, used: Tool | None = None, is_pick: bool = False
) -> HttpResponseBase:
    """What has changed on the page, and nothing else: rows that are drawn anew, the tool just used."""
    if not request.htmx:
        if isinstance(used, QuantiseTool) and used.looked_at:
            return _whole_page(request, exercise, work, used=used)
        return redirect("bench", pk=exercise.pk)
    return render(
        request, "bench/_change.html", _changes(request, exercise, work, used=used, is_pick=is_pick)
    )


def _changes(
    request: HttpRequest, exercise: Exercise, work: Work, *, used: Tool | None = None, is_pick: bool = False
) -> dict[str, Any]:
    look = _look(request, exercise)
    changed = look.changes(work.before, work.part) if work.before is not None and not is_pick else frozenset()
    page = look.page(work.part, only=changed) if changed is None or changed else None
    tools: list[Tool] = [NoteTool(part=work.part, selected=work.selected, conventions=look.conventions)]
    if used is not None and not is_pick and used.slug != "note" and type(used) not in BY_HAND:
        tools.append(used)
    return {
        **_facts(request, exercise, work, used),
        "page": page,
        "rows": [(row.box.index, row) for row in page.rows] if page else [],
        "is_whole": changed is None,
        "is_pick": is_pick,
        "tools": tools,
    }


def _grid(request: HttpRequest, exercise: Exercise, work: Work) -> HttpResponse:
    """The grid, with what it has changed on the page if that is what was asked."""
    form = GridForm(request.POST or request.GET, part=work.part, conventions=conventions_of(request.user))
    context = _changes(request, exercise, work) if request.method == "POST" else {"exercise": exercise}
    context |= {
        "grid": form,
        "steps": form.grid(),
        "conventions": conventions_of(request.user),
        "part": work.part,
    }
    return render(request, "bench/_grid.html", context, status=200 if form.is_valid() else 422)


def _refuse(request: HttpRequest, exercise: Exercise, tool: Tool) -> HttpResponse:
    """The tool with what is wrong; the page of music stays as it is."""
    if not request.htmx:
        work = services.open_draft(request.user, exercise)
        return _whole_page(request, exercise, work, used=tool, status=422)
    if type(tool) in BY_HAND:
        problems = [p for found in tool.errors.values() for p in found]
        return render(request, "bench/_refused.html", {"problems": problems}, status=422)
    response = render(
        request, "bench/_tool.html", {"tool": tool, "exercise": exercise, "open": {tool.slug}}, status=422
    )
    response["HX-Retarget"] = f"#tool-{tool.slug}"
    return response


def _picked(request: HttpRequest, work: Work) -> str:
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
        "name": conventions_of(request.user).sound(part, note.pitch, tick=note.onset_tick),
        "bar": place.bar,
        "beat": place.beat if not place.tick else f"{place.beat} + {place.tick}",
        "length": note.length_tick,
        "velocity": note.velocity,
    }
