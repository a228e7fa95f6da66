"""What pages draw and play of a part: the Page view, and notes in seconds."""

from collections.abc import Collection, Iterable
from dataclasses import replace
from typing import Any

import numpy as np
from django.utils.translation import gettext

from ear.conventions import Conventions
from ear.drawing.boxes import PageView
from ear.drawing.page import page_view
from ear.editing.edited import ALL
from ear.editing.transpose import transpose
from ear.formats.part_json import part_from_json
from ear.labels import LabelKind
from ear.labels.chord_cards import chord_names
from ear.labels.typing_keys import layout_of, typing_rows
from ear.notes import STANDARD_KIT, Hand, Lane, Note, Part, Take, TempoMap
from ear.units import TICKS_PER_QUARTER
from oido.common.page_data import Backing, Pad, PlainBar, PlainNote, Playing, RecordingData, TypingLayout
from oido.common.readers import reader_with
from oido.common.screen import PAGE_WIDTH
from oido.exercises.models import Exercise

FINE = 4
"""Decimals of a second that a player is told: a tenth of a millisecond."""
FOOT_S = 0.06
"""From the sound to the pedal that holds it."""


def exercise_page(
    exercise: Exercise,
    part: Part,
    conventions: Conventions,
    *,
    new_notes: Collection[int] = (),
    width: float = PAGE_WIDTH,
) -> PageView:
    """Return the page of the exercise's part with the labels that the exercise shows."""
    return page_view(
        part, width=width, labels=exercise.shown_labels, reader=reader_with(conventions), new_notes=new_notes
    )


def playing_data(
    part: Part, take: Take | None = None, *, left_handed: bool = False, whole_kit: bool = False
) -> Playing:
    """Return what a page's player needs: notes as [onset_s, length_s, pitch, velocity], bars with start and
    length in seconds, and the click times in each.
    """
    bars: list[PlainBar] = []
    for bar in part.bars:
        start = part.tempos.second_at(bar.start_tick)
        beats = [
            round(part.tempos.second_at(bar.start_tick + k * bar.meter.beat_ticks), 6)
            for k in range(bar.meter.beats)
        ]
        bars.append(
            {
                "number": bar.number,
                "start": round(start, 6),
                "end": round(part.tempos.second_at(bar.end_tick), 6),
                "start_tick": bar.start_tick,
                "end_tick": bar.end_tick,
                "beats": beats,
            }
        )

    return {
        "hasLanes": part.instrument.has_lanes,
        "bpm": part.tempos.first_bpm,
        "bars": bars,
        "target": sounding(part, part.notes),
        "voices": [voice_of(part, n) for n in part.notes],
        "cues": sounding(part, part.cues),
        "pedal": _pedal(part),
        "fifths": part.fifths,
        "layout": layout_of(part, left_handed=left_handed),
        "typing": _typing(part),
        "pads": _pads(part, whole_kit=whole_kit)[:: -1 if left_handed else 1],
        "take": None if take is None else sounding_take(take),
    }


def heard_data(part: Part, take: Take) -> dict[str, object]:
    """Return the part of `playing_data` that is needed to hear a take over its part."""
    wanted = ("take", "target", "cues", "pedal", "bars", "bpm", "voices")
    return {name: value for name, value in playing_data(part, take).items() if name in wanted}


def _typing(part: Part) -> TypingLayout | None:
    rows = typing_rows(part)
    return None if rows is None else {
        "rows": [(list(codes), shift) for codes, shift in rows.rows], "scale": list(rows.scale), "home": rows.home,
    }  # fmt: skip


def _pedal(part: Part) -> list[tuple[float, int]]:
    """The written pedal as [second, controller value]. The foot goes down a moment after the sound, so that
    where it is changed the old sound has ended."""
    return [
        (round(part.tempos.second_at(tick) + after_s, FINE), value)
        for mark in part.pedal
        for tick, value, after_s in ((mark.start_tick, 127, FOOT_S), (mark.end_tick, 0, 0.0))
    ]


def sounding(part: Part, notes: Iterable[Note]) -> list[PlainNote]:
    """Return notes as [onset_s, length_s, pitch, velocity]."""
    held = list(notes)
    starts, ends = (
        part.tempos.seconds(np.array(ticks, dtype=np.float64) / TICKS_PER_QUARTER).tolist()
        for ticks in ([n.onset_tick for n in held], [n.end_tick for n in held])
    )
    return [
        (round(start, FINE), round(end - start, FINE), n.pitch, n.velocity)
        for n, start, end in zip(held, starts, ends, strict=True)
    ]


def sounding_take(take: Take) -> list[PlainNote]:
    """Return a take as a page's player needs it."""
    return [(round(n.onset_s, FINE), round(n.length_s, FINE), n.pitch, n.velocity) for n in take.notes]


def voice_of(part: Part, note: Note) -> str:
    """Hand or lane: what can be heard, or left out, by itself."""
    if part.instrument.has_lanes:
        return STANDARD_KIT.lane(note.pitch).name
    return note.hand.value if note.hand else ""


def voices_of(part: Part) -> list[str]:
    """Return the hands (right first), or the lanes from the top of the staff; nothing if there is only one."""
    if part.instrument.has_lanes:
        names = [name for _lane, name in lanes_of(part)]
    else:
        names = [hand.value for hand in Hand if any(n.hand is hand for n in part.notes)]
    return names if len(names) > 1 else []


def lanes_of(part: Part) -> list[tuple[str, str]]:
    """Return the lanes of a drum part from the top of the staff, each as the kit's name (which rungs use) and
    the part's own.
    """
    return [(lane.name, part.lane_name(lane.pitches[0])) for lane, _pitch in _lanes(part, whole_kit=False)]


def label_switches(exercise: Exercise, part: Part) -> list[tuple[str, Any]]:
    """Return the kinds of labels that the part has and a reader can switch."""
    has = {
        LabelKind.FINGERS: any(n.finger for n in part.notes),
        LabelKind.WORDS: any(n.label for n in part.notes),
        LabelKind.CHORDS: bool(chord_names(part)),
    }
    return [
        (value, name)
        for value, name, is_shown in exercise.label_choices
        if is_shown and has.get(LabelKind(value), True)
    ]


def recording_data(exercise: Exercise, part: Part, *, semitones: int = 0) -> RecordingData:
    """Return what a recorder needs of the recording rules: the click, and the backing part, transposed if the
    part is.
    """
    rules = exercise.recording_rules
    return {
        "click": {
            "on": rules.has_click, "sound": rules.click_sound.value, "level": rules.click_level / 100,
            "divides": rules.click_divides,
        },
        "backing": backing_data(exercise, part.tempos, semitones=semitones),
    }  # fmt: skip


def backing_data(exercise: Exercise, tempos: TempoMap, *, semitones: int = 0) -> Backing | None:
    """Return the backing part at these tempos, or None if the exercise has none."""
    if not exercise.backing:
        return None
    rules = exercise.recording_rules
    part = replace(part_from_json(exercise.backing), tempos=tempos)
    if semitones and part.instrument.has_key:
        part = transpose(part, ALL, semitones=semitones).part
    return {
        "notes": sounding(part, _held_by_pedal(part)),
        "level": rules.backing_level / 100,
        "hasLanes": part.instrument.has_lanes,
        "whileRecording": rules.backing_while_recording,
    }


def _held_by_pedal(part: Part) -> list[Note]:
    """Notes as long as they sound: to where the pedal is lifted or changed, if that is down as they end."""
    held = []
    for note in part.notes:
        until = [m.end_tick for m in part.pedal if m.start_tick <= note.end_tick < m.end_tick]
        held.append(replace(note, length_tick=until[0] - note.onset_tick) if until else note)
    return held


def _lanes(part: Part, *, whole_kit: bool) -> list[tuple[Lane, int]]:
    """Return the lanes of a drum part, or of the whole kit, from the top of the staff, each with the number that plays it."""
    if not part.instrument.has_lanes:
        return []
    written = {STANDARD_KIT.lane(n.pitch).name: n.pitch for n in part.notes}
    own = [STANDARD_KIT.lane(pitch) for pitch in written.values()]
    others = [lane for lane in STANDARD_KIT.lanes if whole_kit and lane.name not in written]
    lanes = [*own, *others]
    ordered = sorted(lanes, key=lambda lane: (part.lane_place(lane.name), -lane.staff_step))
    return [(lane, written.get(lane.name, lane.pitches[0])) for lane in ordered]


def _pads(part: Part, *, whole_kit: bool) -> list[Pad]:
    """What on-screen pads show, in the language of the page: names to be read, by which nothing is looked up."""
    return [
        {"name": gettext(part.lane_name(lane.pitches[0])), "pitch": pitch}
        for lane, pitch in _lanes(part, whole_kit=whole_kit)
    ]
