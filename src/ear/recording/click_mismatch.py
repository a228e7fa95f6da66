"""Is a take with its click at all? Told before it is handed in, with both figures."""

from dataclasses import dataclass
from enum import StrEnum

from ear.facts.facts import Facts
from ear.matching.outcome import SlipKind
from ear.measuring.computer_offset import is_computer_offset


class Doubt(StrEnum):
    """What does not go with the click."""

    OTHER_TEMPO = "other_tempo"
    """Played at another tempo than the click's: quarter notes a minute."""
    STARTED_LATE = "started_late"
    """Began so many quarter notes after its place."""
    STARTED_EARLY = "started_early"
    COMPUTER_OFF = "computer_off"
    """All notes are so many ms from the click, so evenly that the computer must have moved them."""
    CLICK_OFF = "click_off"
    """Recorded without a click that was asked for."""


@dataclass(frozen=True, slots=True, kw_only=True)
class ClickDoubt:
    """A doubt with the figures it rests on."""

    doubt: Doubt
    click: float
    played: float


def click_doubts(facts: Facts, *, heard_click: bool, asks_click: bool) -> tuple[ClickDoubt, ...]:
    """Return the reasons to doubt that a take was played to its click."""
    if not asks_click:
        return ()
    bpm, played = facts.target.bpm, facts.figures.played_bpm
    doubts = []
    if not heard_click:
        doubts.append(ClickDoubt(doubt=Doubt.CLICK_OFF, click=bpm, played=played))
    if facts.figures.tempo_ratio != 1.0:
        doubts.append(ClickDoubt(doubt=Doubt.OTHER_TEMPO, click=bpm, played=played))
    bias_ms = facts.figures.bias_ms
    if bias_ms is not None and is_computer_offset(
        bias_ms, facts.figures.spread_ms, notes=facts.counts.matched
    ):
        doubts.append(ClickDoubt(doubt=Doubt.COMPUTER_OFF, click=0.0, played=bias_ms))
    for slip in facts.slips:
        if slip.kind is SlipKind.LATE_START:
            doubts.append(ClickDoubt(doubt=Doubt.STARTED_LATE, click=0.0, played=slip.beats))
        elif slip.kind is SlipKind.EARLY_START:
            doubts.append(ClickDoubt(doubt=Doubt.STARTED_EARLY, click=0.0, played=-slip.beats))
    return tuple(doubts)
