"""What is done with takes in the tray."""

import uuid

from django.contrib import messages
from django.http import HttpResponseBase
from django.shortcuts import get_object_or_404, redirect, render
from django.utils.translation import gettext as _

from oido.assignments.student_terms import get_student_terms
from oido.common.methods import only_post
from oido.common.permissions import NotAllowed, for_students
from oido.people.requests import Request
from oido.stand.forms import NameForm
from oido.stand.views.stand import tray_context
from oido.takes import choosing
from oido.takes.models import Take
from oido.takes.queries import visible_takes


@only_post
@for_students
def name(request: Request, pk: uuid.UUID) -> HttpResponseBase:
    take = get_object_or_404(visible_takes(request.user), pk=pk)
    form = NameForm(request.POST)
    if not form.is_valid():
        return _answer(request, take, status=422, problem=str(form.errors["name"][0]))
    choosing.name_take(request.user, take, form.cleaned_data["name"])
    return _answer(request, take)


@only_post
@for_students
def star(request: Request, pk: uuid.UUID) -> HttpResponseBase:
    take = get_object_or_404(visible_takes(request.user), pk=pk)
    choosing.star_take(request.user, take, is_starred=not take.is_starred)
    return _answer(request, take)


@only_post
@for_students
def delete(request: Request, pk: uuid.UUID) -> HttpResponseBase:
    take = get_object_or_404(visible_takes(request.user), pk=pk)
    try:
        choosing.delete_take(request.user, take)
    except NotAllowed:
        return _answer(
            request,
            take,
            status=422,
            problem=_("A take that is handed in cannot be deleted; hand in another first."),
        )
    return _answer(request, take)


@only_post
@for_students
def restore(request: Request, pk: uuid.UUID) -> HttpResponseBase:
    take = get_object_or_404(visible_takes(request.user), pk=pk)
    choosing.restore_take(request.user, take)
    return _answer(request, take)


def _answer(request: Request, take: Take, *, status: int = 200, problem: str = "") -> HttpResponseBase:
    """The tray for htmx; the Stand for those without."""
    if not request.htmx:
        if problem:
            messages.error(request, problem)
        return redirect("stand", pk=take.assignment_id)
    context = {**tray_context(request, get_student_terms(take.assignment, request.user)), "problem": problem}
    return render(request, "stand/_takes.html", context, status=status)
