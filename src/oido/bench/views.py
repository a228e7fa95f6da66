from collections.abc import Callable, Iterator, Mapping
from functools import cached_property

from django.contrib import messages
from django.db.models import QuerySet
from django.http import Http404, HttpResponse, HttpResponseBase, JsonResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.utils.translation import gettext as _
from django.views.decorators.http import require_GET, require_http_methods

from ear.notation.engraving import notation_svg
from ear.notes import Part
from oido.bench import services
from oido.bench.forms import BeginForm, GridForm
from oido.bench.page import BenchView, layout_of
from oido.bench.services import Work
from oido.bench.tools import TOOLS
from oido.bench.tools.playing import PlayTool
from oido.bench.versions import versions_of
from oido.bench.work_page import WorkPage
from oido.common.methods import only_post
from oido.common.notation import notation_answer
from oido.common.numbers import whole
from oido.common.permissions import for_teachers
from oido.common.readers import reader_with
from oido.common.sources import instruments
from oido.exercises.models import Exercise
from oido.exercises.pages import playing_data
from oido.exercises.queries import library, own_exercises
from oido.exercises.services import create_exercise
from oido.people.conventions import conventions_of
from oido.people.requests import Request


@require_http_methods(["GET", "POST"])
@for_teachers
def begin(request: Request) -> HttpResponseBase:
    """A new exercise from an empty page or a pattern."""
    form = BeginForm(
        request.POST or None, conventions=conventions_of(request.user), initial={"way": "fingers"}
    )
    if request.method == "POST":
        if form.is_valid():
            exercise = create_exercise(request.user, form.new_exercise(), is_begun=True)
            return redirect("bench", pk=exercise.pk)
        return render(request, "bench/begin.html", {"form": form}, status=422)
    return render(request, "bench/begin.html", {"form": form})


@require_GET
@for_teachers
def bench(request: Request, pk: int) -> HttpResponseBase:
    exercise = _own(request, pk)
    work = services.open_draft(request.user, exercise)
    return _work_page(request, exercise).whole_page(request, work)


@require_GET
@for_teachers
def later_rows(request: Request, pk: int) -> HttpResponseBase:
    return _work_page(request, _own(request, pk)).later_rows(request)


@require_GET
@for_teachers
def playing(request: Request, pk: int) -> HttpResponseBase:
    """What the page's player needs of the part as it lies on the Bench."""
    work = services.open_draft(request.user, _own(request, pk))
    # Passes may be played on lanes that the part has not yet.
    return JsonResponse(playing_data(work.part, left_handed=request.user.left_handed, whole_kit=True))


@require_GET
@for_teachers
def notation(request: Request, pk: int) -> HttpResponseBase:
    """The part as it lies on the Bench, drawn as notation."""
    exercise = _own(request, pk)
    work = services.open_draft(request.user, exercise)
    look = _look(request, exercise)

    def draw(bars: range, seed: int) -> str:
        return notation_svg(
            work.part, width=look.width, labels=look.labels, reader=reader_with(look.conventions), bars=bars, seed=seed
        )  # fmt: skip

    return notation_answer(request, work.part, draw)


@require_GET
@for_teachers
def grid(request: Request, pk: int) -> HttpResponseBase:
    """Some bars as a grid of steps."""
    exercise = _own(request, pk)
    work = services.open_draft(request.user, exercise)
    return _grid(request, exercise, work)


@require_http_methods(["GET", "POST"])
@for_teachers
def use_tool(request: Request, pk: int, slug: str) -> HttpResponseBase:
    """A tool as it is opened; used; or, with “look” in the data, what it would do."""
    exercise = _own(request, pk)
    if request.method == "GET":
        return _work_page(request, exercise).leaf(request, slug)
    answer = _work_page(request, exercise).use(request, slug)
    return _grid(request, exercise, answer) if isinstance(answer, Work) else answer


@only_post
@for_teachers
def step(request: Request, pk: int, way: str) -> HttpResponseBase:
    exercise = _own(request, pk)
    by = -1 if way == "undo" else 1
    return _work_page(request, exercise).do(
        request, lambda seen: services.step(request.user, exercise, by=by, seen=seen)
    )


@only_post
@for_teachers
def save(request: Request, pk: int) -> HttpResponseBase:
    exercise = _own(request, pk)

    def kept(seen: str) -> Work:
        services.save_work(request.user, exercise, seen=seen)
        return services.open_draft(request.user, exercise)

    answer = _work_page(request, exercise).do(request, kept)
    return answer if request.htmx else redirect("exercise", pk=pk)


@only_post
@for_teachers
def set_labels(request: Request, pk: int) -> HttpResponseBase:
    """Which labels the exercise's page shows."""
    exercise = _own(request, pk)
    services.set_labels(request.user, exercise, request.POST.getlist("labels"))
    if not request.htmx:
        return redirect("bench", pk=pk)
    work = services.open_draft(request.user, exercise)
    return _work_page(request, exercise).redrawn(request, work)


@only_post
@for_teachers
def discard(request: Request, pk: int) -> HttpResponseBase:
    exercise = _own(request, pk)
    services.discard_unsaved(request.user, exercise)
    messages.success(request, _("“%(title)s” is discarded.") % {"title": exercise.title})
    return redirect("exercises")


@require_GET
@for_teachers
def versions(request: Request, pk: int) -> HttpResponseBase:
    """What was saved before, with what changed from one to the next; one of them is drawn."""
    exercise = _own(request, pk)
    lines = versions_of(exercise, _look(request, exercise), shown=whole(request.GET.get("version", "")))
    context = {"exercise": exercise, "part": exercise.part_in_force.read(), **lines}
    return render(request, "bench/versions.html", context)


@only_post
@for_teachers
def restore(request: Request, pk: int, number: int) -> HttpResponseBase:
    """A version on the Bench again, to be saved or undone there."""
    exercise = _own(request, pk)
    services.restore_version(request.user, exercise, get_object_or_404(exercise.parts, number=number))
    return redirect("bench", pk=pk)


def _own(request: Request, pk: int) -> Exercise:
    """The exercise, if it is the teacher's own; others of the school are not changed."""
    # The part is read from the Bench: what is stored of the exercise's own is asked for only where it is wanted.
    own = own_exercises(request.user).select_related("part").defer("part__data", "part__source_file")
    exercise = get_object_or_404(own, pk=pk)
    is_free = exercise.part is not None and exercise.part.free is not None
    if is_free or not services.may_edit(request.user, exercise):
        raise Http404
    return exercise


class _Others(Mapping[str, tuple[str, Callable[[], Part]]]):
    """The school's other exercises of a kind; asked for only if a tool looks at them."""

    def __init__(self, request: Request, exercise: Exercise) -> None:
        self.request = request
        self.exercise = exercise

    @cached_property
    def exercises(self) -> QuerySet[Exercise]:
        return library(self.request.user).filter(kind=self.exercise.kind).exclude(pk=self.exercise.pk)

    @cached_property
    def titles(self) -> dict[str, str]:
        return {str(pk): title for pk, title in self.exercises.order_by("title").values_list("pk", "title")}

    def __getitem__(self, key: str) -> tuple[str, Callable[[], Part]]:
        return self.titles[
            key
        ], lambda: self.exercises.select_related("part").get(pk=key).part_in_force.read()

    def __iter__(self) -> Iterator[str]:
        return iter(self.titles)

    def __len__(self) -> int:
        return len(self.titles)


def _look(request: Request, exercise: Exercise) -> BenchView:
    origin = exercise.variation_of.read() if exercise.variation_of else None
    return BenchView(
        labels=exercise.shown_labels,
        conventions=conventions_of(request.user),
        origin=origin,
        layout=layout_of(request),
    )


def _work_page(request: Request, exercise: Exercise) -> WorkPage:
    look = _look(request, exercise)

    def more(work: Work) -> dict[str, object]:
        return {
            "label_choices": exercise.label_choices,
            "sources": instruments(),
            "play": PlayTool(part=work.part, conventions=look.conventions),
            "grid": GridForm.for_part(work.part, look.conventions),
        }

    return WorkPage(
        url=reverse("bench", kwargs={"pk": exercise.pk}),
        label=_("The part of %(title)s on the Bench") % {"title": exercise.title},
        look=look,
        tools=TOOLS,
        template="bench/bench.html",
        open_work=lambda: services.open_draft(request.user, exercise),
        change_work=lambda act, make, seen: services.change(request.user, exercise, act, make, seen=seen),
        others=_Others(request, exercise),
        stored=lambda state_id, of: services.stored(
            request.user, _own(request, int(of)) if of.isdecimal() else exercise, state_id
        ),
        facts={"exercise": exercise},
        more=more,
    )


def _grid(request: Request, exercise: Exercise, work: Work) -> HttpResponse:
    """The grid, with what it has changed on the page if that is what was asked."""
    form = GridForm(request.POST or request.GET, part=work.part, conventions=conventions_of(request.user))
    page = _work_page(request, exercise)
    context = (
        page.changes(request, work) if request.method == "POST" else {"work_page": page, "exercise": exercise}
    )
    context |= {
        "grid": form,
        "steps": form.grid(),
        "conventions": conventions_of(request.user),
        "part": work.part,
    }
    return render(request, "bench/_grid.html", context, status=200 if form.is_valid() else 422)
