"""Take a part from a file: send it, see what is in it, say what to take."""

from django.contrib import messages
from django.http import HttpResponseBase
from django.shortcuts import get_object_or_404, redirect, render
from django.utils.translation import gettext as _
from django.views.decorators.http import require_http_methods

from ear.drawing.page import page_rows, page_view
from ear.errors import EarError
from ear.formats.importing import open_file
from ear.notes import Part
from oido.common.permissions import for_teachers
from oido.common.problems import said
from oido.exercises.forms.importing import ImportForm, UploadForm
from oido.exercises.models import ImportedFile
from oido.exercises.pages import PAGE_WIDTH
from oido.exercises.services import create_exercise, from_bundle, store_upload
from oido.people.requests import Request

PREVIEW_ROWS = 3


@require_http_methods(["GET", "POST"])
@for_teachers
def upload(request: Request) -> HttpResponseBase:
    form = UploadForm(request.POST or None, request.FILES or None)
    if request.method == "POST":
        if form.is_valid():
            if form.bundled is not None:
                exercise = create_exercise(request.user, from_bundle(form.bundled))
                return redirect("exercise", pk=exercise.pk)
            stored = store_upload(request.user, form.cleaned_data["file"].name, form.content)
            return redirect("import", pk=stored.pk)
        return render(request, "exercises/new.html", {"form": form}, status=422)
    return render(request, "exercises/new.html", {"form": form})


@require_http_methods(["GET", "POST"])
@for_teachers
def import_file(request: Request, pk: int) -> HttpResponseBase:
    """What is in a file that was sent; “look” in the data draws it as it would be taken."""
    stored = get_object_or_404(ImportedFile, pk=pk, owner=request.user)
    data = bytes(stored.data)
    try:
        opened = open_file(data)
    except EarError as problem:
        # Sent when more was taken for a file than is today.
        messages.error(request, _("This file cannot be read: %(problem)s.") % {"problem": said(problem)})
        return redirect("new-exercise")
    form = ImportForm(request.POST or None, opened=opened)
    if request.method == "POST" and "look" in request.POST:
        form.is_valid()
        return render(request, "exercises/_import_preview.html", _preview(form.part))
    if request.method == "POST" and form.is_valid():
        exercise = create_exercise(request.user, form.new_exercise(source_name=stored.name, source_file=data))
        stored.delete()
        return redirect("bench", pk=exercise.pk)
    first = form.part if form.is_bound else opened.part(opened.first_choice(opened.kind), kind=opened.kind)
    context = {"form": form, "opened": opened, "stored": stored, **_preview(first)}
    return render(request, "exercises/import.html", context, status=422 if form.is_bound else 200)


def _preview(part: Part | None) -> dict:
    if part is None or not part.notes:
        return {"part": part}
    rows = len(page_rows(part, width=PAGE_WIDTH))
    page = page_view(part, width=PAGE_WIDTH, only=range(PREVIEW_ROWS))
    return {"part": part, "page": page, "is_cut": rows > PREVIEW_ROWS}
