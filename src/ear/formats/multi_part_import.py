"""Tracks of a file, or parts of a score, as the one part that somebody plays."""

import re
from collections.abc import Sequence
from dataclasses import dataclass, replace

from ear.editing.cleaning import struck_once
from ear.errors import ValueOutOfRange
from ear.formats import limits
from ear.notes import Hand, Kind, Note, Part, SignKind, ornaments_of

HAND_NAMES = {
    Hand.RIGHT: re.compile(r"\b(right|rh|r\.h\.|rechte?|droite|mano destra|m\.d\.)(?!\w)", re.IGNORECASE),
    Hand.LEFT: re.compile(r"\b(left|lh|l\.h\.|linke?|gauche|mano sinistra|m\.s\.)(?!\w)", re.IGNORECASE),
}
"""How tracks are named after hands."""
NO_HANDS = "both hands"
"""What our own tracks are called whose notes tell of no hand: two of them are not two hands."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Together:
    """`doubled` are the ticks, one for each note, at which a key was struck twice and now is struck once; at `unisons` both
    notes stay written.
    """

    part: Part
    doubled: tuple[int, ...]
    unisons: tuple[int, ...]


def together(named: Sequence[tuple[str, Part]], kind: Kind) -> Together:
    """Merge named parts into one part of a kind. Raises ValueOutOfRange for no parts."""
    if not named:
        raise ValueOutOfRange("no_track_chosen")
    parts = [part for _, part in named]
    hands = _hands(named) if kind.instrument.has_hands else {}
    notes: list[Note] = []
    for k, part in enumerate(parts):
        hand = hands.get(k)
        notes += part.notes if hand is None else (_in_hand(n, hand) for n in part.notes)
    once, doubled = struck_once(notes, keeps_unisons=kind.instrument.has_length)
    pedals = [part.pedal for part in parts if part.pedal]
    sections = next((p.sections for p in parts if p.sections), ())
    made = Part.of(
        once,
        kind=kind,
        meters=parts[0].meters,
        tempos=parts[0].tempos,
        fifths=parts[0].fifths,
        sections=sections,
        cues=(cue for part in parts for cue in part.cues),
        chords=next((p.chords for p in parts if p.chords), ()),
        # One foot: of two parts that write it, the first.
        pedal=pedals[0] if pedals else (),
        signs={
            replace(sign, is_left=sign.is_left or hands.get(k) is Hand.LEFT)
            for k, part in enumerate(parts)
            for sign in part.signs
        },
        form=parts[0].form,
    ).lasting(max(part.least_bars for part in parts))
    # A part of its own brings those that it had, which its reader has said.
    own = {n.onset_tick for part in parts for n in part.notes if n.unison is not None}
    unisons = tuple(n.onset_tick for n in once if n.unison is not None and n.onset_tick not in own)
    return Together(part=_as(made, kind), doubled=tuple(doubled), unisons=unisons)


def _in_hand(note: Note, hand: Hand) -> Note:
    unison = note.unison and replace(note.unison, hand=hand)
    return replace(note, hand=hand, unison=unison)


def fits(part: Part) -> bool:
    """Return whether a part is no longer than an exercise may be."""
    return len(part.bars) <= limits.PART_BARS and len(part.notes) <= limits.PART_NOTES


def check_fits(part: Part) -> Part:
    """Check a part's length. Raises FormatError if it is longer than an exercise may be."""
    if len(part.bars) > limits.PART_BARS:
        raise limits.too_much("bars in a part", limits.PART_BARS)
    if len(part.notes) > limits.PART_NOTES:
        raise limits.too_much("notes in a part", limits.PART_NOTES)
    return part


def hand_named(name: str) -> Hand | None:
    """Return the hand that the name of a track or part speaks of, if it does."""
    hands = [hand for hand, hand_by_part in HAND_NAMES.items() if hand_by_part.search(name)]
    return hands[0] if len(hands) == 1 else None


def _hands(named: Sequence[tuple[str, Part]]) -> dict[int, Hand]:
    """Which is which hand: by the names if all of them say so, else of two that say nothing the higher is the right."""
    if any(n.hand is not None for _, part in named for n in part.notes):
        return {}
    hand_by_part = {k: hand_named(name) for k, (name, _) in enumerate(named)}
    by_name = {k: hand for k, hand in hand_by_part.items() if hand is not None}
    if len(by_name) == len(named):
        return by_name
    is_one = all(name == NO_HANDS for name, _ in named)
    if len(named) != 2 or is_one or any(not part.notes for _, part in named):
        return {}
    low, high = sorted(range(2), key=lambda k: (named[k][1].pitches.mean(), -k))
    return {high: Hand.RIGHT, low: Hand.LEFT}


def _as(part: Part, kind: Kind) -> Part:
    """What the instrument does not have is not said."""
    has = kind.instrument

    def plain(note: Note) -> Note:
        if note.ornament is not None and note.ornament not in ornaments_of(has):
            note = replace(note, ornament=None, grace_semitones=None)
        if not has.has_length:
            note = replace(note, articulations=(), unison=None)
        if has.has_hands:
            return note
        return replace(
            note,
            hand=None,
            finger=None,
            is_proposed=False,
            name_fifth=None,
            voice=None,
            unison=note.unison and replace(note.unison, hand=None, voice=None),
        )

    return replace(
        part,
        notes=tuple(plain(n) for n in part.notes),
        cues=tuple(plain(n) for n in part.cues),
        pedal=part.pedal if has.has_pedal else (),
        signs=part.signs
        if has.has_hands
        else tuple(s for s in part.signs if s.kind is not SignKind.SLUR and not s.is_left),
        sections=part.sections if has.has_key else tuple(replace(s, fifths=None) for s in part.sections),
    )
