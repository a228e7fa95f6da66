"""Booklets of a school, one of them, and what is made of them."""

from typing import Any

from django.contrib import messages
from django.http import Http404, HttpResponse, HttpResponseBase
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.utils.text import slugify
from django.utils.translation import gettext as _
from django.views.decorators.http import require_GET, require_http_methods

from oido.booklets import services
from oido.booklets.bundle import is_booklet, read_booklet, write_booklet
from oido.booklets.forms import BookletFileForm, BookletForm, ItemForm, SetForm
from oido.booklets.models import MAX_ITEMS, Booklet, Item
from oido.booklets.queries import items_of, visible_booklets
from oido.common.methods import only_post
from oido.common.numbers import whole
from oido.common.permissions import NotAllowed, for_teachers
from oido.common.undo import with_undo
from oido.exercises.models import MAX_TITLE_LENGTH, Exercise, ImportedFile
from oido.exercises.queries import library
from oido.exercises.services import store_upload
from oido.jobs.views import asked_for
from oido.people.conventions import reader_of
from oido.people.requests import Request

MADE_AT_ONCE_NOTES = 10_000
"""Of a booklet from elsewhere, while somebody waits; a larger one is a job."""


@require_http_methods(["GET", "POST"])
@for_teachers
def booklets(request: Request) -> HttpResponseBase:
    """The list, and a new one; `exercise` in the data are put into it."""
    form = BookletForm(request.POST or None, initial={"is_shared": True})
    if request.method == "POST" and form.is_valid():
        made = services.make_booklet(
            request.user,
            title=form.cleaned_data["title"],
            text=form.cleaned_data["text"],
            exercises=_named(request),
        )
        return redirect("booklet", pk=made.pk)
    context = {"booklets": visible_booklets(request.user), "form": form, "file_form": BookletFileForm()}
    return render(request, "booklets/booklets.html", context, status=422 if form.is_bound else 200)


def _named(request: Request) -> list[Exercise]:
    """Exercises by their keys, in the order in which they are named."""
    keys = [n for n in map(whole, request.POST.getlist("exercise")) if n is not None]
    exercises_by_pk = {exercise.pk: exercise for exercise in library(request.user).filter(pk__in=keys)}
    return [exercises_by_pk[key] for key in dict.fromkeys(keys) if key in exercises_by_pk]


def _booklet(request: Request, pk: int) -> Booklet:
    return get_object_or_404(visible_booklets(request.user), pk=pk)


def _own(request: Request, pk: int) -> Booklet:
    booklet = _booklet(request, pk)
    if not services.may_manage(request.user, booklet):
        raise Http404
    return booklet


@require_http_methods(["GET", "POST"])
@for_teachers
def booklet(request: Request, pk: int) -> HttpResponseBase:
    shown_booklet = _booklet(request, pk)
    may_manage = services.may_manage(request.user, shown_booklet)
    if request.method == "POST" and not may_manage:
        raise Http404
    form = BookletForm(request.POST or None, instance=shown_booklet)
    if request.method == "POST" and form.is_valid():
        services.change(request.user, shown_booklet, **form.cleaned_data)
        messages.success(request, _("Saved."))
        return redirect("booklet", pk=pk)
    items = items_of(shown_booklet)
    context = {
        "booklet": shown_booklet, "items": items, "form": form, "may_manage": may_manage,
        "others": library(request.user).filter(retired_at=None).order_by("title") if may_manage else (),
    }  # fmt: skip
    return render(request, "booklets/booklet.html", context, status=422 if form.is_bound else 200)


@only_post
@for_teachers
def add_exercises(request: Request, pk: int) -> HttpResponseBase:
    try:
        services.add(request.user, _own(request, pk), _named(request))
    except services.TooMany:
        messages.error(request, _("A booklet has at most %(n)s exercises.") % {"n": MAX_ITEMS})
    return redirect("booklet", pk=pk)


def _item(request: Request, pk: int, number: int) -> Item:
    return get_object_or_404(
        Item.objects.select_related("booklet", "exercise"), pk=number, booklet=_own(request, pk)
    )


@require_http_methods(["GET", "POST"])
@for_teachers
def item(request: Request, pk: int, number: int) -> HttpResponseBase:
    """The words ahead of one exercise."""
    shown_item = _item(request, pk, number)
    form = ItemForm(request.POST or None, initial={"heading": shown_item.heading, "text": shown_item.text})
    if request.method == "POST" and form.is_valid():
        services.change_item(request.user, shown_item, **form.cleaned_data)
        return redirect("booklet", pk=pk)
    context = {"booklet": shown_item.booklet, "item": shown_item, "form": form}
    return render(request, "booklets/item.html", context, status=422 if form.is_bound else 200)


@only_post
@for_teachers
def move_item(request: Request, pk: int, number: int, way: str) -> HttpResponseBase:
    item = _item(request, pk, number)
    if way == "out":
        services.remove_item(request.user, item)
    else:
        services.move(request.user, item, by=-1 if way == "up" else 1)
    return redirect(reverse("booklet", args=[pk]) + "#items")


@only_post
@for_teachers
def delete(request: Request, pk: int, way: str) -> HttpResponseBase:
    rows = Booklet.objects.filter(school=request.user.school_id)
    booklet = get_object_or_404(rows, pk=pk)
    try:
        services.delete(request.user, booklet, is_deleted=way == "delete")
    except NotAllowed as problem:
        raise Http404 from problem
    if way == "delete":
        with_undo(request, _("“%(title)s” is deleted; its exercises stay.") % {"title": booklet.title}, reverse("delete-booklet", args=[pk, "restore"]))  # fmt: skip
        return redirect("booklets")
    return redirect("booklet", pk=pk)


@only_post
@for_teachers
def copy(request: Request, pk: int) -> HttpResponseBase:
    source = _booklet(request, pk)
    title = _("%(title)s, a copy") % {"title": source.title}
    made = services.copy_booklet(request.user, source, title=title[:MAX_TITLE_LENGTH])
    return redirect("booklet", pk=made.pk)


@require_GET
@for_teachers
def paper(request: Request, pk: int) -> HttpResponseBase:
    booklet = _booklet(request, pk)
    return asked_for(
        request, "booklets.paper", title=_("%(title)s, to print") % {"title": booklet.title},
        back=reverse("booklet", args=[pk]), booklet=pk, reader=request.user.pk,
    )  # fmt: skip


@require_GET
@for_teachers
def bundle(request: Request, pk: int) -> HttpResponseBase:
    booklet = _booklet(request, pk)
    response = HttpResponse(write_booklet(booklet), content_type="application/zip")
    response["Content-Disposition"] = f'attachment; filename="{slugify(booklet.title) or "booklet"}.zip"'
    return response


@require_http_methods(["GET", "POST"])
@for_teachers
def make_set(request: Request, pk: int) -> HttpResponseBase:
    """A set of variations of one exercise: look first, then they are made."""
    source = get_object_or_404(library(request.user).select_related("part"), pk=pk)
    if not source.part_in_force.read().notes:
        raise Http404
    reader = reader_of(request.user)
    form = SetForm(request.POST or None, source=source, say=lambda text: reader.say(text, {}))
    made_of: list[Any] = []
    if request.method == "POST" and form.is_valid():
        made_of = services.variations(source, form.wanted(), reader)
        if not made_of:
            form.add_error(None, _("These would all be the same as the original exercise."))
        elif "make" in request.POST:
            made = services.make_set(
                request.user, source, made_of, title=form.cleaned_data["title"],
                with_source=form.cleaned_data["with_source"],
            )  # fmt: skip
            messages.success(request, _("%(n)s exercises are made.") % {"n": len(made_of)})
            return redirect("booklet", pk=made.pk)
    context = {"source": source, "form": form, "found": made_of}
    status = 422 if form.is_bound and form.errors else 200
    return render(request, "booklets/set.html", context, status=status)


@only_post
@for_teachers
def send(request: Request) -> HttpResponseBase:
    """A booklet from elsewhere is kept until it is said that it is to be taken in."""
    form = BookletFileForm(request.POST, request.FILES)
    if not form.is_valid():
        context = {
            "booklets": visible_booklets(request.user), "form": BookletForm(initial={"is_shared": True}),
            "file_form": form,
        }  # fmt: skip
        return render(request, "booklets/booklets.html", context, status=422)
    stored = store_upload(request.user, form.cleaned_data["file"].name, form.content)
    return redirect("import-booklet", pk=stored.pk)


@require_http_methods(["GET", "POST"])
@for_teachers
def take_in(request: Request, pk: int) -> HttpResponseBase:
    """What is in it, before anything is made; then all of it is."""
    stored = get_object_or_404(ImportedFile, pk=pk, owner=request.user)
    data = bytes(stored.data)
    if not is_booklet(data):
        # A file that was sent as something else.
        raise Http404
    contents = read_booklet(data)
    if request.method == "POST":
        if contents.notes > MADE_AT_ONCE_NOTES:
            return asked_for(
                request, "booklets.take_in", title=contents.title, back=reverse("booklets"), stored=stored.pk,
                by=request.user.pk,
            )  # fmt: skip
        return redirect("booklet", pk=services.take_in(request.user, stored, contents).pk)
    titles = {item.exercise.title for item in contents.items}
    known = set(library(request.user).filter(title__in=titles).values_list("title", flat=True))
    context = {"found": contents, "stored": stored, "known": known}
    return render(request, "booklets/import.html", context)
