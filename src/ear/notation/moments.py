"""A part as it would be read out: what each hand does, place by place."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from itertools import groupby

from ear.notation.values import Value
from ear.notation.written import WrittenScore, write_out
from ear.notation.written_notes import Written
from ear.notes import Hand, Part


@dataclass(frozen=True, slots=True, kw_only=True)
class Moment:
    """What one hand (or the kit) does at one place: notes that begin together with one value, or a rest.

    `tick` is where it is written; `notes` are numbers of the part's notes, none in a rest.
    """

    tick: int
    bar: int
    beat: float
    """Counted from 1 within the bar."""
    hand: Hand | None
    notes: tuple[int, ...]
    values: tuple[Value, ...]
    """One after the other, tied."""
    is_whole_bar: bool = False


def moments(part: Part) -> tuple[Moment, ...]:
    """Return all moments of a part in order of place; at one place the right hand comes first."""
    score = write_out(part)
    lasting = _values_of_notes(score)
    moments: list[Moment] = []
    seen: set[int] = set()
    for bar in score.bars:
        for number, staff in enumerate(bar.staves):
            for voice in staff.voices:
                if _is_second(voice):
                    continue
                for written in voice:
                    own = [
                        head.note for head in written.heads if head.note not in seen and not head.is_unison
                    ]
                    seen.update(own)
                    if own or (not written.heads and not written.is_hidden):
                        moments += _moments_of(part, written, own, number, len(bar.staves), lasting)
    moments.sort(key=lambda m: (m.tick, m.hand is Hand.LEFT, not m.notes))
    sounding = {(m.bar, m.hand) for m in moments if m.notes}
    if part.instrument.has_lanes:
        # Strokes have no length: what strikes together is one moment, and between strokes is nothing to be said.
        kept = [m for m in moments if m.notes or (m.bar, None) not in sounding]
        return tuple(_together(list(inside)) for _, inside in groupby(kept, key=lambda m: m.tick))
    # A voice that is silent beside another one of the same hand is a matter of engraving.
    return tuple(m for m in moments if m.notes or not m.is_whole_bar or (m.bar, m.hand) not in sounding)


def _is_second(voice: Sequence[Written]) -> bool:
    """Has a voice in a bar nothing but second heads of keys that others strike?"""
    heads = [head for written in voice for head in written.heads]
    return bool(heads) and all(head.is_unison for head in heads)


def _together(struck: list[Moment]) -> Moment:
    notes = sorted(n for moment in struck for n in moment.notes)
    return replace(struck[0], notes=tuple(notes))


def _moments_of(
    part: Part,
    written: Written,
    own: list[int],
    staff: int,
    staves: int,
    lasting: dict[int, tuple[Value, ...]],
) -> Iterator[Moment]:
    """`own` are notes that begin here; none in a rest."""
    bar = part.meters.bar_at(written.tick)
    hands = {part.notes[n].hand for n in own}
    by_staff = (Hand.RIGHT, Hand.LEFT)[min(staff, 1)] if staves > 1 else _only_hand(part)
    hand = next(iter(hands)) if len(hands) == 1 else by_staff
    if part.instrument.has_lanes:
        hand = None
    place = (written.tick - bar.start_tick) / bar.meter.beat_ticks + 1
    for _, notes in groupby(own, key=lambda n: lasting[n]):
        inside = tuple(notes)
        yield Moment(
            tick=written.tick,
            bar=bar.number,
            beat=round(place, 3),
            hand=hand,
            notes=inside,
            values=lasting[inside[0]],
        )
    if not own:
        yield Moment(
            tick=written.tick, bar=bar.number, beat=round(place, 3), hand=hand, notes=(), values=(written.value,),
            is_whole_bar=written.is_whole_bar,
        )  # fmt: skip


def _only_hand(part: Part) -> Hand | None:
    """The hand that plays all of a part; None where there are several, or none is said."""
    hands = {note.hand for note in part.notes}
    return next(iter(hands)) if len(hands) == 1 else None


def _values_of_notes(score: WrittenScore) -> dict[int, tuple[Value, ...]]:
    """Of each note the values of its heads, in order."""
    values_of: dict[int, list[Value]] = {}
    for bar in score.bars:
        for staff in bar.staves:
            for voice in staff.voices:
                for written in voice:
                    for head in (each for each in written.heads if not each.is_unison):
                        values_of.setdefault(head.note, []).append(written.value)
    return {note: tuple(values) for note, values in values_of.items()}
