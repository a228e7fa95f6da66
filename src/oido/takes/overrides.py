"""What a teacher says of notes and bars: of one take, and of all takes of a part."""

from collections.abc import Mapping
from typing import Any

import numpy as np

from ear.facts.facts import Facts
from ear.judging.settings import NoteOverride, Reason
from ear.note_place import NotePlace
from ear.units import TICKS_PER_QUARTER
from oido.takes.models import Take

NEAR_TICKS = TICKS_PER_QUARTER
"""So near to where it was accepted a note that is played besides is the same ornament."""


def get_overrides(take: Take, facts: Facts) -> dict[NotePlace, NoteOverride]:
    """Return the overrides for all takes of the part, with those for this take alone on top."""
    return {**_of_part(take, facts), **take.set_for_it.overrides}


def _of_part(take: Take, facts: Facts) -> dict[NotePlace, NoteOverride]:
    accepted: Mapping[str, Any] = take.part.accepted
    if not accepted:
        return {}
    overrides: dict[NotePlace, NoteOverride] = {}
    besides: list[tuple[int, int, NoteOverride]] = []
    for place, (override, _reason) in accepted.items():
        if ":" in place:
            tick, pitch = map(int, place.split(":"))
            besides.append((tick, pitch, NoteOverride(override)))
        else:
            overrides[NotePlace.read(place)] = NoteOverride(override)
    if besides:
        # Only now what was played is needed: where notes besides the written ones stand.
        part, played = take.target(), take.read()
        for number in _left_over(facts):
            at, pitch = place_of(take, facts, number, part=part, played=played)
            for tick, wanted, override in besides:
                if pitch == wanted and abs(at - tick) <= NEAR_TICKS:
                    overrides[NotePlace.played(number)] = override
    return overrides


def _left_over(facts: Facts) -> list[int]:
    return [
        taken for target, taken in zip(facts.rows.target, facts.rows.take, strict=True)
        if target is None and taken is not None
    ]  # fmt: skip


def place_of(
    take: Take, facts: Facts, number: int, *, part: Any = None, played: Any = None
) -> tuple[int, int]:
    """Return the place of a note that was played besides the written ones: its tick in the part, by the
    player's own tempo, and its pitch.
    """
    part, played = part or take.target(), played or take.read()
    note = played.notes[number]
    quarters = part.tempos.quarters(np.array([note.onset_s * facts.figures.tempo_ratio]))[0]
    return round(float(quarters) * TICKS_PER_QUARTER), note.pitch


def reasons_of(take: Take) -> dict[NotePlace, Reason]:
    """Return the reason for each override by its place, for this take alone or for written notes of its part."""
    of_part = {
        NotePlace.read(place): Reason(reason)
        for place, (_override, reason) in take.part.accepted.items()
        if reason and ":" not in place
    }
    return {**of_part, **take.set_for_it.reasons}
