"""Ear notes about which notes were played."""

from collections import Counter
from collections.abc import Iterator

from ear.findings.confusions import Confusion, confusion_values
from ear.findings.context import Context
from ear.findings.finding import Finding
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
    every = range(len(c.match.pairs))
    if not c.take.notes:
        yield c.finding("empty", size=0, unit="notes", rows=every)
    elif c.match.is_foreign:
        yield c.finding("foreign", size=len(c.take.notes), unit="notes", rows=every)


def transposed(c: Context) -> Iterator[Finding]:
    """Find a whole take in another key or octave."""
    semitones = c.match.transposition
    if semitones:
        yield c.finding(
            "transposed",
            size=semitones,
            unit="semitones",
            bars=c.whole(),
            values={"interval": semitones},
        )


def octaves(c: Context) -> Iterator[Finding]:
    """Find a hand in another octave than it is written in."""
    wrong = [p.target for p in c.match.links if p.target is not None and p.outcome is Outcome.WRONG_PITCH]
    for hand, semitones in c.match.octaves:
        rows = [i for i in wrong if c.part.notes[i].hand is hand]
        yield c.finding(
            "hand_octave", size=semitones, unit="semitones", bars=c.whole(), rows=rows, place=f"{hand.value} hand",
            values={"hand": hand.value, "interval": semitones},
        )  # fmt: skip


def pads(c: Context) -> Iterator[Finding]:
    """Find trouble of the set-up rather than of the playing: a pad that sends another number than its drum's,
    or everything on one pad.
    """
    rows = [(p.target, p.take, p.outcome) for p in c.match.pairs]
    if is_on_one_pad(c.part, c.take, kit=c.kit):
        # Strokes that fall together are one on one pad: what is missing of them is its doing, too.
        wrong = [p.target for p in c.match.pairs if p.target is not None and p.outcome is not Outcome.MATCHED]
        name = c.part.lane_name(c.take.notes[0].pitch, c.kit)
        yield c.finding(
            "one_pad", size=len(c.take.notes), unit="notes", bars=c.whole(), rows=wrong,
            values={"lane": name, "count": len(c.take.notes)},
        )  # fmt: skip
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
        yield c.finding(
            "pad_number" if len(choices) == 1 else "pad_numbers",
            size=len(choices), unit="pads", bars=c.whole(), rows=wrong_targets,
            values={"pad": commonest.number, "lane": commonest.lane.name, "count": commonest.count, "of": commonest.of, "pads": len(choices)},
        )  # fmt: skip


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
        yield c.finding(
            "wrong_drum" if c.part.instrument.has_lanes else "wrong_key", size=len(confusions), unit="notes",
            rows=[confusion.row for confusion in confusions], values=confusion_values(confusions),
            confusions=confusions,
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
        bars = c.measures.unplayed_bars_at_end
        values: dict[str, str | int | float] = {"count": bars, "after": c.bar_of(last_played)}
        if c.ending.is_mishap:
            values["ending"] = c.ending.value
        yield c.finding(
            "cut_off" if c.ending.is_mishap else "unfinished",
            size=bars,
            unit="bars",
            rows=[i for i in missed if i > last_played],
            values=values,
        )
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
        yield c.finding("missed", size=len(rest), unit="notes", rows=rest, values={"count": len(rest)})


def _missed_hand(c: Context, missed: list[int]) -> Iterator[Finding]:
    for hand in (Hand.LEFT, Hand.RIGHT):
        own = [i for i, note in enumerate(c.part.notes) if note.hand is hand]
        rows = [i for i in missed if c.part.notes[i].hand is hand]
        is_all = len(own) == len(c.part.notes)
        if not is_all and len(rows) >= MIN_LANE and len(rows) >= LANE_SHARE * len(own):
            yield c.finding(
                "missed_hand", size=len(rows), unit="notes", rows=rows, place=f"{hand.value} hand",
                values={"hand": hand.value, "count": len(rows), "of": len(own)},
            )  # fmt: skip


def _missed_lanes(c: Context, missed: list[int]) -> Iterator[Finding]:
    written = Counter(c.lane(i) for i in range(len(c.part.notes)))
    for lane, count in Counter(map(c.lane, missed)).items():
        if count >= MIN_LANE and count >= LANE_SHARE * written[lane]:
            yield c.finding(
                "missed_lane",
                size=count,
                unit="notes",
                rows=[i for i in missed if c.lane(i) == lane],
                place=lane,
                values={"lane": lane, "count": count, "of": written[lane]},
            )


def too_many(c: Context) -> Iterator[Finding]:
    """Find notes that are not in the part, by sort."""
    if not c.links:
        return
    beyond = _beyond_end(c)
    sorts = {
        "doubles": [n for n, p in c.left_over if p.outcome is Outcome.DOUBLE],
        "grazes": [n for n, p in c.left_over if p.is_graze],
        "extras": [n for n, p in c.left_over if _is_plain(c, p) and not p.is_graze and n not in beyond],
    }
    for code, rows in sorts.items():
        if rows:
            near = [c.match.pairs[n].near for n in rows]
            bars = [c.bar_of(i) for i in near if i is not None]
            yield c.finding(
                code,
                size=len(rows),
                unit="notes",
                rows=rows,
                bars=(min(bars), max(bars)) if bars else None,
                values={"count": len(rows)},
            )
    if beyond:
        yield c.finding(
            "beyond_end",
            size=len(beyond),
            unit="notes",
            rows=beyond,
            bars=(len(c.part.bars), len(c.part.bars)),
            values={"count": len(beyond)},
        )


def _is_plain(c: Context, pair: Pair) -> bool:
    """A note too many that is of nothing else."""
    is_other = pair.is_abandoned or pair.is_overlaid or pair.ornament is not None
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
    yield c.finding(
        "ornament_added" if len(by) == 1 else "ornaments_added", size=len(near), unit="ornaments",
        rows=[n for placed in by.values() for n, _ in placed], bars=(c.bar_of(near[0]), c.bar_of(near[-1])),
        values={"ornament": most.value, "count": of_sort[most], "all": len(near)},
    )  # fmt: skip


def second_pass(c: Context) -> Iterator[Finding]:
    """Find a second pass recorded over the first."""
    overlaid = [(n, p.near) for n, p in c.left_over if p.is_overlaid and p.near is not None]
    if overlaid:
        near = sorted(target for _, target in overlaid)
        yield c.finding(
            "second_pass", size=len(overlaid), unit="notes", rows=[n for n, _ in overlaid],
            bars=(c.bar_of(near[0]), c.bar_of(near[-1])), values={"count": len(overlaid)},
        )  # fmt: skip


def count_in(c: Context) -> Iterator[Finding]:
    """Find notes played before the beginning."""
    rows = [n for n, p in c.left_over if is_in_count_in(p, c.take)]
    if rows:
        yield c.finding(
            "count_in_played", size=len(rows), unit="notes", rows=rows, bars=(1, 1), values={"count": len(rows)}
        )  # fmt: skip


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


RULES = (
    nothing_of_it,
    transposed,
    octaves,
    pads,
    wrong_notes,
    missed_notes,
    too_many,
    ornaments,
    second_pass,
    count_in,
)
