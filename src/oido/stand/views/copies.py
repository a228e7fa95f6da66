"""A take's corrected copy: the Bench's page and tools on what a student has played."""

import uuid

from django.contrib import messages
from django.http import Http404, HttpResponseBase, JsonResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.utils.translation import gettext as _
from django.views.decorators.http import require_GET, require_http_methods

from oido.bench.page import BenchView, layout_of
from oido.bench.services import Work
from oido.bench.tools import BY_SLUG
from oido.bench.tools.base import Tool
from oido.bench.tools.pointer import DragTool, WeighTool
from oido.bench.tools.single import DeleteTool, PasteTool, TouchTool
from oido.bench.work_page import WorkPage
from oido.common.methods import only_post
from oido.common.permissions import NotAllowed, for_students
from oido.common.readers import reader_with
from oido.exercises.history import Change
from oido.exercises.pages import playing_data
from oido.people.conventions import conventions_of
from oido.people.requests import Request
from oido.takes import copies
from oido.takes.corrections import summarise_corrections
from oido.takes.models import Take
from oido.takes.queries import visible_takes
from oido.takes.showing import lines_of, showing_of

TOOLS = tuple(
    BY_SLUG[slug] for slug in ("pick", "note", "quantise", "clean", "move", "length", "velocity", "bars")
)
"""Those that change notes and bars."""
BY_HAND: tuple[type[Tool], ...] = (TouchTool, DragTool, WeighTool, PasteTool, DeleteTool)


@require_GET
@for_students
def copy(request: Request, pk: uuid.UUID) -> HttpResponseBase:
    """The copy on its page; begun from the take when it is first opened."""
    take = _correctable(request, pk)
    work = copies.open_copy(request.user, take)
    return _work_page(request, take).whole_page(request, work)


@require_GET
@for_students
def later_rows(request: Request, pk: uuid.UUID) -> HttpResponseBase:
    return _work_page(request, _correctable(request, pk)).later_rows(request)


@require_GET
@for_students
def playing(request: Request, pk: uuid.UUID) -> HttpResponseBase:
    take = _correctable(request, pk)
    work = copies.open_copy(request.user, take)
    return JsonResponse(playing_data(work.part, take.read()))


@require_http_methods(["GET", "POST"])
@for_students
def use_tool(request: Request, pk: uuid.UUID, slug: str) -> HttpResponseBase:
    take = _correctable(request, pk)
    if request.method == "GET":
        return _work_page(request, take).leaf(request, slug)
    try:
        answer = _work_page(request, take).use(request, slug)
    except copies.IsHandedIn:
        return _handed_in(request, take)
    assert not isinstance(answer, Work), "only the grid has an answer of its own"
    return answer


@only_post
@for_students
def step(request: Request, pk: uuid.UUID, way: str) -> HttpResponseBase:
    take = _correctable(request, pk)
    by = -1 if way == "undo" else 1
    try:
        return _work_page(request, take).do(
            request, lambda seen: copies.step_copy(request.user, take, by=by, seen=seen)
        )
    except copies.IsHandedIn:
        return _handed_in(request, take)


@only_post
@for_students
def drop(request: Request, pk: uuid.UUID) -> HttpResponseBase:
    """Without the copy, as it was recorded."""
    take = _correctable(request, pk)
    copies.discard_copy(request.user, take)
    messages.success(
        request, _("The corrected copy is deleted. Take %(n)s is unchanged.") % {"n": take.number}
    )
    return redirect("stand", pk=take.assignment_id)


def _handed_in(request: Request, take: Take) -> HttpResponseBase:
    """Said on the page that is still open."""
    message = _("This take is handed in: its copy stays as your teacher has it.")
    if not request.htmx:
        messages.error(request, message)
        return redirect("stand", pk=take.assignment_id)
    return render(request, "bench/_refused.html", {"problems": [message]}, status=422)


def _correctable(request: Request, pk: uuid.UUID) -> Take:
    take = get_object_or_404(visible_takes(request.user), pk=pk)
    if not copies.may_correct(request.user, take):
        raise Http404
    return take


def _work_page(request: Request, take: Take) -> WorkPage:
    conventions = conventions_of(request.user)

    def more(work: Work) -> dict[str, object]:
        # Read afresh: the copy has just been changed.
        now = copies.fresh(take)
        return {
            "corrections": summarise_corrections(now, reader_with(conventions)),
            "showing": lines_of(showing_of(now, take.exercise.recording_rules)),
        }

    def change(act: str, make: Change, seen: str) -> Work:
        try:
            return copies.change_copy(request.user, take, act, make, seen=seen)
        except copies.IsHandedIn:
            raise
        except NotAllowed as problem:
            raise Http404 from problem

    return WorkPage(
        url=reverse("copy", kwargs={"pk": take.pk}),
        label=_("Corrected copy of take %(n)s") % {"n": take.number},
        look=BenchView(labels=frozenset(), conventions=conventions, layout=layout_of(request)),
        tools=TOOLS,
        by_hand=BY_HAND,
        template="stand/copy.html",
        stored=lambda state_id, of: None if of else copies.stored(request.user, take, state_id),
        open_work=lambda: copies.open_copy(request.user, take),
        change_work=change,
        facts={
            "exercise": take.exercise, "take": take, "bar_end": "stand/_copy_state.html",
            "assignment": take.assignment,
        },
        more=more,
        news="stand/_copy_news.html",
    )  # fmt: skip
