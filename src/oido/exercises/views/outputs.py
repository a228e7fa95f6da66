"""An exercise in open formats: MIDI, MusicXML, a sheet to print, sound, a bundle of all of it."""

from django.http import HttpResponse, HttpResponseBase
from django.shortcuts import get_object_or_404, render
from django.urls import reverse
from django.utils.translation import gettext as _
from django.views.decorators.http import require_GET

from ear.formats.musicxml import write_compressed, write_musicxml
from ear.formats.musicxml.archive import MIMETYPE
from ear.formats.smf_writing import write_part
from ear.notation.engraving import notation_svg
from oido.common.permissions import for_teachers
from oido.exercises.background import file_name
from oido.exercises.bundle import write_bundle
from oido.exercises.models import Exercise
from oido.exercises.pages import PAGE_WIDTH
from oido.exercises.queries import visible_exercises
from oido.jobs.views import asked_for
from oido.people.conventions import conventions_of
from oido.people.requests import Request


@require_GET
@for_teachers
def midi(request: Request, pk: int) -> HttpResponseBase:
    exercise = _found(request, pk)
    return _file(exercise, write_part(exercise.part_in_force.read()), "audio/midi", "mid")


@require_GET
@for_teachers
def musicxml(request: Request, pk: int, ending: str) -> HttpResponseBase:
    """Plain (.musicxml), or compressed (.mxl)."""
    exercise = _found(request, pk)
    document = write_musicxml(exercise.part_in_force.read(), title=exercise.title)
    if ending == "mxl":
        return _file(exercise, write_compressed(document), MIMETYPE, "mxl")
    return _file(exercise, document, f"{MIMETYPE}+xml", "musicxml")


@require_GET
@for_teachers
def sheet(request: Request, pk: int) -> HttpResponseBase:
    exercise = _found(request, pk)
    return asked_for(
        request, "exercises.sheet", title=_("%(title)s, to print") % {"title": exercise.title},
        back=reverse("exercise", args=[pk]), exercise=pk, reader=request.user.pk,
    )  # fmt: skip


@require_GET
@for_teachers
def sound(request: Request, pk: int, ending: str) -> HttpResponseBase:
    exercise = _found(request, pk)
    return asked_for(
        request, "exercises.sound", title=_("%(title)s as sound") % {"title": exercise.title},
        back=reverse("exercise", args=[pk]), exercise=pk, ending=ending,
    )  # fmt: skip


@require_GET
@for_teachers
def bundle(request: Request, pk: int) -> HttpResponseBase:
    exercise = _found(request, pk)
    return _file(exercise, write_bundle(exercise), "application/zip", "zip")


@require_GET
@for_teachers
def notation(request: Request, pk: int) -> HttpResponseBase:
    """The part drawn as notation, for the page."""
    exercise = _found(request, pk)
    svg = notation_svg(
        exercise.part_in_force.read(), width=PAGE_WIDTH, labels=exercise.shown_labels,
        conventions=conventions_of(request.user),
    )  # fmt: skip
    return render(request, "ui/notation_drawn.html", {"svg": svg})


def _found(request: Request, pk: int) -> Exercise:
    return get_object_or_404(visible_exercises(request.user).select_related("part"), pk=pk)


def _file(exercise: Exercise, data: bytes, content_type: str, ending: str) -> HttpResponse:
    response = HttpResponse(data, content_type=content_type)
    response["Content-Disposition"] = f'attachment; filename="{file_name(exercise, ending)}"'
    return response
