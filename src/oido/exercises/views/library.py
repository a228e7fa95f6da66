"""The library: exercises found, and what is done with one or several of them."""

from collections.abc import Callable
from typing import Any

from django.contrib import messages
from django.core.paginator import Paginator
from django.db.models import QuerySet
from django.http import HttpResponseBase
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.utils.translation import gettext as _
from django.utils.translation import ngettext
from django.views.decorators.http import require_GET

from ear.formats.characters import has_control_characters
from oido.common.methods import only_post
from oido.common.numbers import whole
from oido.common.permissions import NotAllowed, for_teachers
from oido.common.undo import with_undo
from oido.exercises import lifecycle
from oido.exercises.models import MAX_TITLE_LENGTH, Exercise
from oido.exercises.queries import begun, library, visible_exercises
from oido.exercises.search import Search, choices, exercises_matching
from oido.people.requests import Request

ON_A_PAGE = 40
MessageFor = Callable[[int], str]


@require_GET
@for_teachers
def exercise_list(request: Request) -> HttpResponseBase:
    search = Search.of(request.GET)
    pages = Paginator(exercises_matching(request.user, search), ON_A_PAGE)
    shown = pages.get_page(request.GET.get("page"))
    context = {
        "search": search,
        "page": shown,
        "count": pages.count,
        "choices": choices(request.user),
        "begun": begun(request.user),
        "may_manage": {exercise.pk for exercise in shown if lifecycle.may_manage(request.user, exercise)},
    }
    return render(request, "exercises/list.html", context)


@only_post
@for_teachers
def copy(request: Request, pk: int) -> HttpResponseBase:
    source = get_object_or_404(visible_exercises(request.user).select_related("part"), pk=pk)
    title = _("%(title)s, a copy") % {"title": source.title}
    made = lifecycle.copy_exercise(request.user, source, title=title[:MAX_TITLE_LENGTH])
    messages.success(request, _("This is your copy of “%(title)s”.") % {"title": source.title})
    return redirect("exercise", pk=made.pk)


def _tag(request: Request, exercises: list[Exercise]) -> str:
    name = request.POST.get("tag", "").strip()
    if not name:
        raise _Refused(_("Write the tag first."))
    if has_control_characters(name):
        raise _Refused(_("There is a character in this tag that cannot be printed."))
    try:
        lifecycle.add_tag(request.user, exercises, name)
    except lifecycle.TooManyTags as problem:
        raise _Refused(_("An exercise has at most %(n)s tags.") % {"n": lifecycle.MAX_TAGS}) from problem
    return _("Tagged “%(tag)s”.") % {"tag": name}


def _untag(request: Request, exercises: list[Exercise]) -> str:
    for exercise in exercises:
        tag = exercise.tags.filter(pk=whole(request.POST.get("tag", "")) or 0).first()
        if tag is not None:
            lifecycle.remove_tag(request.user, exercise, tag)
    return _("Tag removed.")


def _share(request: Request, exercises: list[Exercise]) -> str:
    lifecycle.share(request.user, exercises, is_shared=True)
    return _("It is now shared with colleagues in the library.")


def _stop_sharing(request: Request, exercises: list[Exercise]) -> str:
    lifecycle.share(request.user, exercises, is_shared=False)
    return _("Only you find it in the library now.")


def _retire(request: Request, exercises: list[Exercise]) -> str:
    lifecycle.retire(request.user, exercises, is_retired=True)
    return ngettext("One exercise is retired.", "%(n)s exercises are retired.", len(exercises)) % {
        "n": len(exercises)
    }


def _use_again(request: Request, exercises: list[Exercise]) -> str:
    lifecycle.retire(request.user, exercises, is_retired=False)
    return ngettext(
        "One exercise is available again.", "%(n)s exercises are available again.", len(exercises)
    ) % {"n": len(exercises)}


def _delete(request: Request, exercises: list[Exercise]) -> str:
    try:
        lifecycle.delete(request.user, exercises)
    except lifecycle.StillAssigned as problem:
        raise _Refused(
            _("“%(title)s” is given to a class now. Withdraw it first, on its page.") % {"title": problem}
        ) from problem
    return ngettext("One exercise is deleted.", "%(n)s exercises are deleted.", len(exercises)) % {
        "n": len(exercises)
    }


def _restore(request: Request, exercises: list[Exercise]) -> str:
    lifecycle.restore_exercises(request.user, exercises)
    return ngettext("One exercise is restored.", "%(n)s exercises are restored.", len(exercises)) % {
        "n": len(exercises)
    }


class _Refused(Exception):
    """It is not done; the words say why."""


ACTS: dict[str, tuple[Callable[[Request, list[Exercise]], str], str]] = {
    "tag": (_tag, ""), "untag": (_untag, ""), "share": (_share, "keep"), "keep": (_stop_sharing, "share"),
    "retire": (_retire, "use-again"), "use-again": (_use_again, "retire"),
    "delete": (_delete, "bring-back"), "bring-back": (_restore, ""),
}  # fmt: skip
"""What can be done with exercises, each with what undoes it."""


@only_post
@for_teachers
def act(request: Request, act: str) -> HttpResponseBase:
    """Do one thing with the exercises named; back to where it was asked."""
    do, undo = ACTS[act]
    keys = [n for n in map(whole, request.POST.getlist("exercise")) if n is not None]
    readable: QuerySet[Any] = (
        visible_exercises(request.user) if act == "bring-back" else library(request.user)
    )
    chosen = list(readable.filter(pk__in=keys))
    back = reverse("exercises") + f"?{Search.of(request.GET).query}".rstrip("?")
    if "page" in request.POST and len(chosen) == 1 and act != "delete":
        back = reverse("exercise", args=[chosen[0].pk])
    if not chosen:
        messages.error(request, _("Tick the exercises first."))
        return redirect(back)
    try:
        message = do(request, chosen)
    except _Refused as problem:
        messages.error(request, str(problem))
    except NotAllowed:
        messages.error(request, _("Only its owner or a head changes an exercise. Make a copy of it instead."))
    else:
        fields = {
            "exercise": [exercise.pk for exercise in chosen],
            **({"page": 1} if "page" in request.POST else {}),
        }
        with_undo(request, message, reverse("act-on-exercises", args=[undo]) if undo else "", fields)
    return redirect(back)
