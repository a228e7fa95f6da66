"""What is done with takes in the tray."""

import uuid

from django.contrib import messages
from django.http import HttpRequest, HttpResponse, HttpResponseBase, JsonResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils.translation import gettext as _
from django.views.decorators.http import require_GET, require_POST

from ear.formats.events import STATUS_NOTE_OFF, STATUS_NOTE_ON
from ear.formats.smf_writing import write_recording
from oido.common.permissions import NotAllowed, for_students
from oido.exercises import audio
from oido.exercises.audio import NoSound
from oido.exercises.pages import playing_data
from oido.takes import choosing
from oido.takes.forms import NameForm
from oido.takes.models import Take
from oido.takes.queries import visible_takes
from oido.takes.views.stand import tray_context


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


@require_POST
@for_students
def name(request: HttpRequest, pk: uuid.UUID) -> HttpResponseBase:
    take = get_object_or_404(visible_takes(request.user), pk=pk)
    form = NameForm(request.POST)
    if not form.is_valid():
        return _answer(request, take, status=422, problem=form.errors["name"][0])
    choosing.name_take(request.user, take, form.cleaned_data["name"])
    return _answer(request, take)


@require_POST
@for_students
def star(request: HttpRequest, pk: uuid.UUID) -> HttpResponseBase:
    take = get_object_or_404(visible_takes(request.user), pk=pk)
    choosing.star_take(request.user, take, is_starred=not take.is_starred)
    return _answer(request, take)


@require_POST
@for_students
def throw_away(request: HttpRequest, pk: uuid.UUID) -> HttpResponseBase:
    take = get_object_or_404(visible_takes(request.user), pk=pk)
    try:
        choosing.throw_away(request.user, take)
    except NotAllowed:
        return _answer(
            request,
            take,
            status=422,
            problem=_("What is handed in is not thrown away; hand in another first."),
        )
    return _answer(request, take)


@require_POST
@for_students
def bring_back(request: HttpRequest, pk: uuid.UUID) -> HttpResponseBase:
    take = get_object_or_404(visible_takes(request.user), pk=pk)
    choosing.bring_back(request.user, take)
    return _answer(request, take)


def _answer(request: HttpRequest, take: Take, *, status: int = 200, problem: str = "") -> HttpResponseBase:
    """The tray for htmx; the Stand for those without."""
    if not request.htmx:
        if problem:
            messages.error(request, problem)
        return redirect("stand", pk=take.assignment_id)
    context = {**tray_context(request, take.assignment), "problem": problem}
    return render(request, "takes/_takes.html", context, status=status)
