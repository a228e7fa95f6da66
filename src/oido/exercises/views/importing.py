"""Take a part from a file: send it, see what is in it, say what to take."""

from django.contrib import messages
from django.http import Http404, HttpResponse, HttpResponseBase
from django.shortcuts import redirect, render
from django.urls import reverse
from django.utils.translation import gettext as _
from django.views.decorators.http import require_http_methods

from ear.drawing.page import page_rows, page_view
from ear.errors import EarError
from ear.file_report import describe_account
from ear.formats.importing import opened_from_json
from ear.notes import Part
from oido.common.permissions import for_teachers
from oido.common.problems import error_message
from oido.common.screen import music_width
from oido.exercises.forms.importing import ImportForm, UploadForm
from oido.exercises.models import ImportedFile
from oido.exercises.services import (
    create_exercise,
    create_from_upload,
    from_bundle,
    open_upload,
    store_upload,
)
from oido.exercises.views.opening import being_opened
from oido.people.conventions import reader_of
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
            address = reverse("import", kwargs={"pk": stored.pk})
            open_upload(request.user, stored, back=address)
            return redirect(address)
        return render(request, "exercises/new.html", {"form": form}, status=422)
    return render(request, "exercises/new.html", {"form": form})


@require_http_methods(["GET", "POST"])
@for_teachers
def import_file(request: Request, pk: int) -> HttpResponseBase:
    """What is in a file that was sent; “look” in the data draws it as it would be taken."""
    stored = ImportedFile.objects.filter(pk=pk, owner=request.user).first()
    if stored is None:
        if "look" in request.POST:
            # Asked for a moment before the exercise was made of it: there is nothing to draw any more.
            return HttpResponse(status=204)
        raise Http404
    waiting = being_opened(request, stored, send_again=reverse("new-exercise"))
    if waiting is not None:
        return waiting
    try:
        opened = opened_from_json(stored.read_contents())
    except EarError as problem:
        messages.error(request, error_message(problem))
        return redirect("new-exercise")
    if not any(choice.notes for choice in opened.choices):
        messages.error(request, _("This file holds no notes."))
        return redirect("new-exercise")
    form = ImportForm(
        request.POST or None, opened=opened, file_name=stored.name, reader=reader_of(request.user)
    )
    if request.method == "POST" and "look" in request.POST:
        form.is_valid()
        return render(
            request, "exercises/_import_preview.html", {"form": form, **_preview(form, music_width(request))}
        )
    if request.method == "POST" and form.is_valid():
        new = form.new_exercise(source_name=stored.name, source_file=bytes(stored.data))
        exercise = create_from_upload(request.user, stored, new)
        return redirect("bench", pk=exercise.pk)
    context = {"form": form, "opened": opened, "stored": stored, **_preview(form, music_width(request))}
    return render(request, "exercises/import.html", context, status=422 if form.is_bound else 200)


def _preview(form: ImportForm, width: float) -> dict[str, object]:
    taken = form.taken
    shown: dict[str, object] = {
        "part": form.part,
        "account": describe_account(
            form.opened.not_imported + (taken.not_imported if taken else ()), form.reader
        ),
    }
    part: Part | None = form.part
    if part is None or not part.notes:
        return shown
    rows = len(page_rows(part, width=width))
    page = page_view(part, width=width, only=range(PREVIEW_ROWS))
    return shown | {"page": page, "is_cut": rows > PREVIEW_ROWS}
