"""Ear notes about exercises without a target part: which notes, how many, in which division of the beat."""

from collections.abc import Iterator

from ear.findings.context import Context
from ear.findings.finding import Finding
from ear.findings.time_rules import no_time
from ear.matching.outcome import Outcome

REPEATED_FROM = 0.9


def outside(c: Context) -> Iterator[Finding]:
    """Find notes that are not among those allowed. One finding names the first for them all."""
    rows = [p for p in c.match.pairs if p.outcome is Outcome.WRONG_PITCH]
    if not rows:
        return
    first = rows[0]
    assert first.target is not None and first.take is not None
    played = c.take.notes[first.take].pitch
    values: dict[str, str | int | float] = {"count": len(rows), "where": c.bar_of(first.target)}
    has_lanes = c.part.instrument.has_lanes
    if has_lanes:
        values["played_lane"] = c.part.lane_name(played, c.kit)
    else:
        values |= {"played": played, "fifths": c.part.fifths_at(c.part.notes[first.target].onset_tick)}
    yield c.finding(
        "outside_drum" if has_lanes else "outside_set", size=len(rows), unit="notes",
        rows=[p.target for p in rows if p.target is not None], values=values,
    )  # fmt: skip


def density(c: Context) -> Iterator[Finding]:
    """Find bars with fewer notes than asked for, with more, or with none."""
    assert c.free is not None
    most = c.free.most_a_bar
    counts = list(enumerate(c.free.notes_a_bar, start=1))
    for code, bars, of in (
        ("bars_empty", [b for b, n in counts if not n], 1),
        ("bars_thin", [b for b, n in counts if 0 < n < c.free.least_a_bar], c.free.least_a_bar),
        ("bars_full", [b for b, n in counts if most is not None and n > most], most or 0),
    ):
        if bars and c.take.notes:
            rows = [i for i in c.linked.tolist() if c.bar_of(i) in set(bars)]
            yield c.finding(
                code, size=len(bars), unit="bars", bars=(bars[0], bars[-1]), rows=rows,
                values={"count": len(bars), "where": bars[0], "asked": of},
            )  # fmt: skip


def division(c: Context) -> Iterator[Finding]:
    """Find another division of the beat than the one asked for."""
    assert c.free is not None
    if c.free.division is not None:
        between = c.part.ticks_into_bar[c.linked] % c.part.meters.first.beat_ticks != 0
        yield c.finding(
            "other_division", size=c.free.division, unit="notes", bars=c.whole(), rows=c.linked[between].tolist(),
            values={"played": c.free.division, "asked": c.free.asked_division},
        )  # fmt: skip


def repeats(c: Context) -> Iterator[Finding]:
    """Find second bars of pairs that do not repeat the first."""
    assert c.free is not None
    if c.free.repeated is not None and c.free.repeated < REPEATED_FROM:
        yield c.finding(
            "not_repeated", size=c.free.repeated, unit="share", bars=c.whole(),
            rows=[i for i in c.linked.tolist() if c.bar_of(i) % 2 == 0],
            values={"percent": round(100 * c.free.repeated)},
        )  # fmt: skip


RULES = (outside, density, division, repeats, no_time)
