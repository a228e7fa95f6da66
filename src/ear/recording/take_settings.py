"""A take read as its teacher set it."""

from collections.abc import Iterator, Sequence
from dataclasses import replace

import numpy as np

from ear.formats.events import RawEvent, is_note_on
from ear.judging.settings import TakeSettings
from ear.measuring.copies import copies_at
from ear.recording.passes import Pass


def as_set(layers: Sequence[Pass], settings: TakeSettings) -> list[Pass]:
    """Return the passes with the latency and the pads that are set, and without copies that do not count; further passes
    move with the first."""
    if not layers:
        return []
    moved = 0.0 if settings.latency_ms is None else settings.latency_ms - layers[0].latency_ms
    read = [
        replace(one, latency_ms=one.latency_ms + moved, pads={**one.pads, **settings.pads}) for one in layers
    ]
    if settings.without_copies is None:
        return read
    return [replace(one, events=tuple(_without_copies(one.events, settings.without_copies))) for one in read]


def _without_copies(events: Sequence[RawEvent], semitones: int) -> Iterator[RawEvent]:
    """Events without the beginnings of notes that are copies of others. Their ends may stay: they end nothing."""
    in_order = sorted(events, key=lambda event: event[0])
    begins = [event for event in in_order if is_note_on(event)]
    copies = copies_at(
        np.array([event[0] for event in begins], dtype=np.float64) / 1000.0,
        np.array([event[2] for event in begins], dtype=np.int64),
        semitones,
    )
    is_copy = iter(copies.tolist())
    for event in in_order:
        if not (is_note_on(event) and next(is_copy)):
            yield event
