"""Variations of a part by rule: other rhythms, keys and hands, easier and harder. A part in, parts out.

A rule changes when notes sound, how long and how loud, and never which come after which; what it leaves out it leaves out
by place. So a set of ten has ten rhythms of one line.
"""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from fractions import Fraction

from ear.editing.transpose import to_key
from ear.errors import ValueOutOfRange
from ear.notes import Hand, Note, Part
from ear.text import Text, gettext_noop

SHORTEST_TICKS = 30
ACCENT, PLAIN_VELOCITY = 112, 76
LOUDEST = 127


@dataclass(frozen=True, slots=True, kw_only=True)
class VariationRule:
    """One rhythm: its key, its name, and how it is made."""

    key: str
    name: Text
    make: Callable[[Part], Part]


def _moments(part: Part) -> list[list[Note]]:
    """Notes that begin together, in order."""
    moments: dict[int, list[Note]] = {}
    for note in part.notes:
        moments.setdefault(note.onset_tick, []).append(note)
    return [moments[tick] for tick in sorted(moments)]


def _pairs(part: Part, first_share: Fraction) -> Part:
    """Of moments that lie equally far apart and fill a beat in twos the second is moved, so that the first has this share
    of both."""
    moments, made = _moments(part), []
    onsets = [moment[0].onset_tick for moment in moments]
    k = 0
    while k < len(moments):
        bar = part.meters.bar_at(onsets[k])
        step = onsets[k + 1] - onsets[k] if k + 1 < len(onsets) else 0
        into = onsets[k] - bar.start_tick
        ends = onsets[k + 2] if k + 2 < len(onsets) else (onsets[k + 1] + step if step else 0)
        is_pair = (
            step > 0
            and ends - onsets[k] == 2 * step
            and into % (2 * step) == 0
            and step <= bar.meter.beat_ticks
        )
        if not is_pair:
            made += moments[k]
            k += 1
            continue
        long = round(2 * step * first_share)
        made += [replace(n, length_tick=_scaled(n.length_tick, long, step)) for n in moments[k]]
        made += [
            replace(n, onset_tick=onsets[k] + long, length_tick=_scaled(n.length_tick, 2 * step - long, step))
            for n in moments[k + 1]
        ]
        k += 2
    return part.with_notes(made)


def _scaled(length: int, now: int, before: int) -> int:
    return max(SHORTEST_TICKS, length * now // before)


def _twice(part: Part) -> Part:
    """Each note struck twice in its own time."""
    made = []
    for note in part.notes:
        half = max(SHORTEST_TICKS, note.length_tick // 2)
        made += [
            replace(note, length_tick=half),
            replace(note, onset_tick=note.onset_tick + half, length_tick=half),
        ]
    return part.with_notes(made)


def _where(part: Part, keep: Callable[[int, int, int], bool]) -> Part:
    """Notes whose place is kept: tick in the bar, ticks of a beat, ticks of the bar."""
    kept = []
    for note in part.notes:
        bar = part.meters.bar_at(note.onset_tick)
        if keep(note.onset_tick - bar.start_tick, bar.meter.beat_ticks, bar.meter.bar_ticks):
            kept.append(note)
    return replace(part.with_notes(kept), least_bars=len(part.bars))


def _off_beats(part: Part) -> Part:
    """All half a beat later; what would leave the part is left out."""
    end = part.bars[-1].end_tick
    moved = []
    for note in part.notes:
        onset = note.onset_tick + part.meters.bar_at(note.onset_tick).meter.beat_ticks // 2
        if onset < end:
            moved.append(replace(note, onset_tick=onset, length_tick=min(note.length_tick, end - onset)))
    return replace(part.with_notes(moved), least_bars=len(part.bars))


def _accents(part: Part, every: int, start: int) -> Part:
    """Every so-many-th moment is an accent, the others alike."""
    loud = {m[0].onset_tick for k, m in enumerate(_moments(part)) if k % every == start}
    return part.with_notes(
        replace(n, velocity=ACCENT if n.onset_tick in loud else PLAIN_VELOCITY) for n in part.notes
    )


def _joined(part: Part) -> Part:
    """Every second moment is held from the one before it."""
    moments, made = _moments(part), []
    for k, moment in enumerate(moments):
        if k % 2 == 0:
            after = moments[k + 1] if k + 1 < len(moments) else []
            end = max((n.end_tick for n in after), default=0)
            made += [replace(n, length_tick=max(n.length_tick, end - n.onset_tick)) for n in moment]
    return replace(part.with_notes(made), least_bars=len(part.bars))


RHYTHMS = (
    VariationRule(key="long-short", name=gettext_noop("long, short"), make=lambda p: _pairs(p, Fraction(3, 4))),
    VariationRule(key="short-long", name=gettext_noop("short, long"), make=lambda p: _pairs(p, Fraction(1, 4))),
    VariationRule(key="swung", name=gettext_noop("swung"), make=lambda p: _pairs(p, Fraction(2, 3))),
    VariationRule(key="twice", name=gettext_noop("each note twice"), make=_twice),
    VariationRule(key="off-beats", name=gettext_noop("half a beat later"), make=_off_beats),
    VariationRule(key="rest-first", name=gettext_noop("a rest on the first beat"), make=lambda p: _where(p, lambda t, beat, bar: t >= beat)),
    VariationRule(key="rest-last", name=gettext_noop("a rest on the last beat"), make=lambda p: _where(p, lambda t, beat, bar: t < bar - beat)),
    VariationRule(key="joined", name=gettext_noop("every second note held over"), make=_joined),
    VariationRule(key="accent-2", name=gettext_noop("an accent on every second note"), make=lambda p: _accents(p, 2, 1)),
    VariationRule(key="accent-3", name=gettext_noop("an accent on every third note"), make=lambda p: _accents(p, 3, 0)),
)  # fmt: skip
BY_KEY = {rule.key: rule for rule in RHYTHMS}
ON_BEATS = VariationRule(
    key="beats", name=gettext_noop("only what is on a beat"), make=lambda p: _where(p, lambda t, beat, bar: t % beat == 0)
)  # fmt: skip


def rhythm(part: Part, key: str) -> Part | None:
    """Return the part varied by a rhythm rule; None if the rule changes nothing or leaves nothing.

    Raises ValueOutOfRange for an unknown rule.
    """
    rule = BY_KEY.get(key) or (ON_BEATS if key == ON_BEATS.key else None)
    if rule is None:
        raise ValueOutOfRange("rule_unknown", key=key)
    made, end = rule.make(part), part.bars[-1].end_tick
    # Nothing sounds beyond the last bar.
    made = made.with_notes(
        replace(n, length_tick=min(n.length_tick, end - n.onset_tick))
        for n in made.notes
        if n.onset_tick < end
    )
    return None if not made.notes or made.notes == part.notes else made


def in_key(part: Part, fifths: int) -> Part:
    """Return the part in another key, moved the shorter way."""
    return to_key(part, fifths=fifths).part


def with_hand(part: Part, hand: Hand) -> Part | None:
    """Return one hand alone in as many bars; None if the part does not have both hands."""
    if len({n.hand for n in part.notes if n.hand}) < 2:
        return None
    return replace(part.with_notes(n for n in part.notes if n.hand is hand), least_bars=len(part.bars))


def tempos(bpm: float, percents: Sequence[int]) -> list[float]:
    """Return the tempos of a set, in beats a minute, as whole numbers."""
    return [float(round(bpm * percent / 100)) for percent in percents]
