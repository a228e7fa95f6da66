"""A take as it is fetched: a MIDI file, sound, notes to play."""

import uuid

from django.http import Http404, HttpResponse, HttpResponseBase, JsonResponse
from django.shortcuts import get_object_or_404
from django.urls import reverse
from django.utils.translation import gettext as _
from django.views.decorators.http import require_GET

from ear.formats.events import STATUS_NOTE_OFF, STATUS_NOTE_ON
from oido.exercises import audio
from oido.exercises.pages import heard_data
from oido.jobs.views import asked_for
from oido.people.requests import Request
from oido.takes.models import Take
from oido.takes.outputs import recorded_midi
from oido.takes.queries import visible_takes


@require_GET
def take_file(request: Request, pk: uuid.UUID) -> HttpResponseBase:
    """A take as a Standard MIDI File, a track for each pass, with the exercise's count-in before it."""
    take = get_object_or_404(visible_takes(request.user), pk=pk)
    response = HttpResponse(recorded_midi(take, with_count_in=True), content_type="audio/midi")
    response["Content-Disposition"] = f'attachment; filename="take-{take.number}.mid"'
    return response


@require_GET
def take_sound(request: Request, pk: uuid.UUID, ending: str) -> HttpResponseBase:
    """A take as sound."""
    if ending not in audio.FORMATS:
        raise Http404
    take = get_object_or_404(visible_takes(request.user), pk=pk)
    title = _("%(title)s, take %(n)s as sound") % {"title": take.assignment.exercise.title, "n": take.number}
    back = reverse("take", args=[pk])
    return asked_for(request, "takes.sound", title=title, back=back, take=str(pk), ending=ending)


@require_GET
def take_notes(request: Request, pk: uuid.UUID) -> HttpResponseBase:
    """What a page needs to play a take over its part, at the take's own tempo."""
    take = get_object_or_404(visible_takes(request.user), pk=pk)
    return JsonResponse({**heard_data(take.target(), take.read()), "controls": control_data(take)})


def control_data(take: Take) -> list[list[float]]:
    """Pedal, bend, modulation and pressure of a take, to be heard: [second, status, data1, data2]."""
    return [
        [round(time / 1000.0, 4), status, data1, data2]
        for events in take.standing_events()
        for time, status, data1, data2 in events
        if status & 0xF0 not in (STATUS_NOTE_ON, STATUS_NOTE_OFF)
    ]
