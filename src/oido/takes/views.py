"""A take as it is fetched: a MIDI file, sound, notes to play."""

import uuid

from django.http import Http404, HttpResponse, HttpResponseBase, JsonResponse
from django.shortcuts import get_object_or_404
from django.urls import reverse
from django.utils.translation import gettext as _
from django.views.decorators.http import require_GET

from ear.formats.events import STATUS_NOTE_OFF, STATUS_NOTE_ON
from oido.assignments.models import BookletAssignment
from oido.exercises.audio import Tags
from oido.exercises.pages import heard_data
from oido.jobs.views import asked_for
from oido.people.models import User
from oido.people.requests import Request
from oido.takes.exports import BY_FILE
from oido.takes.hearing import is_take_hidden
from oido.takes.models import Take
from oido.takes.outputs import take_tags, takes_together, together_midi
from oido.takes.queries import visible_takes

MIDI = "mid"


@require_GET
def export(request: Request, pk: uuid.UUID, file: str) -> HttpResponseBase:
    """One of the files of the table: at once, or when its job is done."""
    take, wanted = get_object_or_404(visible_takes(request.user), pk=pk), BY_FILE[file]
    return wanted.answer(
        request, take, file_name=take_tags(take).file_name(wanted.ending),
        names={"title": take.assignment.exercise.title, "n": take.number}, back=reverse("take", args=[pk]), take=str(pk),
    )  # fmt: skip


@require_GET
def take_notes(request: Request, pk: uuid.UUID) -> HttpResponseBase:
    """What a page needs to play a take over its part, at the take's own tempo."""
    take = get_object_or_404(visible_takes(request.user), pk=pk)
    target = take.target()
    if not request.user.is_teacher and is_take_hidden(take):
        target = target.with_notes(()).lasting(len(target.bars))
    return JsonResponse({**heard_data(target, take.read()), "controls": control_data(take)})


def control_data(take: Take) -> list[list[float]]:
    """Pedal, bend, modulation and pressure of a take, to be heard: [second, status, data1, data2]."""
    return [
        [round(time / 1000.0, 4), status, data1, data2]
        for events in take.standing_events()
        for time, status, data1, data2 in events
        if status & 0xF0 not in (STATUS_NOTE_ON, STATUS_NOTE_OFF)
    ]


def together_answer(
    request: Request, assigned: BookletAssignment, student: User, ending: str, *, back: str
) -> HttpResponseBase:
    """What a student has handed in of a booklet as one recording: a MIDI file at once, a sound file as a job."""
    if ending != MIDI:
        title = _("%(name)s: %(title)s") % {"name": student.name, "title": assigned}
        return asked_for(
            request,
            "takes.together",
            title=title,
            back=back,
            given=assigned.pk,
            student=student.pk,
            ending=ending,
        )
    takes = takes_together(student, assigned)
    if not takes:
        raise Http404
    response = HttpResponse(together_midi(takes), content_type="audio/midi")
    name = Tags(title=str(assigned), artist=student.name).file_name(MIDI)
    response["Content-Disposition"] = f'attachment; filename="{name}"'
    return response
