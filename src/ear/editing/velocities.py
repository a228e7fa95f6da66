"""Strengths: accents, ramps, evening out."""

from dataclasses import replace
from enum import StrEnum

import numpy as np

from ear.editing.drawing import within_velocity
from ear.editing.edited import Edited, Selection, chosen, rebuilt
from ear.errors import UnknownName, ValueOutOfRange
from ear.notes import Bar, Note, Part
from ear.notes.loudness import LOUDNESS
from ear.numerals import decimal


class Accent(StrEnum):
    """Which notes are accented."""

    FIRST_BEATS = "first_beats"
    BEATS = "beats"
    OFF_BEATS = "off_beats"


def accent(part: Part, selection: Selection, *, where: Accent, steps: int) -> Edited:
    """Accent the notes at some places by so many steps of velocity, softer if negative."""

    def meant(note: Note, bar: Bar) -> bool:
        into = note.onset_tick - bar.start_tick
        if where is Accent.FIRST_BEATS:
            return into == 0
        return (into % bar.meter.beat_ticks == 0) is (where is Accent.BEATS)

    picked = chosen(part, selection)
    notes = []
    for i, note in enumerate(part.notes):
        is_meant = i in picked and meant(note, part.bar_holding(i))
        made = replace(note, velocity=within_velocity(note.velocity + steps)) if is_meant else note
        notes.append((made, is_meant))
    return rebuilt(part, notes)


def ramp(part: Part, selection: Selection, *, first: int | None, last: int) -> Edited:
    """Change velocities so that they rise or fall evenly in time from the first selected onset to the last.

    Without a first velocity the ramp begins at the median of the selection.

    Accents stay: each note keeps its distance from the median velocity of the selection.
    """
    picked = sorted(chosen(part, selection))
    if not picked:
        return Edited(part=part, selected=frozenset())
    onsets = [part.notes[i].onset_tick for i in picked]
    middle = float(np.median([part.notes[i].velocity for i in picked]))
    spans = max(onsets) - min(onsets)
    start = middle if first is None else first
    wanted = {
        i: start + (last - start) * ((tick - onsets[0]) / spans if spans else 0.0)
        for i, tick in zip(picked, onsets, strict=True)
    }
    return rebuilt(
        part,
        [
            (replace(n, velocity=within_velocity(wanted[i] + n.velocity - middle)), True)
            if i in wanted
            else (n, False)
            for i, n in enumerate(part.notes)
        ],
    )


def by_sign(part: Part, selection: Selection, *, sign: str, to: str = "") -> Edited:
    """Set velocities to those of a loudness sign throughout, or growing or fading to a second sign.

    Accents stay, as in `ramp`. Raises UnknownName.

    Raises UnknownName for what is no sign.
    """
    for name in (sign, to or sign):
        if name not in LOUDNESS:
            raise UnknownName(kind="sign", name=name, known=tuple(LOUDNESS))
    return ramp(part, selection, first=LOUDNESS[sign], last=LOUDNESS[to or sign])


def even_out(part: Part, selection: Selection, *, share: float = 1.0) -> Edited:
    """Move velocities towards their median: a strength of 0 leaves them, 1 makes them equal.

    Raises ValueOutOfRange for a strength outside 0 to 1.
    """
    if not 0.0 <= share <= 1.0:
        raise ValueOutOfRange("share_out_of_range", share=decimal(share))
    picked = chosen(part, selection)
    middle = float(np.median([part.notes[i].velocity for i in picked])) if picked else 0.0
    return rebuilt(
        part,
        [
            (replace(n, velocity=within_velocity(n.velocity + share * (middle - n.velocity))), True)
            if i in picked
            else (n, False)
            for i, n in enumerate(part.notes)
        ],
    )
