"""A take read as its teacher set it."""

from collections.abc import Sequence
from dataclasses import replace

from ear.judging.settings import TakeSettings
from ear.recording.passes import Pass


def as_set(layers: Sequence[Pass], settings: TakeSettings) -> list[Pass]:
    """Return the passes with the latency and the pads that are set; further passes move with the first."""
    if not layers:
        return []
    moved = 0.0 if settings.latency_ms is None else settings.latency_ms - layers[0].latency_ms
    return [
        replace(one, latency_ms=one.latency_ms + moved, pads={**one.pads, **settings.pads}) for one in layers
    ]
