"""What a recorded or an imported part holds by accident: second triggers, grazes, neighbouring keys, keys struck while they
are held, onsets beside the grid. Each is found first, and mended only where somebody says so."""

from collections.abc import Collection, Iterable, Iterator, Mapping, Sequence
from dataclasses import replace
from enum import StrEnum

from ear.editing.edited import Edited, Selection, chosen, rebuilt
from ear.notes import Note, Part, Unison, place_of
from ear.units import TICKS_PER_QUARTER

DOUBLE_TICKS = 60
"""A thirty-second: two strokes of one key so near were one."""
TINY_TICKS = 40
TINY_VELOCITY = 30
SLIP_TICKS, SLIP_SEMITONES = 40, 2
"""So near in time and on the keys a key is caught with the one that was meant."""
SLIP_VELOCITY_SHARE, SLIP_LENGTH_SHARE = 0.75, 0.5
"""A key that was caught is no stronger and no longer than these shares of the one that was meant."""
GRID_LINES = (TICKS_PER_QUARTER // 4, TICKS_PER_QUARTER // 3)
"""Sixteenths, and triplets of eighths."""
FINE_LINES, FINE_TICKS = (TICKS_PER_QUARTER // 8, TICKS_PER_QUARTER // 6), 4
"""Thirty-seconds, and triplets of sixteenths: what stands just on one is meant."""
OFF_GRID_TICKS = 12
"""So far from every line of the grid an onset is off it."""


class NoteTrouble(StrEnum):
    """What may be wrong with a note; each is mended in its own way."""

    DOUBLE = "double"
    """Follows one of its pitch at once: the weaker is deleted."""
    TINY = "tiny"
    """Deleted."""
    SLIP = "slip"
    """A key beside the one that was meant, caught with it: deleted."""
    OVERLAP = "overlap"
    """Its key is struck again while it is held: it ends where that begins."""
    OFF_GRID = "off_grid"
    """Moved to the nearest line, its length kept."""


def doubles(part: Part) -> Selection:
    """Return the notes that follow one of the same pitch at once. Of each pair it is the weaker one."""
    last: dict[int, int] = {}
    doubles: set[int] = set()
    for i, note in enumerate(part.notes):
        before = last.get(note.pitch)
        if before is not None and note.onset_tick - part.notes[before].onset_tick <= DOUBLE_TICKS:
            weaker = before if part.notes[before].velocity < note.velocity else i
            doubles.add(weaker)
            last[note.pitch] = before if weaker == i else i
        else:
            last[note.pitch] = i
    return frozenset(doubles)


def tiny(part: Part) -> Selection:
    """Return the notes that are too light to be meant and, on keyboards, also too short."""
    return frozenset(
        i
        for i, note in enumerate(part.notes)
        if note.velocity <= TINY_VELOCITY
        and (not part.instrument.has_length or note.length_tick <= TINY_TICKS)
    )


def slips(part: Part) -> Selection:
    """Return the notes of keys that were caught with a neighbour's: softer, shorter and at once. Drums have none."""
    caught: set[int] = set()
    notes = part.notes if part.instrument.has_length else ()
    for i, meant in enumerate(notes):
        for j in _struck_with(notes, i):
            is_beside = 0 < abs(notes[j].pitch - meant.pitch) <= SLIP_SEMITONES
            is_softer = notes[j].velocity <= SLIP_VELOCITY_SHARE * meant.velocity
            is_shorter = notes[j].length_tick <= SLIP_LENGTH_SHARE * meant.length_tick
            if (
                is_beside
                and is_softer
                and is_shorter
                and notes[j].hand is meant.hand
                and not notes[j].ornament
            ):
                caught.add(j)
    return frozenset(caught)


def _struck_with(notes: Sequence[Note], i: int) -> Iterator[int]:
    """Indices of the notes that begin almost with a note, before and behind it."""
    for step in (-1, 1):
        j = i + step
        while 0 <= j < len(notes) and abs(notes[j].onset_tick - notes[i].onset_tick) <= SLIP_TICKS:
            yield j
            j += step


def overlaps(part: Part) -> dict[int, int]:
    """Return the notes whose key is struck again while they are held, with the tick of that stroke.

    Doubles and grazes do not count as strokes. Drum strokes have no length, so none overlaps.
    """
    gone = doubles(part) | tiny(part)
    overlaps: dict[int, int] = {}
    last: dict[int, int] = {}
    for i, note in enumerate(part.notes if part.instrument.has_length else ()):
        if i in gone:
            continue
        before = last.get(note.pitch)
        if (
            before is not None
            and part.notes[before].end_tick > note.onset_tick > part.notes[before].onset_tick
        ):
            overlaps[before] = note.onset_tick
        last[note.pitch] = i
    return overlaps


def off_grid(part: Part, *, ticks: int = OFF_GRID_TICKS) -> Selection:
    """Return the notes that begin more than `ticks` from every line of semiquavers and of triplets, and on no
    finer line.
    """
    return frozenset(
        i
        for i, note in enumerate(part.notes)
        if abs(_on_line(note.onset_tick) - note.onset_tick) > ticks
        and abs(_on_line(note.onset_tick, FINE_LINES) - note.onset_tick) > FINE_TICKS
    )


def _on_line(tick: int, steps: Sequence[int] = GRID_LINES) -> int:
    """The nearest line."""
    return min((round(tick / step) * step for step in steps), key=lambda line: abs(line - tick))


def troubles(part: Part) -> dict[NoteTrouble, Selection]:
    """Return the notes that look wrong, by kind of trouble. A note that would be deleted is listed once."""
    double = doubles(part)
    light = tiny(part) - double
    caught = slips(part) - double - light
    gone = double | light | caught
    return {
        NoteTrouble.DOUBLE: double,
        NoteTrouble.TINY: light,
        NoteTrouble.SLIP: caught,
        NoteTrouble.OVERLAP: frozenset(overlaps(part)),
        NoteTrouble.OFF_GRID: off_grid(part) - gone,
    }


def mended(part: Part, picked: Mapping[NoteTrouble, Collection[int]]) -> Part:
    """Return the part with the chosen notes mended, each as its kind of trouble asks; others are left alone.

    Two notes of one key that come onto one line become one.
    """
    return part.with_notes(struck_once(note for note in _each_mended(part, picked) if note is not None)[0])


def _each_mended(part: Part, picked: Mapping[NoteTrouble, Collection[int]]) -> list[Note | None]:
    """Of each note of the part what it becomes; None where it is deleted."""
    ends = overlaps(part)
    notes: list[Note | None] = list(part.notes)
    for i in picked.get(NoteTrouble.OVERLAP, ()):
        if i in ends:
            notes[i] = replace(part.notes[i], length_tick=ends[i] - part.notes[i].onset_tick)
    for i in picked.get(NoteTrouble.OFF_GRID, ()):
        notes[i] = replace(notes[i] or part.notes[i], onset_tick=_on_line(part.notes[i].onset_tick))
    for trouble in (NoteTrouble.DOUBLE, NoteTrouble.TINY, NoteTrouble.SLIP):
        for i in picked.get(trouble, ()):
            notes[i] = None
    return notes


def struck_once(notes: Iterable[Note], *, keeps_unisons: bool = False) -> tuple[list[Note], list[int]]:
    """Return the part with each key struck once at one moment: several strokes become one note, as long as the longest, as
    loud as the loudest, with what was written at any of them.

    With `keeps_unisons` a second one that has a length, a hand or a voice of its own stays written, as the first one's
    unison. Also return the ticks at which strokes were lost, once for each.
    """
    kept_notes: dict[tuple[int, int], Note] = {}
    doubled: list[int] = []
    for note in notes:
        place = place_of(note)
        before = kept_notes.get(place)
        if before is None:
            kept_notes[place] = note
            continue
        unison = _unison(before, note) if keeps_unisons and before.unison is None else None
        if unison is None:
            doubled.append(note.onset_tick)
        elif note.length_tick > before.length_tick:
            before, note = note, before
        kept_notes[place] = replace(
            before,
            unison=before.unison if unison is None else unison,
            length_tick=max(before.length_tick, note.length_tick),
            velocity=max(before.velocity, note.velocity),
            hand=before.hand or note.hand,
            finger=before.finger or note.finger,
            label=before.label or note.label,
            name_fifth=note.name_fifth if before.name_fifth is None else before.name_fifth,
            ornament=before.ornament or note.ornament,
            grace_semitones=before.grace_semitones if before.ornament else note.grace_semitones,
        )
    return list(kept_notes.values()), doubled


def _unison(one: Note, other: Note) -> Unison | None:
    """What the shorter of two strokes is beside the longer; None if nothing tells them apart."""
    shorter, longer = (other, one) if one.length_tick >= other.length_tick else (one, other)
    same = (shorter.length_tick, shorter.hand, shorter.voice) == (
        longer.length_tick,
        longer.hand,
        longer.voice,
    )
    return None if same else Unison(length_tick=shorter.length_tick, hand=shorter.hand, voice=shorter.voice)


def clean(
    part: Part, selection: Selection, kinds: Collection[NoteTrouble] = (NoteTrouble.DOUBLE, NoteTrouble.TINY)
) -> Edited:
    """Mend what looks wrong among the notes that are picked, of these kinds; those that are still there stay picked."""
    picked = chosen(part, selection)
    mistakes = troubles(part)
    notes = _each_mended(part, {kind: mistakes[kind] & picked for kind in kinds})
    return rebuilt(part, ((note, i in selection) for i, note in enumerate(notes) if note is not None))
