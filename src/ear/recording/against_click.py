"""Is a take with its click at all? Told before it is handed in, with both figures."""

from collections.abc import Mapping
from dataclasses import dataclass
from enum import StrEnum
from typing import Any

from ear.matching.outcome import SlipKind


class Doubt(StrEnum):
    OTHER_TEMPO = "other_tempo"
    """Played at another tempo than the click's: quarter notes a minute."""
    STARTED_LATE = "started_late"
    """Began so many quarter notes after its place."""
    STARTED_EARLY = "started_early"
    CLICK_OFF = "click_off"
    """Recorded without a click that was asked for."""


@dataclass(frozen=True, slots=True, kw_only=True)
class ClickDoubt:
    doubt: Doubt
    click: float
    played: float


def click_doubts(result: Mapping[str, Any], *, heard_click: bool, asks_click: bool) -> tuple[ClickDoubt, ...]:
    """What speaks against a take having been played to its click; from a result, `oido.measure/1`."""
    if not asks_click:
        return ()
    measures, bpm = result["measures"], result["target"]["bpm"]
    found = []
    if not heard_click:
        found.append(ClickDoubt(doubt=Doubt.CLICK_OFF, click=bpm, played=measures["played_bpm"]))
    if measures["tempo_ratio"] != 1.0:
        found.append(ClickDoubt(doubt=Doubt.OTHER_TEMPO, click=bpm, played=measures["played_bpm"]))
    for slip in measures["slips"]:
        if slip["kind"] == SlipKind.LATE_START:
            found.append(ClickDoubt(doubt=Doubt.STARTED_LATE, click=0.0, played=slip["beats"]))
        elif slip["kind"] == SlipKind.EARLY_START:
            found.append(ClickDoubt(doubt=Doubt.STARTED_EARLY, click=0.0, played=-slip["beats"]))
    return tuple(found)
