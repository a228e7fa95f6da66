"""Grooves by family, with variations, and fills of one, two and four beats."""

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass
from enum import StrEnum
from itertools import cycle, islice

from ear.errors import ValueOutOfRange
from ear.notes import Meter, Part
from ear.patterns.beats import beat
from ear.patterns.lines import COMMON
from ear.text import term

SIX_EIGHT = Meter(numerator=6, denominator=8)
THREE_FOUR = Meter(numerator=3, denominator=4)
Rows = Mapping[str, str]
"""By lane one bar of strokes, as `ear.patterns.beats` writes them."""


class GrooveFeel(StrEnum):
    """Families of grooves, by the names that drummers give them."""

    EIGHTHS = term("straight eighths")
    SIXTEENTH_KICK = term("sixteenth-note kick")
    HALF_TIME = term("half-time")
    SHUFFLE = term("shuffle")
    SWING = term("swing ride")
    BOSSA = term("bossa")
    SIX_EIGHT = term("six-eight")
    WALTZ = term("waltz")


@dataclass(frozen=True, slots=True, kw_only=True)
class GrooveFamily:
    """What grooves of one feel have in common, and the bars that vary it."""

    step_ticks: int
    meter: Meter
    bpm: float
    bars: tuple[Rows, ...]
    """From the plainest on."""


FAMILIES: dict[GrooveFeel, GrooveFamily] = {
    GrooveFeel.EIGHTHS: GrooveFamily(
        step_ticks=240, meter=COMMON, bpm=96.0,
        bars=(
            {"snare": "..x...x.", "kick": "X...X..."},
            {"hat": "XxXxXxXx", "snare": "..X...X.", "kick": "X...X..."},
            {"hat": "XxXxXxXx", "snare": "..X...X.", "kick": "X..xX..."},
            {"hat": "XxXxXxXx", "snare": "..X...X.", "kick": "X..x.x.x"},
            {"hat": "XxXxXxX.", "open hat": ".......x", "snare": "..X...X.", "kick": "Xx..Xx.."},
        ),
    ),
    GrooveFeel.SIXTEENTH_KICK: GrooveFamily(
        step_ticks=120, meter=COMMON, bpm=88.0,
        bars=(
            {"hat": "X.x.X.x.X.x.X.x.", "snare": "....X.......X...", "kick": "X..x....X......."},
            {"hat": "X.x.X.x.X.x.X.x.", "snare": "....X.......X...", "kick": "X..x..x...x....."},
            {"hat": "X.x.X.x.X.x.X.x.", "snare": "....X..o.o..X...", "kick": "X..x....X.x....."},
            {"hat": "X.x.X.x.X.x.X.x.", "snare": "....X..o....X..o", "kick": "X.x....x..xx...."},
        ),
    ),
    GrooveFeel.HALF_TIME: GrooveFamily(
        step_ticks=120, meter=COMMON, bpm=76.0,
        bars=(
            {"hat": "X.x.x.x.X.x.x.x.", "snare": "........X.......", "kick": "X..............."},
            {"hat": "X.x.x.x.X.x.x.x.", "snare": "........X.......", "kick": "X.....x.......x."},
            {"hat": "XoxoXoxoXoxoXoxo", "snare": "........X.......", "kick": "X.....x...x....."},
            {"hat": "X.x.x.x.X.x.x.x.", "snare": "..o..o..X..o..o.", "kick": "X.....xx......x."},
        ),
    ),
    GrooveFeel.SHUFFLE: GrooveFamily(
        step_ticks=160, meter=COMMON, bpm=104.0,
        bars=(
            {"hat": "X.xX.xX.xX.x", "snare": "...X.....X..", "kick": "X.....X....."},
            {"hat": "X.xX.xX.xX.x", "snare": "...X.....X..", "kick": "X.x...X.x..."},
            {"hat": "X.xX.xX.xX.x", "snare": ".o.Xo.oo.X.o", "kick": "X.....X....."},
            {"ride": "X.xX.xX.xX.x", "foot hat": "...x.....x..", "snare": "...X.o...X.o", "kick": "X....xX....."},
        ),
    ),
    GrooveFeel.SWING: GrooveFamily(
        step_ticks=160, meter=COMMON, bpm=120.0,
        bars=(
            {"ride": "x..X.xx..X.x", "foot hat": "...x.....x.."},
            {"ride": "x..X.xx..X.x", "foot hat": "...x.....x..", "snare": "...........o"},
            {"ride": "x..X.xx..X.x", "foot hat": "...x.....x..", "snare": "..o.....o...", "kick": "o..o..o..o.."},
            {"ride": "x..X.xx..X.x", "foot hat": "...x.....x..", "snare": "..o..o.....o", "kick": ".....x..x..."},
        ),
    ),
    GrooveFeel.BOSSA: GrooveFamily(
        step_ticks=240, meter=COMMON, bpm=112.0,
        bars=(
            {"hat": "xxxxxxxx", "side stick": "x..x..x.", "kick": "X..xX..x"},
            {"hat": "xxxxxxxx", "side stick": "..x..x..", "kick": "X..xX..x"},
            {"ride": "xxxxxxxx", "foot hat": "..x...x.", "side stick": "x..x..x.", "kick": "X..xX..x"},
            {"ride": "xxxxxxxx", "foot hat": "..x...x.", "side stick": "x..x...x", "kick": "X..xX..x"},
        ),
    ),
    GrooveFeel.SIX_EIGHT: GrooveFamily(
        step_ticks=120, meter=SIX_EIGHT, bpm=90.0,
        bars=(
            {"hat": "X.x.x.X.x.x.", "snare": "......X.....", "kick": "X..........."},
            {"hat": "X.x.x.X.x.x.", "snare": "......X.....", "kick": "X...x......."},
            {"hat": "X.x.x.X.x.x.", "snare": "......X..o.o", "kick": "X...x.....x."},
            {"ride": "X.x.x.X.x.x.", "foot hat": "......x.....", "snare": "...o..X..o..", "kick": "X...x......."},
        ),
    ),
    GrooveFeel.WALTZ: GrooveFamily(
        step_ticks=240, meter=THREE_FOUR, bpm=108.0,
        bars=(
            {"hat": "..x.x.", "kick": "X....."},
            {"ride": "X.x.x.", "snare": "..o.o.", "kick": "X....."},
            {"ride": "X.xxx.", "foot hat": "..x.x.", "kick": "X....x"},
            {"ride": "X.xxx.", "foot hat": "..x.x.", "snare": ".o.o.o", "kick": "X....."},
        ),
    ),
}  # fmt: skip

STRAIGHT_FILLS: dict[int, tuple[Rows, ...]] = {
    1: ({"snare": "Xxxx"}, {"snare": "X.xx"}, {"high tom": "Xx..", "floor tom": "..Xx"}),
    2: (
        {"snare": "Xxxx....", "high tom": "....Xx..", "floor tom": "......Xx"},
        {"snare": "X.xxX.xx"},
        {"snare": "Xx..Xx..", "high tom": "..xx....", "floor tom": "......xx"},
    ),
    4: (
        {"snare": "Xxxx............", "high tom": "....Xxxx........", "mid tom": "........Xxxx....", "floor tom": "............Xxxx"},
        {"snare": "X.xxX.xx........", "high tom": "........X.xx....", "floor tom": "............Xxxx"},
        {"snare": "Xx..Xx..Xx..Xx..", "kick": "..xx..xx..xx..xx"},
    ),
}  # fmt: skip
"""By how many beats they last, in semiquavers."""
TRIPLET_FILLS: dict[int, tuple[Rows, ...]] = {
    1: ({"snare": "Xxx"}, {"high tom": "X..", "mid tom": ".x.", "floor tom": "..x"}),
    2: ({"snare": "Xxx...", "floor tom": "...Xxx"}, {"snare": "X.xX.x"}),
    4: (
        {"snare": "Xxx.........", "high tom": "...Xxx......", "mid tom": "......Xxx...", "floor tom": ".........Xxx"},
        {"snare": "Xx.Xx.Xx.Xx.", "kick": "..x..x..x..x"},
    ),
}  # fmt: skip
"""In three to a beat."""
COMPOUND_FILLS: dict[int, tuple[Rows, ...]] = {
    1: ({"snare": "Xxxxxx"}, {"snare": "Xx....", "high tom": "..xx..", "floor tom": "....xx"}),
    2: (
        {"snare": "Xxxxxx......", "high tom": "......Xxx...", "floor tom": ".........Xxx"},
        {"snare": "X.xX.xX.xX.x"},
    ),
}  # fmt: skip
"""Of dotted beats, in semiquavers."""
FILL_STEP = 120


def groove(
    feel: GrooveFeel, *, variation: int = 1, bars: int = 4, fill_bars: Collection[int] = (), fill_beats: int = 1,
    fill: int = 1, bpm: float | None = None,
) -> Part:  # fmt: skip
    """Return a groove of so many bars; in `fill_bars`, by number, the last `fill_beats` are a fill, and the bar behind begins
    with a crash.

    `variation` counts from 1, the plainest, `fill` counts likewise. Raises ValueOutOfRange for a variation, a bar or a
    fill that there is not.
    """
    family = FAMILIES[feel]
    fills = _fills(family).get(fill_beats, ())
    if not 1 <= variation <= len(family.bars) or (fill_bars and not 1 <= fill <= len(fills)):
        raise ValueOutOfRange("groove_variation_unknown", most=len(family.bars))
    if any(not 1 <= bar <= bars for bar in fill_bars):
        raise ValueOutOfRange("bar_outside_part", count=bars)
    step = FILL_STEP if family.step_ticks == 240 else family.step_ticks
    if fill_beats > family.meter.beats and fill_bars:
        raise ValueOutOfRange("fill_longer_than_bar")
    plain = _finer(family.bars[variation - 1], family.step_ticks // step)
    length = family.meter.bar_ticks // step
    lanes: dict[str, list[str]] = {}
    rows_of_bars = []
    for bar in range(1, bars + 1):
        rows = dict(plain)
        if bar in fill_bars:
            filling = fills[fill - 1]
            kept = length - len(next(iter(filling.values())))
            rows = {lane: row[:kept] + "." * (length - kept) for lane, row in rows.items()}
            for lane, row in filling.items():
                rows[lane] = rows.get(lane, "." * length)[:kept] + row
        if bar - 1 in fill_bars:
            rows["crash"] = "X" + "." * (length - 1)
            for lane in ("hat", "ride"):
                if lane in rows:
                    rows[lane] = "." + rows[lane][1:]
        rows_of_bars.append(rows)
        for lane in rows:
            lanes.setdefault(lane, [])
    for lane, joined in lanes.items():
        joined += [rows.get(lane, "." * length) for rows in rows_of_bars]
    return beat(
        {lane: "".join(joined) for lane, joined in lanes.items()},
        step_ticks=step, meter=family.meter, bpm=family.bpm if bpm is None else bpm,
    )  # fmt: skip


def ostinato(
    fixed: Rows,
    lane: str,
    changing: tuple[str, ...],
    *,
    step_ticks: int,
    meter: Meter = COMMON,
    bpm: float = 80.0,
) -> Part:
    """Return a part in which some lanes stay the same from bar to bar and one changes: a bar for each of its rows."""
    rows = {each: row * len(changing) for each, row in fixed.items()}
    return beat({**rows, lane: "".join(changing)}, step_ticks=step_ticks, meter=meter, bpm=bpm)


def ostinato_of(
    feel: GrooveFeel, lane: str, *, variation: int = 1, bars: int = 4, changing: Sequence[str] = ()
) -> Part:
    """Return a groove that stays the same from bar to bar but for one lane.

    `changing` are that lane's bars, as `ear.patterns.beats` writes them, again from the first where there are fewer than
    `bars`; without any, one stroke comes a step later in each bar. Raises ValueOutOfRange for a variation that there is
    not, and for what does not fill a bar.
    """
    family = FAMILIES[feel]
    if not 1 <= variation <= len(family.bars):
        raise ValueOutOfRange("groove_variation_unknown", most=len(family.bars))
    steps = family.meter.bar_ticks // family.step_ticks
    if any(len(row) != steps for row in changing):
        raise ValueOutOfRange("lane_bar_length", field="changing_bars", count=steps)
    rows = list(changing) or ["." * k + "X" + "." * (steps - k - 1) for k in range(steps)]
    fixed = {each: row for each, row in family.bars[variation - 1].items() if each != lane}
    return ostinato(
        fixed, lane, tuple(islice(cycle(rows), bars)), step_ticks=family.step_ticks, meter=family.meter, bpm=family.bpm
    )  # fmt: skip


def _fills(family: GrooveFamily) -> dict[int, tuple[Rows, ...]]:
    if family.meter.is_compound:
        return COMPOUND_FILLS
    return TRIPLET_FILLS if family.step_ticks == 160 else STRAIGHT_FILLS


def _finer(rows: Rows, times: int) -> dict[str, str]:
    return {lane: "".join(sign + "." * (times - 1) for sign in row) for lane, row in rows.items()}
