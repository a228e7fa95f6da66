"""Where each note was played, and which of them are looked at: what the page shows, filters and steps through."""

from bisect import bisect_left
from collections.abc import Callable, Sequence
from dataclasses import dataclass

from ear.criteria.score import Verdict
from ear.drawing.boxes import Overlay, Played
from ear.note_place import NotePlace
from ear.notes import Hand, KitMap, Part
from ear.units import TICKS_PER_QUARTER


@dataclass(frozen=True, slots=True, kw_only=True)
class RowAt:
    """A row of the match with its place in the part, in ticks: where it was played, or, missed, is written."""

    row: Played
    tick: float

    @property
    def order(self) -> tuple[float, float]:
        """By place; of one place, the part's notes first, as they are numbered."""
        return self.tick, self.row.target if self.row.target is not None else float("inf")


def ticks_per_second(part: Part, tick: float, overlay: Overlay) -> float:
    """Return how fast the part went by for the player at a tick, in ticks a second."""
    return part.tempos.bpm_at(tick) / 60.0 * TICKS_PER_QUARTER * overlay.tempo_ratio


def rows_at(part: Part, overlay: Overlay) -> list[RowAt]:
    """Return every row with its place, in ticks.

    Linked notes are placed by their deviation, extra notes by the linked note nearest in time, or by the click
    if none is linked.
    """
    rows: list[RowAt] = []
    linked: list[tuple[float, float]] = []
    for row in overlay.rows:
        if row.target is None:
            continue
        onset = part.notes[row.target].onset_tick
        if row.take is None or row.deviation_ms is None:
            rows.append(RowAt(row=row, tick=onset))
            continue
        tick = onset + row.deviation_ms / 1000.0 * ticks_per_second(part, onset, overlay)
        linked.append((overlay.take.notes[row.take].onset_s, tick))
        rows.append(RowAt(row=row, tick=tick))
    linked.sort()
    per_second = ticks_per_second(part, 0, overlay)
    for row in overlay.rows:
        if row.target is None and row.take is not None:
            second = overlay.take.notes[row.take].onset_s
            near_s, near_tick = _nearest(linked, second)
            rows.append(RowAt(row=row, tick=near_tick + (second - near_s) * per_second))
    return rows


def tick_of_second(part: Part, overlay: Overlay) -> Callable[[float], float]:
    """Return where in the part a second of the take falls, in ticks: by the linked note nearest in time."""
    linked = sorted(
        (overlay.take.notes[at.row.take].onset_s, at.tick)
        for at in rows_at(part, overlay)
        if at.row.take is not None and at.row.target is not None
    )
    per_second = ticks_per_second(part, 0, overlay)

    def tick(second: float) -> float:
        near_s, near_tick = _nearest(linked, second)
        return near_tick + (second - near_s) * per_second

    return tick


def _nearest(linked: Sequence[tuple[float, float]], second: float) -> tuple[float, float]:
    """The linked note nearest in time; of two as near, the earlier. (0, 0) if there is none."""
    at = bisect_left(linked, (second, float("-inf")))
    beside = linked[max(0, at - 1) : at + 1]
    return min(beside, key=lambda note: abs(note[0] - second), default=(0.0, 0.0))


@dataclass(frozen=True, slots=True, kw_only=True)
class Selection:
    """What is looked at; None for all."""

    voice: str | None = None
    """A hand or a lane, by name."""
    verdict: Verdict | None = None
    takes: frozenset[int] | None = None
    """Only these notes of the take, by number: those of one pass."""

    @property
    def is_all(self) -> bool:
        """Is nothing left out?"""
        return self == EVERYTHING


EVERYTHING = Selection()


def is_selected(
    at: RowAt, selection: Selection, *, part: Part, overlay: Overlay, kit: KitMap, middle: int
) -> bool:
    """Return whether a row is among those looked at.

    A note without a target belongs to the lane in which it was played, or to the hand on whose side of the
    pitch `middle` it is.
    """
    if selection.verdict is not None and at.row.verdict != selection.verdict:
        return False
    if selection.takes is not None and at.row.take not in selection.takes:
        return False
    if selection.voice is None:
        return True
    if at.row.target is not None:
        note = part.notes[at.row.target]
        if part.instrument.has_lanes:
            return kit.lane(note.pitch).name == selection.voice
        return note.hand is not None and note.hand.value == selection.voice
    assert at.row.take is not None
    pitch = overlay.take.notes[at.row.take].pitch
    if part.instrument.has_lanes:
        return kit.lane(pitch).name == selection.voice
    return (Hand.RIGHT if pitch >= middle else Hand.LEFT).value == selection.voice


def middle_between_hands(part: Part) -> int:
    """Return the pitch that divides the hands, halfway between the medians of what they play; 60 without hands."""
    middles = []
    for hand in Hand:
        pitches = sorted(n.pitch for n in part.notes if n.hand is hand)
        if pitches:
            middles.append(pitches[len(pitches) // 2])
    return round(sum(middles) / len(middles)) if len(middles) == len(Hand) else 60


def selected_rows(part: Part, overlay: Overlay, selection: Selection, *, kit: KitMap) -> list[RowAt]:
    """Return all rows that are looked at, in order of place."""
    middle = middle_between_hands(part)
    return sorted(
        (
            at
            for at in rows_at(part, overlay)
            if is_selected(at, selection, part=part, overlay=overlay, kit=kit, middle=middle)
        ),
        key=lambda at: at.order,
    )


def places_of_row(row: Played) -> list[NotePlace]:
    """Return the places of a row: its written note and its played one, as far as it has them."""
    return [
        *([NotePlace.target(row.target)] if row.target is not None else []),
        *([NotePlace.played(row.take)] if row.take is not None else []),
    ]


def place_of_row(row: Played) -> NotePlace:
    """Return which note a row is about. Written out, it is the id of that note on the page."""
    return NotePlace.of_row(row.target, row.take)


def faults(rows: Sequence[RowAt]) -> list[RowAt]:
    """Return the rows that lost credit, in order of place."""
    return [at for at in rows if at.row.is_fault]
