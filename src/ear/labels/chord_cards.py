"""Chord names over the staves, and a card for each chord: its keys, and what moves to it."""

from collections import Counter
from dataclasses import dataclass
from functools import lru_cache
from itertools import groupby

import numpy as np

from ear.conventions import PLAIN, Conventions
from ear.notes import Hand, Note, Part
from ear.notes.chord_names import QUALITIES, tones_of
from ear.notes.pitch import BLACK_KEYS
from ear.notes.recent import of_the_same_part
from ear.patterns.chords import Chord, tonic_named

MIN_NOTES = 3


@lru_cache(maxsize=4096)
def name_of(written: frozenset[tuple[int, int]]) -> str | None:
    """Return the chord that exactly these pitches make, each given with its name on the line of fifths; None if
    it has no name.

    Root and bass are named as they are written.

    The lowest pitch is taken for the root if it can be; else the chord is written over its bass.
    """
    if len(written) < MIN_NOTES:
        return None
    bass = min(written)[0]
    named = {pitch % 12: tonic_named(name_fifth) for pitch, name_fifth in written}
    classes = set(named)
    for root in sorted(classes, key=lambda c: (c - bass) % 12):
        for quality, steps in QUALITIES.items():
            if len(steps) >= MIN_NOTES and {(root + s) % 12 for s in steps} == classes:
                over = None if root == bass % 12 else named[bass % 12]
                return Chord(root=named[root], quality=quality, bass=over).name
    return None


@of_the_same_part
def chord_names(part: Part) -> dict[int, str]:
    """Return chord names by tick: the part's own, or, if it has none, those its notes make wherever a hand
    strikes three keys or more at once.
    """
    if not part.instrument.has_key:
        return {}
    if part.chords:
        return {mark.tick: mark.name for mark in part.chords}
    _ticks, struck_at_once = np.unique(part.onset_ticks, return_counts=True)
    if not (struck_at_once >= MIN_NOTES).any():
        return {}
    chord_names: dict[int, str] = {}
    last = None
    for tick, together in groupby(
        zip(part.notes, part.names, strict=True), key=lambda pair: pair[0].onset_tick
    ):
        struck = list(together)
        if len(struck) < MIN_NOTES or max(Counter(n.hand for n, _ in struck).values()) < MIN_NOTES:
            continue
        name = name_of(frozenset((n.pitch, name_fifth) for n, name_fifth in struck))
        if name and name != last:
            chord_names[tick] = name
            last = name
    return chord_names


@dataclass(frozen=True, slots=True, kw_only=True)
class KeyShape:
    """One key of a drawn keyboard, left to right, in widths of a white key."""

    pitch: int
    is_black: bool
    at: float
    state: str
    """`free`, `stays`, `comes` (moved here from the chord before) or `left` (was held before)."""


@dataclass(frozen=True, slots=True, kw_only=True)
class ChordCard:
    """One chord of a part, as it is played there."""

    bar: int
    name: str
    notes: tuple[str, ...]
    keys: tuple[KeyShape, ...]
    moving: tuple[str, ...]
    """Names of the notes that the chord before did not have; empty for the first."""

    @property
    def width(self) -> float:
        """In widths of a white key."""
        return sum(not key.is_black for key in self.keys)


def chord_cards(part: Part, *, conventions: Conventions = PLAIN) -> tuple[ChordCard, ...]:
    """Return a card for each chord of the part, the first time that it comes in exactly that position."""
    names = chord_names(part)
    cards: list[ChordCard] = []
    before: frozenset[int] = frozenset()
    seen: set[tuple[str, frozenset[int]]] = set()
    ticks = sorted(names)
    if not ticks:
        return ()
    for tick, after in zip(ticks, [*ticks[1:], part.end_tick], strict=True):
        held = _held(part, tick, after)
        if held and (names[tick], held) not in seen:
            seen.add((names[tick], held))
            cards.append(_card(part, tick, names[tick], held, before, conventions))
        before = held or before
    return tuple(cards)


def _held(part: Part, tick: int, after: int) -> frozenset[int]:
    """What is struck first of a chord: all at its tick, or, of one that is broken, all until the next."""
    inside: list[Note] = [n for n in part.notes if tick <= n.onset_tick < after]
    for hand in Hand:
        own = [n for n in inside if n.hand is hand]
        if len({n.pitch for n in own}) >= MIN_NOTES:
            # The hand that has the chord; what the other does beside it is no part of the position.
            inside = own
            break
    struck = frozenset(n.pitch for n in inside if n.onset_tick == tick)
    return struck if len(struck) >= MIN_NOTES else frozenset(n.pitch for n in inside)


def _card(
    part: Part, tick: int, name: str, held: frozenset[int], before: frozenset[int], conventions: Conventions
) -> ChordCard:
    written = tones_of(name)
    called = {
        pitch: conventions.letter(pitch, name_fifth=written.get(pitch % 12, part.name_of(pitch, tick)))
        for pitch in held
    }
    shown = held | before
    keys = []
    at = 0.0
    for pitch in range(_white_at_or_below(min(shown)), _white_at_or_above(max(shown)) + 1):
        is_black = pitch % 12 in BLACK_KEYS
        state = "free"
        if pitch in held:
            state = "stays" if pitch in before or not before else "comes"
        elif pitch in before:
            state = "left"
        keys.append(KeyShape(pitch=pitch, is_black=is_black, at=at - 0.3 if is_black else at, state=state))
        at += 0 if is_black else 1
    return ChordCard(
        bar=part.meters.bar_at(tick).number,
        name=name,
        notes=tuple(called[p] for p in sorted(held)),
        keys=tuple(keys),
        moving=tuple(called[p] for p in sorted(held - before)) if before else (),
    )


def _white_at_or_below(pitch: int) -> int:
    return pitch - 1 if pitch % 12 in BLACK_KEYS else pitch


def _white_at_or_above(pitch: int) -> int:
    return pitch + 1 if pitch % 12 in BLACK_KEYS else pitch
