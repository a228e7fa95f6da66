"""A take as it is fetched: a MIDI file, sound, notes to play."""

import uuid

from django.http import HttpRequest, HttpResponse, HttpResponseBase, JsonResponse
from django.shortcuts import get_object_or_404, render
from django.views.decorators.http import require_GET

from ear.formats.events import STATUS_NOTE_OFF, STATUS_NOTE_ON
from ear.formats.smf_writing import write_recording
from oido.exercises import audio
from oido.exercises.audio import NoSound
from oido.exercises.pages import playing_data
from oido.takes.models import Take
from oido.takes.queries import visible_takes


@require_GET
def take_file(request: HttpRequest, pk: uuid.UUID) -> HttpResponseBase:
    """A take as a Standard MIDI File, a track for each pass, with the exercise's count-in before it."""
    take = get_object_or_404(visible_takes(request.user), pk=pk)
    return _file(take, _midi(take, count_in_bars=_count_in(take)), "audio/midi", "mid")


@require_GET
def take_sound(request: HttpRequest, pk: uuid.UUID, ending: str) -> HttpResponseBase:
    """A take as sound, from bar 1 to the end of part and take."""
    take = get_object_or_404(visible_takes(request.user), pk=pk)
    part = take.target()
    length_s = max(
        part.tempos.second_at(part.bars[-1].end_tick),
        *(n.onset_s + n.length_s for n in take.read().notes),
        0.0,
    )
    try:
        data = audio.render_midi(_midi(take), kind=part.kind, length_s=length_s, ending=ending)
    except NoSound as problem:
        context = {"exercise": take.assignment.exercise, "problem": problem}
        return render(request, "exercises/no_sound.html", context, status=422)
    return _file(take, data, audio.TYPES[ending], ending)


def _count_in(take: Take) -> int:
    """An exercise without a click is recorded without a count-in."""
    return take.assignment.exercise.count_in_bars if take.asks_click else 0


def _midi(take: Take, *, count_in_bars: int = 0) -> bytes:
    return write_recording(take.standing_events(), part=take.target(), count_in_bars=count_in_bars)


def _file(take: Take, data: bytes, content_type: str, ending: str) -> HttpResponse:
    response = HttpResponse(data, content_type=content_type)
    response["Content-Disposition"] = f'attachment; filename="take-{take.number}.{ending}"'
    return response


@require_GET
def take_notes(request: HttpRequest, pk: uuid.UUID) -> HttpResponseBase:
    """What a page needs to play a take over its part, at the take's own tempo."""
    take = get_object_or_404(visible_takes(request.user), pk=pk)
    data = playing_data(take.target(), take.read())
    kept = {name: data[name] for name in ("take", "target", "cues", "bars", "bpm", "voices")}
    return JsonResponse({**kept, "controls": control_data(take)})


def control_data(take: Take) -> list[list[float]]:
    """Pedal, bend, modulation and pressure of a take, to be heard: [second, status, data1, data2]."""
    return [
        [round(time / 1000.0, 4), status, data1, data2]
        for events in take.standing_events()
        for time, status, data1, data2 in events
        if status & 0xF0 not in (STATUS_NOTE_ON, STATUS_NOTE_OFF)
    ]
