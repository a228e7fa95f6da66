"""A working copy on its page: tools used on it, and what of the page that changes."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from typing import Any

from django.http import Http404, HttpResponse, HttpResponseBase
from django.shortcuts import redirect, render
from django.utils.translation import gettext as _

from ear.editing.edited import Edited, Selection
from ear.errors import EarError
from ear.notes import Part
from oido.bench.page import Look, note_starts
from oido.bench.services import Work
from oido.bench.tools import BY_HAND, BY_SLUG, SEEN_FIRST
from oido.bench.tools.base import NO_OTHERS, Others, Tool
from oido.bench.tools.shaping import QuantiseTool
from oido.bench.tools.single import NoteTool
from oido.common.problems import add_problem
from oido.exercises.history import Change
from oido.people.requests import Request

PICKING = frozenset({"touch", "pick"})
"""Tools that change nothing but what is picked."""


class ToolRefused(Exception):
    """A tool is not filled in well, or the core refuses what it asks."""

    def __init__(self, tool: Tool) -> None:
        self.tool = tool


@dataclass(frozen=True, slots=True, kw_only=True)
class WorkPage:
    """Where a working copy is worked on. `open_work` reads it, `change_work` does something to it."""

    url: str
    """Of its page; what is done is asked for below it."""
    label: str
    """The page of music in words."""
    look: Look
    tools: tuple[type[Tool], ...]
    """Tools with a form on the page; those that pointer and keys work are always there."""
    by_hand: tuple[type[Tool], ...] = BY_HAND
    template: str
    open_work: Callable[[], Work]
    change_work: Callable[[str, Change], Work]
    others: Others = field(default_factory=lambda: NO_OTHERS)
    facts: Mapping[str, Any] = field(default_factory=dict)
    """What its templates say of where it comes from."""
    more: Callable[[Work], dict[str, Any]] = lambda work: {}
    """What the whole page holds besides."""
    news: str = ""
    """A template of something on the page, made from `more`, that is said anew after each change."""

    def use(self, request: Request, slug: str) -> HttpResponseBase | Work:
        """Use a tool, and answer; “look” in the data shows what quantising would do, and does nothing.

        For a tool that has an answer of its own (a cell of the grid) the work is given back.
        """
        if slug not in BY_SLUG or BY_SLUG[slug] not in (*self.tools, *self.by_hand):
            raise Http404
        used: list[Tool] = []

        def make(part: Part, selected: Selection) -> Edited:
            tool = BY_SLUG[slug](
                request.POST,
                part=part,
                selected=selected,
                conventions=self.look.conventions,
                others=self.others,
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
                add_problem(tool, problem)
                raise ToolRefused(tool) from problem

        try:
            work = self.change_work(slug, make)
        except ToolRefused as refused:
            return self._refuse(request, refused.tool)
        if slug == "cell":
            return work
        tool = used[0] if "look" in request.POST else used[0].after(work.part, work.selected)
        return self.answer(request, work, used=tool, is_pick=slug in PICKING)

    def whole_page(
        self, request: Request, work: Work, *, used: Tool | None = None, status: int = 200
    ) -> HttpResponse:
        page = self.look.page(work.part)
        context = {
            **self._facts(work, used),
            "page": page,
            "rows": [(row.box.index, row) for row in page.rows],
            "tools": [
                used if used is not None and used.slug == tool.slug else tool for tool in self._tools(work)
            ],
            **self.more(work),
        }
        return render(request, self.template, context, status=status)

    def answer(
        self, request: Request, work: Work, *, used: Tool | None = None, is_pick: bool = False
    ) -> HttpResponseBase:
        """What has changed on the page, and nothing else: rows that are drawn anew, the tool just used."""
        if not request.htmx:
            if isinstance(used, QuantiseTool) and used.looked_at:
                return self.whole_page(request, work, used=used)
            return redirect(self.url)
        return render(request, "bench/_change.html", self.changes(work, used=used, is_pick=is_pick))

    def changes(self, work: Work, *, used: Tool | None = None, is_pick: bool = False) -> dict[str, Any]:
        nothing: frozenset[int] = frozenset()
        before = None if is_pick else work.before
        changed = nothing if before is None else self.look.changes(before, work.part)
        page = self.look.page(work.part, only=changed) if changed is None or changed else None
        tools: list[Tool] = [
            NoteTool(part=work.part, selected=work.selected, conventions=self.look.conventions)
        ]
        if used is not None and not is_pick and used.slug != "note" and type(used) not in BY_HAND:
            tools.append(used)
        return {
            **self._facts(work, used),
            **(self.more(work) if self.news and not is_pick else {}),
            "page": page,
            "rows": [(row.box.index, row) for row in page.rows] if page else [],
            "is_whole": changed is None,
            "is_pick": is_pick,
            "tools": tools,
        }

    def _tools(self, work: Work) -> list[Tool]:
        return [
            tool(
                part=work.part, selected=work.selected, conventions=self.look.conventions, others=self.others
            )
            for tool in self.tools
            if tool.serves(work.part.instrument) and (self.others or not tool.asks_others)
        ]

    def _facts(self, work: Work, used: Tool | None = None) -> dict[str, Any]:
        """What every answer says."""
        return {
            **self.facts,
            "work_page": self,
            "work": work,
            "part": work.part,
            "picked": self._picked(work),
            "open": _open(work, used),
            "last_act": BY_SLUG[work.last_act].title if work.last_act else "",
            "next_act": BY_SLUG[work.next_act].title if work.next_act else "",
            "moves": used.looked_at if isinstance(used, QuantiseTool) else None,
            "starts": note_starts(work.part),
        }

    def _refuse(self, request: Request, tool: Tool) -> HttpResponse:
        """The tool with what is wrong; the page of music stays as it is."""
        if not request.htmx:
            return self.whole_page(request, self.open_work(), used=tool, status=422)
        if type(tool) in BY_HAND:
            problems = [p for found in tool.errors.values() for p in found]
            return render(request, "bench/_refused.html", {"problems": problems}, status=422)
        context = {"tool": tool, "work_page": self, "open": {tool.slug}}
        response = render(request, "bench/_tool.html", context, status=422)
        response["HX-Retarget"] = f"#tool-{tool.slug}"
        return response

    def _picked(self, work: Work) -> str:
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
            "Picked: %(name)s in bar %(bar)s, beat %(beat)s, %(length)s ticks long, velocity %(velocity)s."
        ) % {
            "name": self.look.conventions.sound(part, note.pitch, tick=note.onset_tick),
            "bar": place.bar,
            "beat": place.beat if not place.tick else f"{place.beat} + {place.tick}",
            "length": note.length_tick,
            "velocity": note.velocity,
        }


def _open(work: Work, used: Tool | None = None) -> frozenset[str]:
    """Tools that lie open: the first ones, the one just used, the card of a note that is picked."""
    card = {"note"} if len(work.selected) == 1 else set()
    return SEEN_FIRST | card | ({used.slug} if used is not None else set())
