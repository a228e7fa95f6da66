"""Ear notes about which notes were played."""

from collections import Counter
from collections.abc import Iterator

from ear.criteria.notes.missed_or_extra import (
    BeyondEnd,
    CountInPlayed,
    CutOff,
    Doubles,
    Extras,
    Grazes,
    Missed,
    MissedHand,
    MissedLane,
    OrnamentAdded,
    OrnamentsAdded,
    SecondPass,
    Unfinished,
)
from ear.criteria.notes.played_elsewhere import (
    Empty,
    Foreign,
    HandOctave,
    OctaveCopy,
    OnePad,
    PadNumber,
    PadNumbers,
    SentTwice,
    Transposed,
)
from ear.criteria.notes.wrong_notes import (
    Confusion,
    OutsideDrum,
    OutsideSet,
    WrongDrum,
    WrongKey,
    commonest_of,
)
from ear.findings.context import Context
from ear.findings.finding import CountedNotes, Finding
from ear.matching.outcome import Outcome, Pair, SlipKind
from ear.measuring.measure import is_in_count_in
from ear.measuring.pads import find_pad_choices, is_on_one_pad
from ear.notes import Hand, Ornament, allows

MIN_LANE = 3
LANE_SHARE = 0.8
"""Of a lane's hits from which it is left out as a whole."""
BEYOND_S = 0.15


def nothing_of_it(c: Context) -> Iterator[Finding]:
    """Find that nothing was played, or something else entirely."""
    every = tuple(range(len(c.match.pairs)))
    if not c.take.notes:
        yield Empty(rows=every, bars=c.bars_of(every), played=0)
    elif c.match.is_foreign:
        yield Foreign(rows=every, bars=c.bars_of(every), played=len(c.take.notes))


def transposed(c: Context) -> Iterator[Finding]:
    """Find a whole take in another key or octave."""
    semitones = c.match.transposition
    if semitones:
        yield Transposed(bars=c.whole(), semitones=semitones)


def octaves(c: Context) -> Iterator[Finding]:
    """Find a hand in another octave than it is written in."""
    wrong = [p.target for p in c.match.links if p.target is not None and p.outcome is Outcome.WRONG_PITCH]
    for hand, semitones in c.match.octaves:
        rows = c.in_order(i for i in wrong if c.part.notes[i].hand is hand)
        yield HandOctave(rows=rows, bars=c.whole(), hand=hand, semitones=semitones)


def pads(c: Context) -> Iterator[Finding]:
    """Find trouble of the set-up rather than of the playing: a pad that sends another number than its drum's,
    or everything on one pad.
    """
    rows = [(p.target, p.take, p.outcome) for p in c.match.pairs]
    if is_on_one_pad(c.part, c.take, kit=c.kit):
        # Strokes that fall together are one on one pad: what is missing of them is its doing, too.
        wrong = [p.target for p in c.match.pairs if p.target is not None and p.outcome is not Outcome.MATCHED]
        name = c.part.lane_name(c.take.notes[0].pitch, c.kit)
        yield OnePad(rows=c.in_order(wrong), bars=c.whole(), lane=name, count=len(c.take.notes))
        return
    choices = find_pad_choices(c.part, c.take, rows, kit=c.kit)
    numbers = {commonest.number for commonest in choices}
    if choices:
        commonest = max(choices, key=lambda choice: choice.count)
        wrong_targets = [
            target
            for target, played, outcome in rows
            if outcome is Outcome.WRONG_PITCH and target is not None and played is not None
            and c.take.notes[played].pitch in numbers
        ]  # fmt: skip
        yield (PadNumber if len(choices) == 1 else PadNumbers)(
            rows=c.in_order(wrong_targets), bars=c.whole(), pad=commonest.number, lane=commonest.lane.name,
            count=commonest.count, of=commonest.of, pads=len(choices),
        )  # fmt: skip


def copies(c: Context) -> Iterator[Finding]:
    """Find notes that arrived twice: trouble of the set-up."""
    if c.copied is None or not c.links:
        return
    rows = c.in_order(n for n, _ in c.left_over)
    yield (OctaveCopy if c.copied else SentTwice)(
        rows=rows, bars=c.whole(), semitones=c.copied, count=len(rows)
    )


def wrong_notes(c: Context) -> Iterator[Finding]:
    """Find wrong notes. One finding names the commonest confusion for them all."""
    off = {hand for hand, _ in c.match.octaves}
    reported_rows = {row for finding in pads(c) for row in finding.rows}
    confusions = [
        _confusion(c, p.target, p.take)
        for p in c.match.pairs
        if p.outcome is Outcome.WRONG_PITCH
        and p.target is not None
        and p.take is not None
        and c.part.notes[p.target].hand not in off
        and p.target not in reported_rows
    ]
    if confusions:
        rows = c.in_order(confusion.row for confusion in confusions)
        yield (WrongDrum if c.part.instrument.has_lanes else WrongKey)(
            rows=rows, bars=c.bars_of(rows), count=len(rows), commonest=commonest_of(confusions),
            confusions=tuple(sorted(confusions, key=lambda confusion: confusion.row)),
        )  # fmt: skip


def _confusion(c: Context, target: int, played: int) -> Confusion:
    note, sounded = c.part.notes[target], c.take.notes[played].pitch - c.match.transposition
    if c.part.instrument.has_lanes:
        return Confusion(
            row=target, bar=c.bar_of(target), written=note.pitch, played=sounded,
            written_lane=c.part.lane_name(note.pitch, c.kit), played_lane=c.part.lane_name(sounded, c.kit),
        )  # fmt: skip
    return Confusion(
        row=target, bar=c.bar_of(target), written=note.pitch, played=sounded,
        fifths=c.part.fifths_at(note.onset_tick), name=c.part.names[target],
    )  # fmt: skip


def missed_notes(c: Context) -> Iterator[Finding]:
    """Find notes of the part that were not played, except those after the last one played."""
    missed = [p.target for p in c.match.pairs if p.outcome is Outcome.MISSED and p.target is not None]
    if not missed or not c.links:
        return
    last_played = int(c.linked[-1])
    if c.measures.unplayed_bars_at_end:
        left, after = c.measures.unplayed_bars_at_end, c.bar_of(last_played)
        rows = c.in_order(i for i in missed if i > last_played)
        bars = c.bars_of(rows)
        if c.ending.is_mishap:
            yield CutOff(rows=rows, bars=bars, after=after, bars_left=left, ending=c.ending)
        else:
            yield Unfinished(rows=rows, bars=bars, after=after, bars_left=left)
        missed = [i for i in missed if i <= last_played]
    skipped = [
        (s.quarter + s.quarters, s.quarter)
        for s in c.match.time_base.slips
        if s.kind in (SlipKind.SKIP, SlipKind.SKIP_BAR, SlipKind.REPEAT_LEFT_OUT)
    ]
    rest = [
        i for i in missed
        if not any(a - 0.01 <= c.part.notes[i].onset_tick / 480 < b for a, b in skipped)
    ]  # fmt: skip
    lanes = list(_missed_lanes(c, rest) if c.part.instrument.has_lanes else _missed_hand(c, rest))
    yield from lanes
    reported_rows = {i for finding in lanes for i in finding.rows}
    if is_on_one_pad(c.part, c.take, kit=c.kit):
        reported_rows |= set(rest)
    rest = [i for i in rest if i not in reported_rows]
    if rest:
        rows = c.in_order(rest)
        yield Missed(rows=rows, bars=c.bars_of(rows), count=len(rows))


def _missed_hand(c: Context, missed: list[int]) -> Iterator[Finding]:
    for hand in (Hand.LEFT, Hand.RIGHT):
        own = [i for i, note in enumerate(c.part.notes) if note.hand is hand]
        rows = c.in_order(i for i in missed if c.part.notes[i].hand is hand)
        is_all = len(own) == len(c.part.notes)
        if not is_all and len(rows) >= MIN_LANE and len(rows) >= LANE_SHARE * len(own):
            yield MissedHand(rows=rows, bars=c.bars_of(rows), hand=hand, count=len(rows), of=len(own))


def _missed_lanes(c: Context, missed: list[int]) -> Iterator[Finding]:
    written = Counter(c.lane(i) for i in range(len(c.part.notes)))
    for lane, count in Counter(map(c.lane, missed)).items():
        if count >= MIN_LANE and count >= LANE_SHARE * written[lane]:
            rows = c.in_order(i for i in missed if c.lane(i) == lane)
            yield MissedLane(rows=rows, bars=c.bars_of(rows), lane=lane, count=count, of=written[lane])


def too_many(c: Context) -> Iterator[Finding]:
    """Find notes that are not in the part, by sort."""
    if not c.links:
        return
    beyond = _beyond_end(c)
    sorts: dict[type[CountedNotes], list[int]] = {
        Doubles: [n for n, p in c.left_over if p.outcome is Outcome.DOUBLE],
        Grazes: [n for n, p in c.left_over if p.is_graze],
        Extras: [n for n, p in c.left_over if _is_plain(c, p) and not p.is_graze and n not in beyond],
    }
    for sort, rows in sorts.items():
        if rows:
            near = [c.match.pairs[n].near for n in rows]
            bars = c.bars_of(i for i in near if i is not None)
            yield sort(rows=c.in_order(rows), bars=bars, count=len(rows))
    if beyond:
        last = (c.part.last_bar, c.part.last_bar)
        yield BeyondEnd(rows=c.in_order(beyond), bars=last, count=len(beyond))


def _is_plain(c: Context, pair: Pair) -> bool:
    """A note too many that is of nothing else."""
    is_other = pair.is_abandoned or pair.is_overlaid or pair.is_put_right or pair.ornament is not None
    return pair.outcome is Outcome.EXTRA and not is_other and not is_in_count_in(pair, c.take)


def ornaments(c: Context) -> Iterator[Finding]:
    """Find ornaments that are not written. One finding names the commonest for them all."""
    by: dict[Ornament, list[tuple[int, int]]] = {}
    for n, pair in c.left_over:
        if pair.ornament is None or pair.near is None:
            continue
        if not allows(c.part.notes[pair.near].ornament, pair.ornament):
            by.setdefault(pair.ornament, []).append((n, pair.near))
    if not by:
        return
    near = sorted({target for placed in by.values() for _, target in placed})
    of_sort = {ornament: len({target for _, target in placed}) for ornament, placed in by.items()}
    most = max(of_sort, key=lambda ornament: of_sort[ornament])
    yield (OrnamentAdded if len(by) == 1 else OrnamentsAdded)(
        rows=c.in_order(n for placed in by.values() for n, _ in placed), bars=c.bars_of(near),
        ornament=most, count=of_sort[most], in_all=len(near),
    )  # fmt: skip


def second_pass(c: Context) -> Iterator[Finding]:
    """Find a second pass recorded over the first."""
    overlaid = [(n, p.near) for n, p in c.left_over if p.is_overlaid and p.near is not None]
    if overlaid and c.copied is None:
        bars = c.bars_of(target for _, target in overlaid)
        yield SecondPass(rows=c.in_order(n for n, _ in overlaid), bars=bars, count=len(overlaid))


def count_in(c: Context) -> Iterator[Finding]:
    """Find notes played before the beginning."""
    rows = [n for n, p in c.left_over if is_in_count_in(p, c.take)]
    if rows:
        yield CountInPlayed(rows=c.in_order(rows), bars=(1, 1), count=len(rows))


def _beyond_end(c: Context) -> set[int]:
    """Rows of extra notes that come after the last bar, by the player's own time."""
    end_s = c.part.tempos.second_at(c.part.bars[-1].end_tick) / c.measures.timing.tempo_ratio
    end_s += sum(s.quarters for s in c.match.time_base.slips) * 60 / c.measures.timing.played_bpm
    return {
        n
        for n, p in c.left_over
        if _is_plain(c, p)
        and p.take is not None
        and not p.is_graze
        and c.take.notes[p.take].onset_s > end_s + BEYOND_S
    }


def outside(c: Context) -> Iterator[Finding]:
    """Find notes of a free take that are not among those allowed. One finding names the first for them all."""
    pairs = [p for p in c.match.pairs if p.outcome is Outcome.WRONG_PITCH]
    if not pairs:
        return
    first = pairs[0]
    assert first.target is not None and first.take is not None
    played, where = c.take.notes[first.take].pitch, c.bar_of(first.target)
    rows = c.in_order(p.target for p in pairs if p.target is not None)
    if c.part.instrument.has_lanes:
        yield OutsideDrum(
            rows=rows, bars=c.bars_of(rows), count=len(pairs), where=where,
            played_lane=c.part.lane_name(played, c.kit),
        )  # fmt: skip
    else:
        yield OutsideSet(
            rows=rows, bars=c.bars_of(rows), count=len(pairs), where=where, played=played,
            fifths=c.part.fifths_at(c.part.notes[first.target].onset_tick),
        )  # fmt: skip


RULES = (
    nothing_of_it,
    transposed,
    octaves,
    pads,
    copies,
    wrong_notes,
    missed_notes,
    too_many,
    ornaments,
    second_pass,
    count_in,
)
FREE_RULES = (nothing_of_it, outside)
