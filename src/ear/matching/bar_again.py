"""Bars matched once more, each by itself: what a teacher asks for where the story of the whole take goes wrong.

The whole take is explained by the fewest events, and a bar may pay for that. Matched alone, its notes are looked for
among those that lie between what the neighbours were linked with, at any lead or lag and with no jump to pay for. The
rest of the take stays as it was found, its time base too: the bar has a slip before it and one behind it where it lies
elsewhere.
"""

from collections.abc import Collection, Sequence
from dataclasses import replace

import numpy as np

from ear.matching.match import match
from ear.matching.outcome import Match, Outcome, Pair, Slip, SlipKind, TimeBase
from ear.matching.path import START_S
from ear.notes import Bar, KitMap, MeterChange, MeterMap, Part, Take, TempoChange, TempoMap
from ear.units import TICKS_PER_QUARTER


def match_bars_again(part: Part, take: Take, matched: Match, bars: Collection[int], *, kit: KitMap) -> Match:
    """Return the match with these bars, by number, matched once more, one after the other.

    A bar stays as it was if that makes no more of its notes right. Bars outside the part are ignored.
    """
    for bar in sorted(set(bars)):
        matched = _bar_again(part, take, matched, bar, kit=kit)
    return matched


def _bar_again(part: Part, take: Take, whole_match: Match, bar: int, *, kit: KitMap) -> Match:
    targets = np.flatnonzero(part.bar_of_note == bar).tolist()
    if not targets or whole_match.is_foreign:
        return whole_match
    played = _between_neighbours(take, whole_match, targets[0], targets[-1])
    if not played:
        return whole_match
    base, first_quarter = whole_match.time_base, part.meters.bar(bar).start_tick / TICKS_PER_QUARTER
    shift_s = _shift_s(base, part.tempos, before=targets[0])
    begins_s = float(base.pace.seconds(np.array([first_quarter]), part.tempos)[0]) + shift_s
    ratio = base.pace.ratio_at(first_quarter + 1.0)
    own = [replace(take.notes[j], onset_s=(take.notes[j].onset_s - begins_s) * ratio) for j in played]
    alone = replace(take, notes=tuple(own), pedal=())
    seen = match(_bar_alone(part, part.meters.bar(bar)), alone, kit=kit, transposed=whole_match.transposition)
    rows = [_moved(pair, targets, played) for pair in seen.pairs]
    inside = frozenset(targets)
    before = [p for p in whole_match.pairs if p.target in inside or p.take in frozenset(played)]
    if _worth(rows) <= _worth(before):
        return whole_match
    kept = [p for p in whole_match.pairs if p.target not in inside and p.take not in frozenset(played)]
    pairs = sorted([*kept, *rows], key=_place)
    made = replace(whole_match, pairs=tuple(pairs))
    return replace(made, time_base=_time_base(part, take, made, whole_match.time_base, targets))


def _bar_alone(part: Part, bar: Bar) -> Part:
    """The notes that begin in a bar, from its beginning on."""
    tempos = [TempoChange(tick=0, bpm=part.tempos.bpm_at(bar.start_tick))]
    tempos += [
        TempoChange(tick=c.tick - bar.start_tick, bpm=c.bpm)
        for c in part.tempos.changes
        if bar.start_tick < c.tick < bar.end_tick
    ]
    notes = (n for n in part.notes if bar.start_tick <= n.onset_tick < bar.end_tick)
    return Part.of(
        (replace(n, onset_tick=n.onset_tick - bar.start_tick) for n in notes),
        kind=part.kind, meters=MeterMap([MeterChange(bar=1, meter=bar.meter)]), tempos=TempoMap(tempos),
    )  # fmt: skip


def _between_neighbours(take: Take, whole_match: Match, first: int, last: int) -> list[int]:
    """Take notes of the bar: linked with its own, or with none and between those of its neighbours."""
    earlier = [take.notes[j].onset_s for i, j in _linked(whole_match) if i < first]
    later = [take.notes[j].onset_s for i, j in _linked(whole_match) if i > last]
    low, high = (earlier[-1] if earlier else -np.inf), (later[0] if later else np.inf)
    own = {j for i, j in _linked(whole_match) if first <= i <= last}
    free = {
        p.take
        for p in whole_match.pairs
        if p.target is None and p.take is not None and low < take.notes[p.take].onset_s < high
    }
    return sorted(own | free)


def _linked(whole_match: Match) -> list[tuple[int, int]]:
    return [(p.target, p.take) for p in whole_match.pairs if p.target is not None and p.take is not None]


def _worth(rows: Sequence[Pair]) -> tuple[int, int]:
    """Right notes, then fewest that are left over."""
    right = sum(p.outcome is Outcome.MATCHED for p in rows)
    return right, -sum(p.target is None for p in rows)


def _moved(pair: Pair, targets: Sequence[int], played: Sequence[int]) -> Pair:
    """A row of the bar as one of the whole."""
    return pair._replace(
        target=None if pair.target is None else targets[pair.target],
        take=None if pair.take is None else played[pair.take],
        near=None if pair.near is None else targets[pair.near],
    )


def _place(pair: Pair) -> tuple[bool, int]:
    return pair.target is None, pair.target if pair.target is not None else (pair.take or 0)


def _shift_s(base: TimeBase, tempos: TempoMap, *, before: int) -> float:
    """How much later all is before a target note, in seconds."""
    return sum(s.quarters * base.quarter_s(s.quarter, tempos) for s in base.slips if s.target < before)


def _time_base(part: Part, take: Take, made: Match, base: TimeBase, targets: Sequence[int]) -> TimeBase:
    """The time base with the bar where it was played: at the shift before it or after it, if that is near, else at its
    own."""
    links = _linked(made)
    inside = [(i, j) for i, j in links if targets[0] <= i <= targets[-1]]
    if not inside:
        return base
    after = next((i for i, _ in links if i > targets[-1]), None)
    earlier = tuple(s for s in base.slips if s.target < targets[0])
    later = tuple(s for s in base.slips if after is not None and s.target > after)
    shift_before = _shift_s(base, part.tempos, before=targets[0])
    shift_after = _shift_s(base, part.tempos, before=after + 1) if after is not None else shift_before
    paced_s = base.pace.seconds(part.onset_ticks[[i for i, _ in inside]] / TICKS_PER_QUARTER, part.tempos)
    level = float(np.median(take.onsets_s[[j for _, j in inside]] - paced_s))
    shift = next((s for s in (shift_before, shift_after) if abs(level - s) < START_S), level)
    slips = [*earlier]
    for target, now, was in ((inside[0][0], shift, shift_before), (after, shift_after, shift)):
        if target is not None and abs(now - was) > 1e-6:
            slips.append(_slip(part, base, target, now - was, is_back=abs(now - shift_before) < 1e-6))
    return replace(base, slips=(*slips, *later))


def _slip(part: Part, base: TimeBase, target: int, seconds: float, *, is_back: bool) -> Slip:
    tick = int(part.onset_ticks[target])
    kind = SlipKind.RECOVERY if is_back else SlipKind.SLIP if seconds > 0 else SlipKind.SKIP
    return Slip(
        target=target,
        quarter=tick / TICKS_PER_QUARTER,
        quarters=seconds / base.quarter_s(tick / TICKS_PER_QUARTER, part.tempos),
        kind=kind,
    )
