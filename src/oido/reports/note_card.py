"""All that is known of one note of a take: as written, as played, and what became of it."""

from dataclasses import dataclass
from typing import Any

from ear.criteria.score import Verdict
from ear.drawing.verdicts import RowAt, Selection, place_of_row, places_of_row, ticks_per_second
from ear.labels.counting import syllable
from ear.note_place import NotePlace
from ear.notes import Part
from ear.notes.controls import control_lines
from ear.reader import Reader
from ear.words.controls import describe_controls
from ear.words.places import describe_tick
from oido.reports.analysed_take import AnalysedTake
from oido.reports.report import fault_of
from oido.reports.view_options import VERDICT_NAMES

SAME_MS = 0.02
"""Figures are stored to hundredths."""


@dataclass(frozen=True, slots=True, kw_only=True)
class NoteFacts:
    """One side of the card: as written, or as played."""

    name: str
    position: str
    """The place in words: “bar 3, beat 2 and a half”."""
    length_beats: float
    length_ms: float
    velocity: int


@dataclass(frozen=True, slots=True, kw_only=True)
class NoteCard:
    place: NotePlace
    name: str
    bar: int
    beat: int
    counted: str
    """How the place is counted aloud, behind the beat; empty on the beat and where it has no word."""
    verdict: Verdict
    verdict_name: Any
    written: NoteFacts | None
    played: NoteFacts | None
    judged_ms: float | None
    """By which it is judged; None where it was not played for a written note."""
    deviation_ms: float | None
    deviation_beats: float | None
    on_click_ms: float | None
    forgiven_ms: float | None
    """Constant lead or lag that was taken off the distance from the click; None where the player's own pulse counted."""
    velocity_difference: int | None
    length_ratio: float | None
    controls: str
    """What pedal and wheels did while the note sounded; empty where nothing."""
    costs: float
    """Points of the mark that it cost."""
    hear_from: float
    """Second of the music at which the note sounds."""
    hear_place: str
    """From and to: the note with a beat of run-up."""
    before: NotePlace | None
    """The fault before this note, and the one after."""
    after: NotePlace | None
    place_in_faults: tuple[int, int] | None
    """(this one, of so many), counted from 1; None where it is no fault."""


def note_card(
    analysed: AnalysedTake, wanted: NotePlace, selection: Selection, reader: Reader
) -> NoteCard | None:
    """Return the card of the note at this place, and its neighbouring faults among those shown."""
    rows = analysed.rows()
    at = next((at for at in rows if wanted in places_of_row(at.row)), None)
    if at is None:
        return None
    part, row = analysed.part, at.row
    place = part.notes[row.target].onset_tick if row.target is not None else at.tick
    position = part.meters.position(max(0, place))
    bar = part.meters.bar_at(max(0, place))
    measured = analysed.facts.rows
    faults = analysed.faults(selection)
    ids = [place_of_row(fault.row) for fault in faults]
    here = place_of_row(row)
    before = [i for i, fault in zip(ids, faults, strict=True) if i != here and fault.order < at.order]
    after = [i for i, fault in zip(ids, faults, strict=True) if i != here and fault.order > at.order]
    heard = fault_of(analysed, at)
    beat_ticks = bar.meter.beat_ticks
    written, played = _written(part, row.target, reader), _played(analysed, at, reader)
    named_by = written or played
    assert named_by is not None
    counted = syllable(bar.meter, round(place - bar.start_tick))
    return NoteCard(
        place=here,
        name=named_by.name,
        bar=position.bar,
        beat=position.beat,
        counted="" if counted.isdigit() else counted,
        verdict=row.verdict,
        verdict_name=VERDICT_NAMES[row.verdict],
        written=written,
        played=played,
        judged_ms=row.judged_ms,
        deviation_ms=row.deviation_ms,
        deviation_beats=None
        if row.deviation_ms is None
        else row.deviation_ms / 1000 * ticks_per_second(part, place, analysed.overlay) / beat_ticks,
        on_click_ms=measured.on_click_ms[row.number],
        forgiven_ms=_forgiven_ms(analysed, row.number, row.judged_ms),
        velocity_difference=measured.velocity_difference[row.number],
        length_ratio=measured.length_ratio[row.number],
        controls="" if row.take is None else _controls(analysed, row.take, reader),
        costs=row.cost,
        hear_from=round(max(0.0, part.tempos.second_at(place)), 4),
        hear_place=f"{heard.first_s} {heard.last_s}",
        before=before[-1] if before else None,
        after=after[0] if after else None,
        place_in_faults=(ids.index(here) + 1, len(ids)) if here in ids else None,
    )


def _controls(analysed: AnalysedTake, take_note: int, reader: Reader) -> str:
    played = analysed.played
    return ", ".join(describe_controls(control_lines(played).during(played.notes[take_note]), reader))


def _forgiven_ms(analysed: AnalysedTake, number: int, judged_ms: float | None) -> float | None:
    click_ms, forgiven_ms = analysed.facts.rows.click_ms[number], analysed.judgement.scores.forgiven_ms
    if judged_ms is None or click_ms is None or abs(click_ms - forgiven_ms - judged_ms) > SAME_MS:
        return None
    return forgiven_ms


def _written(part: Part, target: int | None, reader: Reader) -> NoteFacts | None:
    if target is None:
        return None
    note = part.notes[target]
    bar = part.bar_holding(target)
    seconds = part.tempos.second_at(note.end_tick) - part.tempos.second_at(note.onset_tick)
    return NoteFacts(
        name=reader.sound(part, note.pitch, tick=note.onset_tick),
        position=describe_tick(part, note.onset_tick, reader),
        length_beats=note.length_tick / bar.meter.beat_ticks,
        length_ms=seconds * 1000,
        velocity=note.velocity,
    )


def _played(analysed: AnalysedTake, at: RowAt, reader: Reader) -> NoteFacts | None:
    if at.row.take is None:
        return None
    part, note = analysed.part, analysed.played.notes[at.row.take]
    tick = max(0, round(at.tick))
    ticks = note.length_s * ticks_per_second(part, tick, analysed.overlay)
    return NoteFacts(
        name=reader.sound(part, note.pitch, tick=tick),
        position=describe_tick(part, round(at.tick), reader),
        length_beats=ticks / part.meters.bar_at(tick).meter.beat_ticks,
        length_ms=note.length_s * 1000,
        velocity=note.velocity,
    )
