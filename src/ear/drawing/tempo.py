"""The tempo bar by bar as a small picture: what was played, beside the click."""

from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass

from ear.facts.facts import BarTempoFact

TEMPO_WIDTH, TEMPO_HEIGHT = 288.0, 96.0
FOOT = 16.0
"""px under the picture for bar numbers."""
LEFT, RIGHT = 30.0, 6.0
"""px beside it, on the left for tempos."""
ROOM = 0.06
"""So much of the range is left above the fastest and under the slowest."""
MIN_RANGE = 0.2
"""The picture shows this share of the click's tempo at least, so that an even take looks even."""
MIN_STRAY, MAX_STRAY = 0.85, 1.15
"""Dots beyond these shares of the slowest and the fastest stretch stand at the edge."""
NUMBER_WIDTH = 18.0
"""px that a bar's number takes."""


@dataclass(frozen=True, slots=True, kw_only=True)
class TempoBar:
    """A bar: its row, where it begins and ends, the height of its stretch's tempo and of its own notes'."""

    row: BarTempoFact
    x: float
    end_x: float
    stretch_y: float
    own_y: float | None
    shows_number: bool

    @property
    def middle_x(self) -> float:
        """Where its dot stands."""
        return (self.x + self.end_x) / 2.0


@dataclass(frozen=True, slots=True, kw_only=True)
class TempoPicture:
    """Faster lies above. `click` and `played` are lines as points "x,y"; `ticks` tempos at the left, with their y."""

    bars: tuple[TempoBar, ...]
    click: str
    played: str
    ticks: tuple[tuple[int, float], ...]
    width: float = TEMPO_WIDTH
    height: float = TEMPO_HEIGHT


def tempo_picture(rows: Sequence[BarTempoFact]) -> TempoPicture | None:
    """Return the picture of the player's tempo by bars; None without rows, when the player kept to the click."""
    if not rows:
        return None
    shown = [bpm for row in rows for bpm in (row.click_bpm, row.stretch_bpm)]
    # Single bars stray: they widen the picture, within reason.
    low, high = min(shown), max(shown)
    own = [row.own_bpm for row in rows if row.own_bpm is not None]
    low, high = max(min([low, *own]), MIN_STRAY * low), min(max([high, *own]), MAX_STRAY * high)
    short = max(0.0, MIN_RANGE * rows[0].click_bpm - (high - low)) / 2.0
    room = short + ROOM * (high - low)
    low, high = low - room, high + room
    foot = TEMPO_HEIGHT - FOOT

    def y(bpm: float) -> float:
        return foot * (1.0 - (min(high, max(low, bpm)) - low) / (high - low))

    step = (TEMPO_WIDTH - LEFT - RIGHT) / len(rows)
    every = max(1, -int(-NUMBER_WIDTH // step))
    bars = tuple(
        TempoBar(
            row=row, x=LEFT + k * step, end_x=LEFT + (k + 1) * step, stretch_y=y(row.stretch_bpm),
            own_y=None if row.own_bpm is None else y(row.own_bpm), shows_number=k % every == 0,
        )
        for k, row in enumerate(rows)
    )  # fmt: skip
    ticks = sorted(
        {round(row.click_bpm) for row in (rows[0], rows[-1])} | {round(min(shown)), round(max(shown))}
    )
    return TempoPicture(
        bars=bars,
        click=_steps((bar, y(bar.row.click_bpm)) for bar in bars),
        played=_steps((bar, bar.stretch_y) for bar in bars),
        ticks=tuple((bpm, y(bpm)) for bpm in _apart(ticks, y)),
    )


def _steps(levels: Iterable[tuple[TempoBar, float]]) -> str:
    return " ".join(f"{bar.x:.1f},{at:.1f} {bar.end_x:.1f},{at:.1f}" for bar, at in levels)


def _apart(ticks: Sequence[int], y: Callable[[float], float]) -> list[int]:
    """Without those whose figures would touch the one before."""
    kept: list[int] = []
    for bpm in ticks:
        if not kept or y(kept[-1]) - y(bpm) >= 11.0:
            kept.append(bpm)
    return kept
