"""The Stand itself."""

from dataclasses import replace
from typing import Any

from django.conf import settings
from django.http import Http404, HttpResponse, HttpResponseBase, JsonResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.utils.translation import gettext as _
from django.views.decorators.http import require_GET

from ear.editing.transpose import to_key
from ear.formats.events import events_from_take
from ear.free.improvising import HIGH, LOW, improvised
from ear.labels import LabelKind
from ear.labels.chord_cards import chord_cards
from ear.notation.engraving import notation_svg
from ear.notes import STANDARD_KIT, Note, Part
from ear.patterns.modes import key_name
from ear.players.robot import play
from oido.assignments.deals import Deal
from oido.common.methods import only_post
from oido.common.numbers import whole
from oido.common.permissions import for_students
from oido.common.problems import said
from oido.common.sources import played_here
from oido.exercises.asked import asked
from oido.exercises.audio import TYPES, NoSound
from oido.exercises.models import Exercise
from oido.exercises.pages import (
    PAGE_WIDTH,
    exercise_page,
    label_switches,
    playing_data,
    recording_data,
    voices_of,
)  # fmt: skip
from oido.people.conventions import conventions_of
from oido.people.requests import Request
from oido.stand.given import deal_or_404
from oido.stand.robots import ROBOTS
from oido.stand.sounds import sounds_of
from oido.stand.tray import read_tray
from oido.stand.views.booklet import beside
from oido.takes.exports import EXPORTS
from oido.takes.hearing import SOUND, HeardEnough, hear, hears_left, is_hidden, sound_of
from oido.takes.models import Visit
from oido.takes.practice import ladder_of
from oido.takes.visits import opened

OCTAVE = 12
SLOWEST_SHARE, FASTEST_SHARE = 0.4, 1.2
"""Of the exercise's tempo: how far practice goes, if the exercise allows no more."""


@require_GET
@for_students
def stand(request: Request, pk: int) -> HttpResponseBase:
    """The student's page for one exercise, in the key that `key` asks for if it is allowed."""
    deal = deal_or_404(request, pk)
    visit = opened(request.user, deal.assignment)
    if deal.rules.has_questions_only:
        return redirect("hand-in", pk=pk)
    exercise = deal.exercise
    own = exercise.part_in_force.read()
    hides = is_hidden(request.user, deal)
    if hides:
        own = _without_notes(own)
    part = in_key(own, exercise, request.GET.get("key", ""))
    shows_chords = LabelKind.CHORDS in exercise.shown_labels
    context = {
        "assignment": deal.assignment,
        "deal": deal,
        "exercise": exercise,
        "part": part,
        "page": exercise_page(exercise, part, conventions_of(request.user)),
        "stand": _stand_data(request, deal, own, part, hides=hides) | _heard_data(deal, visit, hides=hides),
        "hides": hides,
        "within": beside(request.user, deal.assignment),
        "asked": asked(exercise.part_in_force.spec),
        "is_free": exercise.part_in_force.free is not None,
        "cards": chord_cards(part, conventions=conventions_of(request.user)) if shows_chords else (),
        "switches": label_switches(exercise, part),
        "sources": played_here(),
        "robots": ROBOTS if settings.IS_DEMO else {},
        "keys": _keys(exercise, own),
        "voices": voices_of(part),
        "rules": deal.rules,
        "sounds": sounds_of(exercise),
        **ladder_context(request, deal),
        **tray_context(request, deal),
    }
    return render(request, "stand/stand.html", context)


def in_key(part: Part, exercise: Exercise, asked: str) -> Part:
    """The part in the key asked for, by its signature; in its own where that is not allowed."""
    fifths = whole(asked)
    if fifths not in (None, part.fifths) and exercise.recording_rules.allows_key(fifths, part):
        return to_key(part, fifths=fifths).part
    return part


def _without_notes(part: Part) -> Part:
    """As many bars, and nothing of what stands in them."""
    return replace(part.with_notes(()), least_bars=len(part.bars), cues=(), chords=(), sections=(), pedal=())


def _compass(part: Part, *, is_free: bool) -> tuple[int, int]:
    """The lowest and the highest pitch that a player needs."""
    if is_free or not part.notes:
        return LOW, HIGH
    return int(part.pitches.min()), int(part.pitches.max())


def _heard_data(deal: Deal, visit: Visit, *, hides: bool) -> dict[str, Any]:
    """What the page's script needs of a part that is played by ear, or heard first."""
    url = reverse("heard", args=[deal.assignment.pk])
    return {
        "byEar": {"url": url, "left": hears_left(deal, visit.heard)} if hides else None,
        "hearsFirst": {"url": url} if deal.rules.hears_first and not visit.heard else None,
    }


def _stand_data(
    request: Request, deal: Deal, own: Part, part: Part, *, hides: bool = False
) -> dict[str, Any]:
    exercise, rules = deal.exercise, deal.rules
    bpm = float(exercise.tempo_bpm)
    slowest, fastest = rules.tempo_range(bpm)
    conventions = conventions_of(request.user)
    semitones = part.notes[0].pitch - own.notes[0].pitch if part.notes else 0
    low, high = _compass(exercise.part_in_force.read(), is_free=exercise.part_in_force.free is not None)
    if hides:
        # By whole octaves: the keys do not give the notes away.
        low, high = low // OCTAVE * OCTAVE, (high // OCTAVE + 1) * OCTAVE
    # Where the page shows no notes, keys are laid out for those that are wanted.
    ends = [Note(onset_tick=0, length_tick=1, pitch=pitch, velocity=1) for pitch in (low, high)]
    has_ends = not part.notes and part.instrument.has_key
    reach = playing_data(part.with_notes(ends) if has_ends else part, left_handed=request.user.left_handed)
    return {
        **playing_data(part, left_handed=request.user.left_handed, whole_kit=hides or not part.notes),
        "layout": reach["layout"],
        "typing": reach["typing"],
        "compass": [low + semitones, high + semitones] if part.notes else [low, high],
        "part": exercise.part_in_force.pk,
        "beatValue": conventions.value_name("crotchet"),
        "countInBars": exercise.count_in_bars,
        "ownFifths": own.fifths,
        "keyText": str(part.fifths),
        "middleC": conventions.middle_c_octave,
        "allowed": [round(slowest, 2), round(fastest, 2)],
        "range": [round(min(slowest, bpm * SLOWEST_SHARE)), round(max(fastest, bpm * FASTEST_SHARE))],
        "passes": rules.passes,
        "lanes": {pitch: part.lane_name(pitch) for lane in STANDARD_KIT.lanes for pitch in lane.pitches},
        **recording_data(exercise, part, semitones=semitones),
    }


def _keys(exercise: Exercise, part: Part) -> list[tuple[int, str]]:
    """Keys to choose from, the part's own first; none where there is but one."""
    others = [k for k in exercise.recording_rules.keys if k != part.fifths and part.instrument.has_key]
    return (
        [(k, f"{key_name(k)} / {key_name(k, is_minor=True)}") for k in (part.fifths, *others)]
        if others
        else []
    )


@only_post
@for_students
def heard(request: Request, pk: int) -> HttpResponseBase:
    """The part is heard. Of one that is played by ear the answer is its sound."""
    deal = deal_or_404(request, pk)
    hides = is_hidden(request.user, deal)
    try:
        count = hear(request.user, deal)
        sound = sound_of(deal.exercise.part_in_force) if hides else b""
    except HeardEnough:
        return JsonResponse({"errors": {"heard": [_("heard as often as the exercise allows")]}}, status=422)
    except NoSound as problem:
        return JsonResponse({"errors": {"heard": [said(problem)]}}, status=422)
    response = HttpResponse(sound, content_type=TYPES[SOUND], status=200 if hides else 204)
    left = hears_left(deal, count)
    if left is not None:
        response["X-Hears-Left"] = str(left)
    response["Cache-Control"] = "no-store"
    return response


@require_GET
@for_students
def stand_notation(request: Request, pk: int) -> HttpResponseBase:
    """The part drawn as notation."""
    deal = deal_or_404(request, pk)
    if is_hidden(request.user, deal):
        raise Http404
    exercise = deal.exercise
    svg = notation_svg(
        in_key(exercise.part_in_force.read(), exercise, request.GET.get("key", "")), width=PAGE_WIDTH,
        labels=exercise.shown_labels, conventions=conventions_of(request.user),
    )  # fmt: skip
    return render(request, "ui/notation_drawn.html", {"svg": svg})


def ladder_context(request: Request, deal: Deal) -> dict[str, Any]:
    climbs = ladder_of(request.user, deal)
    following = next((c.number for c in climbs if c.is_open and not c.is_met), None)
    return {"assignment": deal.assignment, "climbs": climbs, "next_rung": following}


def tray_context(request: Request, deal: Deal) -> dict[str, Any]:
    tray = read_tray(request.user, deal)
    return {"assignment": deal.assignment, "tray": tray, "take_exports": EXPORTS}


@require_GET
@for_students
def tray(request: Request, pk: int) -> HttpResponseBase:
    """The takes alone, as they are now."""
    return render(request, "stand/_takes.html", tray_context(request, deal_or_404(request, pk)))


@require_GET
@for_students
def robot(request: Request, pk: int) -> HttpResponseBase:
    """The events of a robot player, for the Stand to play as if they came from an instrument."""
    if not settings.IS_DEMO:
        raise Http404
    deal = deal_or_404(request, pk)
    exercise = deal.exercise
    habits = ROBOTS.get(request.GET.get("habits", "steady"))
    seed = whole(request.GET.get("seed", "1"))
    if habits is None or seed is None:
        raise Http404
    part = in_key(exercise.part_in_force.read(), exercise, request.GET.get("key", ""))
    spec = exercise.part_in_force.spec
    if spec is not None:
        part = improvised(spec.exercise(part), part, seed=seed)
    take = play(part, habits.habits, seed=seed)
    return JsonResponse({"events": events_from_take(take)})
