"""The Stand itself."""

import uuid
from dataclasses import replace
from typing import TypedDict
from uuid import UUID

from django.conf import settings
from django.http import Http404, HttpResponse, HttpResponseBase, JsonResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.utils.translation import gettext as _
from django.views.decorators.http import require_GET

from ear.drawing.page import page_view
from ear.drawing.placing import heights
from ear.editing.transpose import to_key
from ear.formats.events import events_from_take
from ear.free.improvising import HIGH, LOW, improvised
from ear.labels import LabelKind
from ear.labels.chord_cards import chord_cards
from ear.labels.typing_keys import two_hand_layout
from ear.notation.engraving import notation_svg
from ear.notes import STANDARD_KIT, Note, Part
from ear.players.robot import play
from ear.practice.rules import PlayingAid
from ear.reader import Reader
from ear.words.keys import describe_keys
from oido.assignments.models import Assignment
from oido.assignments.queries import recordable_assignments
from oido.assignments.student_terms import StudentTerms, get_student_terms
from oido.common.methods import only_post
from oido.common.notation import notation_answer
from oido.common.numbers import whole
from oido.common.page_data import ByEarRules, KeysReach, ListenFirst, StandData
from oido.common.permissions import for_students
from oido.common.problems import error_message
from oido.common.readers import reader_with
from oido.common.screen import asked_width, music_width
from oido.common.sources import played_here
from oido.exercises.asked import asked
from oido.exercises.audio import TYPES, NoSound
from oido.exercises.models import Exercise
from oido.exercises.pages import exercise_page, label_switches, playing_data, recording_data, voices_of
from oido.exercises.reached import reached
from oido.exercises.rule_texts import CLICK_SOUNDS
from oido.people.conventions import conventions_of, reader_of
from oido.people.requests import Request
from oido.reports.analysed_take import AnalysedTake
from oido.stand.lookup import FROM_BENCH, student_terms_or_404, way_of
from oido.stand.robots import ROBOTS
from oido.stand.sounds import sounds_of
from oido.stand.tray import read_tray
from oido.stand.views.booklet import beside
from oido.stand.views.files import part_exports
from oido.takes.at_stand import opened, settings_of
from oido.takes.exports import EXPORTS
from oido.takes.hearing import SOUND, HeardEnough, hear, is_hidden, listens_left, sound_of
from oido.takes.practice import Climb, ladder_of
from oido.takes.queries import visible_takes
from oido.takes.services import measure_overdue, waiting_takes

WAITS = "waits"
"""In a question for the list of takes: who asks has one, and waits for it to change."""

SHOWN_BESIDE = (
    "stand",
    "stand-music",
    "stand-notation",
    "stand-words",
    "stand-text",
    "robot",
    "heard",
    "loop",
    "own-pace",
)
STORING = ("upload-take", "tray")
"""Addresses of a Stand by their names; a teacher who only looks has none that store."""
OCTAVE = 12
SLOWEST_SHARE, FASTEST_SHARE = 0.4, 1.2
"""Of the exercise's tempo: how far practice goes, if the exercise allows no more."""


@require_GET
def stand(request: Request, student_terms: StudentTerms) -> HttpResponseBase:
    """The student's page for one exercise, in the key that `key` asks for if it is allowed."""
    times_heard = 0 if student_terms.is_trial else opened(request.user, student_terms.assignment).heard
    if student_terms.rules.has_questions_only and not student_terms.is_trial:
        return redirect("hand-in", pk=student_terms.assignment.pk)
    exercise = student_terms.exercise
    own = exercise.part_in_force.read()
    hides = is_hidden(request.user, student_terms)
    if hides:
        own = _without_notes(own)
    part = in_key(own, exercise, request.GET.get("key", ""))
    shows_chords = LabelKind.CHORDS in exercise.shown_labels
    context = {
        "assignment": student_terms.assignment,
        "student_terms": student_terms,
        "exercise": exercise,
        "part": part,
        "page": exercise_page(exercise, part, conventions_of(request.user), width=music_width(request)),
        "stand": _stand_data(request, student_terms, own, part, hides=hides, times_heard=times_heard),
        "shown": {aid.value: aid not in student_terms.rules.withheld for aid in PlayingAid},
        "kept": settings_of(request.user),
        "label": part_label(exercise, part),
        "part_exports": part_exports(request, student_terms),
        "hides": hides,
        "is_from_bench": way_of(request) == FROM_BENCH,
        "links": links_of(request, student_terms),
        "within": None if student_terms.is_trial else beside(request.user, student_terms.assignment),
        "asked": asked(exercise.part_in_force.spec),
        "is_free": exercise.part_in_force.free is not None,
        "cards": chord_cards(part, conventions=conventions_of(request.user)) if shows_chords else (),
        "switches": label_switches(exercise, part),
        "sources": played_here(),
        "robots": ROBOTS if settings.IS_DEMO and not hides else {},
        "keys": _keys(exercise, own, reader_of(request.user)),
        "voices": voices_of(part),
        "rules": student_terms.rules,
        "sounds": sounds_of(exercise),
        "clicks": [(sound.value, name) for sound, name in CLICK_SOUNDS.items()],
        **ladder_context(request, student_terms),
        **tray_context(request, student_terms),
    }
    return render(request, "stand/stand.html", context)


def in_key(part: Part, exercise: Exercise, asked: str) -> Part:
    """The part in the key asked for, by its signature; in its own where that is not allowed."""
    fifths = whole(asked)
    if fifths not in (None, part.fifths) and exercise.recording_rules.allows_key(fifths, part):
        return to_key(part, fifths=fifths).part
    return part


def part_label(exercise: Exercise, part: Part) -> str:
    """Return what a drawing of the part is called."""
    return _("The part of %(title)s, %(n)s bars") % {"title": exercise.title, "n": part.last_bar}


def _without_notes(part: Part) -> Part:
    """As many bars, and nothing of what stands in them."""
    return replace(part.with_notes(()), least_bars=len(part.bars), cues=(), chords=(), sections=(), pedal=())


def _compass(part: Part, *, is_free: bool) -> tuple[int, int]:
    """The lowest and the highest pitch that a player needs."""
    if is_free or not part.notes:
        return LOW, HIGH
    return int(part.pitches.min()), int(part.pitches.max())


def links_of(request: Request, student_terms: StudentTerms) -> dict[str, str]:
    """By name the addresses of what belongs to this Stand; of a trial those that store nothing."""
    if not student_terms.is_trial:
        return {name: reverse(name, args=[student_terms.assignment.pk]) for name in (*SHOWN_BESIDE, *STORING)}
    way = {"pk": student_terms.exercise.pk, "way": way_of(request)}
    return {name: reverse(f"trial-{name}", kwargs=way) for name in SHOWN_BESIDE}


def _heard_data(
    request: Request, student_terms: StudentTerms, times_heard: int, *, hides: bool
) -> tuple[ByEarRules | None, ListenFirst | None]:
    """What the page's script needs of a part that is played by ear, or heard first."""
    url = links_of(request, student_terms)["heard"]
    by_ear: ByEarRules = {"url": url, "left": listens_left(student_terms, times_heard)}
    first: ListenFirst = {"url": url}
    return (
        by_ear if hides else None,
        first if student_terms.rules.must_listen_first and not times_heard else None,
    )


def _stand_data(
    request: Request,
    student_terms: StudentTerms,
    own_part: Part,
    part: Part,
    *,
    hides: bool = False,
    times_heard: int,
) -> StandData:
    exercise, rules = student_terms.exercise, student_terms.rules
    by_ear, listen_first = _heard_data(request, student_terms, times_heard, hides=hides)
    bpm = float(exercise.tempo_bpm)
    slowest, fastest = rules.tempo_range(bpm)
    conventions = conventions_of(request.user)
    semitones = part.notes[0].pitch - own_part.notes[0].pitch if part.notes else 0
    low, high = _compass(exercise.part_in_force.read(), is_free=exercise.part_in_force.free is not None)
    if hides:
        # By whole octaves: the keys do not give the notes away.
        low, high = low // OCTAVE * OCTAVE, (high // OCTAVE + 1) * OCTAVE
    # Where the page shows no notes, keys are laid out for those that are wanted.
    ends = [Note(onset_tick=0, length_tick=1, pitch=pitch, velocity=1) for pitch in (low, high)]
    has_ends = not part.notes and part.instrument.has_key
    lanes = {pitch: part.lane_name(pitch) for lane in STANDARD_KIT.lanes for pitch in lane.pitches}
    laid = playing_data(part.with_notes(ends) if has_ends else part, left_handed=request.user.left_handed)
    return {
        **playing_data(part, left_handed=request.user.left_handed, whole_kit=hides or not part.notes),
        "layout": laid["layout"],
        "typing": laid["typing"],
        "reach": _reach(exercise, part),
        "compass": (low + semitones, high + semitones) if part.notes else (low, high),
        "byEar": by_ear,
        "listenFirst": listen_first,
        "part": exercise.part_in_force.pk,
        "allowedNotes": _allowed_notes(exercise, part),
        "fingers": [note.finger for note in part.notes],
        "beatValue": _(conventions.value_name("crotchet")),
        "countInBars": own_part.bars_before(exercise.count_in_bars),
        "ownFifths": own_part.fifths,
        "keyText": str(part.fifths),
        "middleC": conventions.middle_c_octave,
        "allowed": (round(slowest, 2), round(fastest, 2)),
        "range": (round(min(slowest, bpm * SLOWEST_SHARE)), round(max(fastest, bpm * FASTEST_SHARE))),
        "passes": rules.passes,
        "countsAfter": rules.counts_after(own_part.last_bar),
        "lanes": lanes,
        "laneNames": {pitch: _(name) for pitch, name in lanes.items()},
        **recording_data(exercise, part, semitones=semitones),
    }


def _allowed_notes(exercise: Exercise, part: Part) -> list[tuple[float, list[int]]]:
    """From which second on which notes may be played, of an exercise that is improvised."""
    spec = exercise.part_in_force.spec
    if spec is None:
        return []
    changes = spec.exercise(part).allowed_changes()
    return [(round(part.tempos.second_at(tick), 4), sorted(pitches)) for tick, pitches in changes]


def _reach(exercise: Exercise, part: Part) -> KeysReach | None:
    """What typing keys reach of a part; None of drums, and where the page shows no notes."""
    by_keys = reached(exercise, part)
    if by_keys is None:
        return None
    reach = by_keys.reach
    return {
        "notes": reach.notes, "as_they_lie": reach.as_they_lie, "from_best": reach.from_best, "best": reach.best,
        "by_two_hands": reach.by_two_hands, "layout": two_hand_layout(part), "easier": by_keys.easier,
    }  # fmt: skip


def _keys(exercise: Exercise, part: Part, reader: Reader) -> list[tuple[int, str]]:
    """Keys to choose from, the part's own first; none where there is but one."""
    others = [k for k in exercise.recording_rules.keys if k != part.fifths and part.instrument.has_key]
    return [(fifths, describe_keys(fifths, reader)) for fifths in (part.fifths, *others)] if others else []


def _hearing(request: Request) -> UUID | None:
    """Return the page's number for a hearing; None where it names none."""
    try:
        return UUID(request.POST.get("hearing", ""))
    except ValueError:
        return None


@only_post
def heard(request: Request, student_terms: StudentTerms) -> HttpResponseBase:
    """The part is heard. Of one that is played by ear the answer is its sound."""
    hides = is_hidden(request.user, student_terms)
    try:
        count = hear(request.user, student_terms, _hearing(request))
        sound = sound_of(student_terms.exercise.part_in_force) if hides else b""
    except HeardEnough:
        return JsonResponse(
            {"errors": {"heard": [_("You have listened as often as this exercise allows.")]}}, status=422
        )
    except NoSound as problem:
        return JsonResponse({"errors": {"heard": [error_message(problem)]}}, status=422)
    response = HttpResponse(sound, content_type=TYPES[SOUND], status=200 if hides else 204)
    left = listens_left(student_terms, count)
    if left is not None:
        response["X-Hears-Left"] = str(left)
    response["Cache-Control"] = "no-store"
    return response


@require_GET
def music(request: Request, student_terms: StudentTerms) -> HttpResponseBase:
    """The part drawn for a screen so many units wide, with where each key stands in a row: what is read while one plays."""
    exercise = student_terms.exercise
    part = exercise.part_in_force.read()
    if is_hidden(request.user, student_terms):
        part = _without_notes(part)
    part = in_key(part, exercise, request.GET.get("key", ""))
    page = exercise_page(exercise, part, conventions_of(request.user), width=asked_width(request))
    if "page" in request.GET:
        # As it stands on the page, for a window that has another width than before.
        return render(request, "ui/page_view.html", {"page": page, "label": part_label(exercise, part)})
    low, high = _compass(part, is_free=exercise.part_in_force.free is not None)
    lanes = [pitch for lane in STANDARD_KIT.lanes for pitch in lane.pitches]
    near = lanes if part.instrument.has_lanes else range(max(0, low - OCTAVE), min(127, high + OCTAVE) + 1)
    rows = [(row, {pitch: round(y, 1) for pitch, y in heights(part, row, near).items()}) for row in page.rows]
    return render(
        request, "stand/_music.html", {"page": page, "rows": rows, "label": part_label(exercise, part)}
    )


@require_GET
@for_students
def on_music(request: Request, pk: uuid.UUID) -> HttpResponseBase:
    """A take drawn on the Stand's own music."""
    take = get_object_or_404(visible_takes(request.user), pk=pk)
    student_terms = student_terms_or_404(request, take.assignment_id)
    analysed = AnalysedTake(take)
    if not read_tray(request.user, student_terms).shows_analysis or not analysed.judged.is_readable:
        raise Http404
    page = page_view(analysed.part, width=music_width(request), overlay=analysed.overlay)
    has_hits = student_terms.rules.passes > 1 and not take.is_handed_in and not hasattr(take, "corrected")
    label = _("Take %(n)s on the music") % {"n": take.number}
    return render(
        request, "stand/_on_music.html", {"page": page, "label": label, "take": take, "has_hits": has_hits}
    )


@require_GET
def stand_notation(request: Request, student_terms: StudentTerms) -> HttpResponseBase:
    """The part drawn as notation."""
    if is_hidden(request.user, student_terms):
        raise Http404
    exercise = student_terms.exercise
    part = in_key(exercise.part_in_force.read(), exercise, request.GET.get("key", ""))
    labels, conventions = exercise.shown_labels, conventions_of(request.user)

    def draw(bars: range, seed: int) -> str:
        return notation_svg(
            part,
            width=music_width(request),
            labels=labels,
            reader=reader_with(conventions),
            bars=bars,
            seed=seed,
        )

    return notation_answer(request, part, draw)


class LadderContext(TypedDict):
    assignment: Assignment
    climbs: list[Climb]
    next_rung: int | None


def ladder_context(request: Request, student_terms: StudentTerms) -> LadderContext:
    climbs = ladder_of(request.user, student_terms)
    following = next((c.number for c in climbs if c.is_open and not c.is_passed), None)
    return {"assignment": student_terms.assignment, "climbs": climbs, "next_rung": following}


def tray_context(request: Request, student_terms: StudentTerms) -> dict[str, object]:
    tray = read_tray(request.user, student_terms)
    return {"assignment": student_terms.assignment, "tray": tray, "take_exports": EXPORTS}


@require_GET
@for_students
def tray(request: Request, pk: int) -> HttpResponseBase:
    """Return the list of takes as it is now, or nothing (204) while the page waits for one to be measured.

    It is there for an exercise that was withdrawn meanwhile, too: its takes are kept.
    """
    assignment = get_object_or_404(recordable_assignments(request.user), pk=pk)
    student_terms = get_student_terms(assignment, request.user)
    measure_overdue(request.user, student_terms.assignment)
    if WAITS in request.GET and waiting_takes(request.user, student_terms.assignment).exists():
        return HttpResponse(status=204)
    return render(request, "stand/_takes.html", tray_context(request, student_terms))


@require_GET
def robot(request: Request, student_terms: StudentTerms) -> HttpResponseBase:
    """The events of a robot player, for the Stand to play as if they came from an instrument: those of a hidden part would
    tell it."""
    if not settings.IS_DEMO or is_hidden(request.user, student_terms):
        raise Http404
    exercise = student_terms.exercise
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
