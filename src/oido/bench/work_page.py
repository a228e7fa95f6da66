"""A working copy on its page: tools used on it, and what of the page that changes."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from typing import Any

from django.contrib import messages
from django.http import Http404, HttpResponse, HttpResponseBase
from django.shortcuts import redirect, render
from django.utils.translation import gettext as _

from ear.editing.comparing import compare
from ear.editing.edited import Edited, Selection
from ear.errors import EarError
from ear.notes import Part
from ear.words.places import describe_length, describe_tick
from oido.bench.acts import acts_with
from oido.bench.page import AT_ONCE, BenchView, asked_rows, seen_rows
from oido.bench.services import Work, as_numbers
from oido.bench.tools import BY_HAND, BY_SLUG, STRIP, title_of
from oido.bench.tools.base import NO_OTHERS, VALUES, Others, Stored, Tool, named
from oido.bench.tools.playing import PlayTool
from oido.bench.tools.pointer import CellTool
from oido.bench.tools.single import TextTool
from oido.bench.would import Would
from oido.common.problems import add_problem
from oido.common.readers import reader_with
from oido.exercises.history import Change, NotAsShown
from oido.people.requests import Request

PICKING = frozenset({"touch", "pick"})
"""Tools that change nothing but what is picked."""
BY_PLACE = frozenset({PlayTool.slug})
"""Tools that put notes in by their place alone. They do so whatever the page shows: what was played is not played again."""
SHOWN_HEADER = "Part-Shown"


def _seen(request: Request, *, is_state_enough: bool = False) -> str:
    """What is shown by the page from which something is done, as `History.shown` has it; nothing if the page does not say."""
    seen: str = request.headers.get(SHOWN_HEADER) or request.POST.get("shown", "")
    return seen.partition(".")[0] if is_state_enough else seen


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
    look: BenchView
    tools: tuple[type[Tool], ...]
    """Tools with a form on the page; those that pointer and keys work are always there."""
    by_hand: tuple[type[Tool], ...] = BY_HAND
    template: str
    open_work: Callable[[], Work]
    change_work: Callable[[str, Change, str], Work]
    """What it is told last is what the page shows, where that matters: it raises NotAsShown if another thing lies there."""
    others: Others = field(default_factory=lambda: NO_OTHERS)
    stored: Stored = lambda state_id, of: None
    facts: Mapping[str, Any] = field(default_factory=dict)
    """What its templates say of where it comes from."""
    more: Callable[[Work], dict[str, object]] = lambda work: {}
    """What the whole page holds besides."""
    news: str = ""
    """A template of something on the page, made from `more`, that is said anew after each change."""

    def leaf(self, request: Request, slug: str) -> HttpResponseBase:
        """Answer with an opened tool or the part as text, for the panel beside the music, or with the whole
        page where no script asks.
        """
        tool = self._tool(slug)
        if tool not in self.tools and tool is not TextTool:
            raise Http404
        work = self.open_work()
        opened = self._fitted(tool, work)
        if not request.htmx:
            return self.whole_page(request, work, used=opened)
        template = "bench/_text.html" if tool is TextTool else "bench/_leaf.html"
        return render(request, template, {"tool": opened, "work_page": self})

    def use(self, request: Request, slug: str) -> HttpResponseBase | Work:
        """Use a tool, and answer; “look” in the data draws what it would do, and does nothing.

        For a tool that has an answer of its own (a cell of the grid) the work is given back.
        """
        used: list[Tool] = []

        def make(part: Part, selected: Selection) -> Edited:
            tool = self._tool(slug)(
                request.POST,
                part=part,
                selected=selected,
                conventions=self.look.conventions,
                others=self.others,
                stored=self.stored,
            )
            used.append(tool)
            if not tool.is_valid():
                raise ToolRefused(tool)
            try:
                return tool.apply(part, selected)
            except EarError as problem:
                add_problem(tool, problem)
                raise ToolRefused(tool) from problem

        try:
            if "look" in request.POST:
                return self._shown_before(request, make, used)
            seen = "" if slug in BY_PLACE else _seen(request, is_state_enough=slug in PICKING)
            work = self.change_work(slug, make, seen)
        except NotAsShown:
            return self._overtaken(request)
        except ToolRefused as refused:
            if "look" in request.POST:
                # It is being filled in still: what is wrong is said, and the form is left alone.
                return render(request, "bench/_not_yet.html", {"tool": refused.tool}, status=422)
            return self._refuse(request, refused.tool)
        if slug == CellTool.slug:
            return work
        # The leaf, if it was used from there, lies as it was filled in; keys leave it alone.
        leaf = used[0].after(work.part, work.selected) if "leaf" in request.POST else None
        if slug in BY_PLACE and request.htmx:
            return self.redrawn(request, work)
        return self.answer(request, work, leaf=leaf, is_pick=slug in PICKING)

    def do(self, request: Request, act: Callable[[str], Work]) -> HttpResponseBase:
        """Apply an act to what the page shows, with whatever is picked, and answer."""
        try:
            work = act(_seen(request, is_state_enough=True))
        except NotAsShown:
            return self._overtaken(request)
        return self.answer(request, work)

    def _overtaken(self, request: Request) -> HttpResponseBase:
        """The page as it is by now, and that nothing was done."""
        message = _(
            "Changed in another window. You now see the latest version; your last action was not applied."
        )
        if not request.htmx:
            messages.error(request, message)
            return redirect(self.url)
        changes = self.changes(request, self.open_work(), all_rows=True)
        response = render(request, "bench/_change.html", {**changes, "problems": [message]}, status=422)
        response["HX-Retarget"], response["HX-Reswap"] = "#pick", "outerHTML"
        return response

    def _tool(self, slug: str) -> type[Tool]:
        tool = BY_SLUG.get(slug)
        if tool is None or tool not in (*self.tools, *self.by_hand):
            raise Http404
        return tool

    def _fitted(self, tool: type[Tool], work: Work) -> Tool:
        return tool(
            part=work.part, selected=work.selected, conventions=self.look.conventions, others=self.others
        )

    def _shown_before(self, request: Request, make: Change, used: list[Tool]) -> HttpResponse:
        """The rows as they would be, and what would be done in words; nothing is stored."""
        work = self.open_work()
        work.draft.check_shown(_seen(request))
        edited = make(work.part, work.selected)
        tool = used[0]
        changed = self.look.changes(work.part, edited.part)
        new = compare(work.part, edited.part).new
        context = {
            "work_page": self,
            "part": edited.part,
            "drawing": self.look.drawing(edited.part, changed, seen=seen_rows(request), new=new),
            "starts": self.look.note_starts(edited.part),
            "would": Would.between(work.part, edited.part),
            "would_pick": as_numbers(edited.selected),
            "told": tool.foretold(work.part, work.selected),
        }
        return render(request, "bench/_look.html", context)

    def whole_page(
        self, request: Request, work: Work, *, used: Tool | None = None, status: int = 200
    ) -> HttpResponse:
        # A page that is opened is seen from its beginning. Whoever has no scripts can ask for all rows, and uses tools so.
        is_all = used is not None or request.GET.get("rows") == "all"
        seen = None if is_all else range(AT_ONCE)
        drawing = self.look.drawing(work.part, None, seen=seen)
        text: Tool | None = used if isinstance(used, TextTool) else None
        if text is None and TextTool in self.by_hand and not drawing.has_late:
            text = self._fitted(TextTool, work)
        context = {
            **self._facts(work),
            "drawing": drawing,
            "strip": self._strip(work),
            "acts": acts_with({tool.slug for tool in (*self.tools, *self.by_hand)}),
            "values": self._values(),
            "tool": used if used is not None and type(used) in self.tools else None,
            "text": text,
            **self.more(work),
        }
        return render(request, self.template, context, status=status)

    def answer(
        self, request: Request, work: Work, *, leaf: Tool | None = None, is_pick: bool = False
    ) -> HttpResponseBase:
        """Answer with what has changed: the rows to redraw and the tool just used."""
        if not request.htmx:
            return redirect(self.url)
        return render(request, "bench/_change.html", self.changes(request, work, leaf=leaf, is_pick=is_pick))

    def redrawn(self, request: Request, work: Work) -> HttpResponse:
        """Answer with all rows, after the layout or the whole part has changed."""
        return render(request, "bench/_change.html", self.changes(request, work, all_rows=True))

    def later_rows(self, request: Request) -> HttpResponse:
        """Answer with rows that were left for later, or with the whole page if the part has changed since."""
        work = self.open_work()
        if request.GET.get("state") != str(work.draft.state_id):
            return self.redrawn(request, work)
        drawing = self.look.drawing(work.part, asked_rows(request), seen=None)
        return render(
            request, "bench/_drawing.html", {"work_page": self, "part": work.part, "drawing": drawing}
        )

    def changes(
        self,
        request: Request,
        work: Work,
        *,
        leaf: Tool | None = None,
        is_pick: bool = False,
        all_rows: bool = False,
    ) -> dict[str, object]:
        nothing: frozenset[int] = frozenset()
        before = None if is_pick else work.before
        changed = nothing if before is None else self.look.changes(before, work.part)
        changed = None if all_rows else changed
        return {
            **self._facts(work),
            **(self.more(work) if self.news and not is_pick else {}),
            "drawing": self.look.drawing(work.part, changed, seen=seen_rows(request)),
            "is_pick": is_pick,
            "tool": leaf,
        }

    def _strip(self, work: Work) -> list[tuple[Any, list[tuple[str, Any]]]]:
        """What tools are for, and of each group those that serve this part: slug and title."""
        others = bool(self.others)
        grouped = [
            (
                purpose.name,
                [
                    (tool.slug, tool.title)
                    for tool in purpose.tools
                    if tool in self.tools
                    and tool.serves(work.part.instrument)
                    and (others or not tool.asks_others)
                ],
            )
            for purpose in STRIP
        ]
        return [(name, tools) for name, tools in grouped if tools]

    def _values(self) -> list[tuple[int, str]]:
        """What a new note may be, by the school's names."""
        return named(VALUES, self.look.conventions)

    def _facts(self, work: Work) -> dict[str, object]:
        """What every answer says."""
        return {
            **self.facts,
            "work_page": self,
            "work": work,
            "part": work.part,
            "picked": self._picked(work),
            "last_act": title_of(work.last_act),
            "next_act": title_of(work.next_act),
            "starts": self.look.note_starts(work.part),
        }

    def _refuse(self, request: Request, tool: Tool) -> HttpResponse:
        """The tool with what is wrong; the page of music stays as it is."""
        if not request.htmx:
            return self.whole_page(request, self.open_work(), used=tool, status=422)
        if isinstance(tool, TextTool):
            response = render(request, "bench/_text.html", {"tool": tool, "work_page": self}, status=422)
            response["HX-Retarget"] = "#tool-text"
            return response
        if type(tool) in BY_HAND:
            problems = [p for messages_of_field in tool.errors.values() for p in messages_of_field]
            return render(request, "bench/_refused.html", {"problems": problems}, status=422)
        response = render(request, "bench/_leaf.html", {"tool": tool, "work_page": self}, status=422)
        response["HX-Retarget"] = "#leaf"
        return response

    def _picked(self, work: Work) -> str:
        """What is picked, in words, for the line under the page and for screen readers."""
        part = work.part
        if not work.selected:
            return _("Nothing is picked: tools work on all %(count)s notes.") % {"count": len(part.notes)}
        if len(work.selected) > 1:
            return _("%(count)s notes are picked.") % {"count": len(work.selected)}
        (at,) = work.selected
        reader = reader_with(self.look.conventions)
        note = part.notes[at]
        return _("Picked: %(name)s, %(place)s, length %(length)s, velocity %(velocity)s.") % {
            "name": reader.sound(part, note.pitch, tick=note.onset_tick),
            "place": describe_tick(part, note.onset_tick, reader),
            "length": describe_length(note.length_tick, reader),
            "velocity": note.velocity,
        }
