"""Notes played in against the click: a pass laid over the part, or in place of what its bars held."""

from dataclasses import replace

import numpy as np

from ear.editing.edited import Edited, rebuilt
from ear.editing.pedal import laid_in
from ear.editing.quantise import QuantiseGrid, plan, quantise
from ear.errors import ValueOutOfRange
from ear.notes import Hand, Note, Part, PedalMark, Take, place_of
from ear.units import TICKS_PER_QUARTER

MIN_TEMPO, MAX_TEMPO = 20, 150


def play_in(
    part: Part,
    take: Take,
    *,
    first_bar: int,
    last_bar: int,
    tempo_percent: float = 100.0,
    replaces: bool = False,
    hand: Hand | None = None,
    grid_ticks: int | None = None,
) -> Edited:
    """Write the notes of a take into some bars of the part, and select them.

    The take's second 0 is the downbeat of `first_bar`, its click ran at `tempo_percent` of the part's
    tempo. Notes played before it begin with it; those after `last_bar` are left out. With `grid_ticks`
    the pass alone is quantised. Replacing takes out what began in these bars.
    Raises ValueOutOfRange for bars that the part has not, and for a tempo out of range.
    """
    if not part.first_bar <= first_bar <= last_bar <= part.last_bar:
        raise ValueOutOfRange("bar_range_outside_part", count=part.last_bar, first=first_bar, last=last_bar)
    if not MIN_TEMPO <= tempo_percent <= MAX_TEMPO:
        raise ValueOutOfRange("pass_tempo_out_of_range", tempo_least=MIN_TEMPO, tempo_most=MAX_TEMPO)
    start, end = part.meters.bar(first_bar).start_tick, part.meters.bar(last_bar).end_tick
    start_s = part.tempos.second_at(start)
    rate = tempo_percent / 100.0

    def tick(second: float) -> int:
        quarters = part.tempos.quarters(np.array(start_s + max(0.0, second) * rate))
        return round(float(quarters) * TICKS_PER_QUARTER)

    played: list[Note] = []
    for note in take.notes:
        onset = tick(note.onset_s)
        if not start <= onset < end:
            continue
        length = max(1, tick(note.onset_s + note.length_s) - onset)
        has_hands = part.instrument.has_hands
        played.append(
            Note(
                onset_tick=onset,
                length_tick=part.instrument.written_ticks(length),
                pitch=note.pitch,
                velocity=note.velocity,
                hand=hand if has_hands else None,
            )
        )
    if grid_ticks is not None and played:
        alone = part.with_notes(_one_each(played))
        moves = plan(alone, frozenset(), QuantiseGrid(step=grid_ticks), strength=1.0, lengths=False)
        played = list(quantise(alone, moves).part.notes)
    kept = [n for n in part.notes if not (replaces and start <= n.onset_tick < end)]
    if replaces:
        kept = [
            replace(n, length_tick=min(n.length_tick, start - n.onset_tick)) if n.onset_tick < start else n
            for n in kept
        ]
    if part.instrument.has_pedal and take.pedal:
        spans = [(tick(span.start_s), tick(span.end_s)) for span in take.pedal]
        if grid_ticks is not None:
            spans = [(_on_grid(a, grid_ticks), _on_grid(b, grid_ticks)) for a, b in spans]
        marks = [PedalMark(start_tick=a, end_tick=b) for a, b in spans if a < b]
        part = laid_in(part, marks, start=start, end=end)
    return rebuilt(part, [*((n, False) for n in kept), *((n, True) for n in played)])


def _on_grid(tick: int, step: int) -> int:
    return round(tick / step) * step


def _one_each(notes: list[Note]) -> list[Note]:
    return list({place_of(n): n for n in notes}.values())
