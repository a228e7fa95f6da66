"""A part carried through all twelve keys."""

from dataclasses import replace
from enum import StrEnum

from ear.editing.bars import insert_bars, join, lead_in
from ear.editing.hands import refingered
from ear.editing.transpose import moved_fifths, transpose
from ear.errors import ValueOutOfRange
from ear.notes import Part, Section
from ear.patterns.modes import key_name

KEYS = 12


class KeyOrder(StrEnum):
    """In which order a chain goes through the keys."""

    DOWN = "down by semitones"
    UP = "up by semitones"
    FIFTHS = "by fifths"


STEPS = {KeyOrder.DOWN: -1, KeyOrder.UP: 1, KeyOrder.FIFTHS: 7}


def key_chain(
    part: Part,
    *,
    order: KeyOrder,
    keys: int = KEYS,
    gap_bars: int = 1,
    with_cue: bool = False,
    is_minor: bool = False,
) -> Part:
    """Return the part in one key after the other, each a section named by its key.

    Raises ValueOutOfRange.

    Between keys are `gap_bars` bars of rest, with a cue on their beats if wanted: the first note of
    the key that comes. By fifths each key takes the nearer octave to the first; by semitones
    the line goes on, and past the sixth step an octave back.
    Raises ValueOutOfRange for drums, and where a note would leave the keys.
    """
    if not part.instrument.has_key:
        raise ValueOutOfRange("drums_without_key")
    if not 1 <= keys <= KEYS or gap_bars < 0:
        raise ValueOutOfRange("key_chain_out_of_range", keys=KEYS)
    if part.first_bar != 1:
        counted = key_chain(
            part.numbered_from(1),
            keys=keys,
            order=order,
            gap_bars=gap_bars,
            with_cue=with_cue,
            is_minor=is_minor,
        )
        return counted.numbered_from(part.first_bar)
    bars = len(part.bars)
    plain = replace(part, least_bars=bars)
    chain: Part | None = None
    sections = []
    for k in range(keys):
        semitones = (STEPS[order] * k + 5) % 12 - 5 if order is KeyOrder.FIFTHS else STEPS[order] * k
        if abs(semitones) > 6:
            semitones -= 12 if semitones > 0 else -12
        link = refingered(transpose(plain, frozenset(), semitones=semitones).part) if semitones else plain
        start, fifths = 1 + k * (bars + gap_bars), moved_fifths(part.fifths, semitones)
        sections.append(Section(bar=start, name=key_name(fifths, is_minor=is_minor), fifths=fifths))
        # Keys and sections inside the part go along.
        sections += [
            replace(s, bar=start - 1 + s.bar, fifths=fifths if s.fifths is None else s.fifths)
            for s in link.sections
            if s.bar > 1
        ]
        link = replace(link, sections=())
        if chain is None:
            chain = link
        else:
            if gap_bars:
                link = _with_gap(link, gap_bars, with_cue=with_cue)
            chain = join(chain, link)
    assert chain is not None
    return replace(chain, sections=tuple(sections))


def _with_gap(link: Part, bars: int, *, with_cue: bool) -> Part:
    if with_cue:
        return lead_in(link, bars=bars, with_cue=True).part
    return insert_bars(link, before=1, count=bars).part
