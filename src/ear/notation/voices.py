"""Which notes of a staff are one voice: by what is held while others move, the higher one first.

Notes that begin and end together are one chord with one stem. Where chords overlap, the staff has as many voices as
sound at once, each following the nearest pitch; between such places one voice has all.
"""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field, replace
from itertools import groupby, zip_longest

from ear.notation.placing import FINE
from ear.notation.rhythm import Span, is_writable
from ear.notation.values import FINEST
from ear.notes import Bar, Part
from ear.notes.note import MAX_VOICES

MAX_IN_BAR = 256
"""Chords behind the last one that are looked at when a bar changes."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Event:
    """Notes of one voice that begin and end together, in ticks that can be written."""

    start: int
    end: int
    notes: tuple[int, ...]
    pitch: float
    """The middle of its pitches."""
    voice: int | None = None
    """Which it is said to be in."""
    unisons: frozenset[int] = frozenset()
    """Those of its notes that it has as the second head of a key."""


@dataclass(slots=True)
class _Chain:
    """A voice as it grows."""

    part: Part
    number: int | None = None
    """Where it was said."""
    events: list[Event] = field(default_factory=list)
    spans: dict[int, list[Span]] = field(default_factory=dict)
    """By bar."""

    def is_free(self, event: Event) -> bool:
        return not self.events or self.events[-1].end <= event.start

    def takes(self, event: Event) -> bool:
        """Does it have a rhythm with this chord?"""
        for bar, span in _by_bar(self.part, event):
            spans = [*self.spans.get(bar.number, ()), span]
            is_plain = all(tick % FINEST == 0 for each in spans for tick in each)
            if not is_plain and not is_writable(bar.meter, spans):
                return False
        return True

    def add(self, event: Event) -> None:
        self.events.append(event)
        for bar, span in _by_bar(self.part, event):
            self.spans.setdefault(bar.number, []).append(span)

    @property
    def height(self) -> float:
        """The mean pitch, by length."""
        ticks = [event.end - event.start for event in self.events]
        return sum(e.pitch * t for e, t in zip(self.events, ticks, strict=True)) / max(1, sum(ticks))


def voices(part: Part, events: Iterable[Event]) -> list[list[Event]]:
    """Return the voices of a staff, the first one first; empty ones stand for numbers that are said of others.

    What is said to be in a voice is in it; no voice has two chords at once.
    """
    ordered = sorted(events, key=lambda e: (e.start, -e.pitch))
    given = max((e.voice or 0 for e in ordered), default=0)
    by_number: list[list[Event]] = [[] for _ in range(max(1, given))]
    if given:
        chains = _chained(part, ordered, [_Chain(part, number) for number in range(1, given + 1)])
        _number(chains, by_number)
    else:
        for cluster in _clusters(part, ordered):
            _number(_chained(part, cluster, []), by_number)
    return [_settled(part, events) for events in by_number]


def _clusters(part: Part, events: Sequence[Event]) -> Iterable[list[Event]]:
    """Stretches between beats at which nothing is held: within a beat, rhythms depend on each other."""
    cluster: list[Event] = []
    until = 0
    for event in events:
        if cluster and event.start >= _next_beat(part, until):
            yield cluster
            cluster = []
        until = max(until, event.end) if cluster else event.end
        cluster.append(event)
    if cluster:
        yield cluster


def _next_beat(part: Part, tick: int) -> int:
    """The beat that begins at a tick, or the next one."""
    bar = part.meters.bar_at(tick)
    beat = bar.meter.beat_ticks
    return min(bar.end_tick, tick + -(tick - bar.start_tick) % beat)


def _chained(part: Part, events: Sequence[Event], chains: list[_Chain]) -> list[_Chain]:
    for _, struck in groupby(events, key=lambda e: e.start):
        waiting = []
        # What is said to be in a voice takes its place there before the others look for one.
        for event in struck:
            own = chains[event.voice - 1] if event.voice else None
            if own is not None and own.is_free(event):
                own.add(event)
            else:
                waiting.append(event)
        while waiting:
            pairs = [
                (abs(chain.events[-1].pitch - event.pitch) if chain.events else 0.0, k, n)
                for k, event in enumerate(waiting)
                for n, chain in enumerate(chains)
                if chain.is_free(event) and chain.takes(event)
            ]
            if pairs:
                _, k, n = min(pairs)
                chains[n].add(waiting.pop(k))
                continue
            event = waiting.pop(0)
            if len(chains) < MAX_VOICES:
                chains.append(_Chain(part))
                chains[-1].add(event)
            else:
                # More lines than can be read: its own, or the one that ends first, is cut short or takes the chord in.
                _put(
                    chains[event.voice - 1] if event.voice else min(chains, key=lambda c: c.events[-1].end),
                    event,
                )
    return chains


def _put(chain: _Chain, event: Event) -> None:
    """Behind what is there, which is cut short where it would sound on; what begins at once is one chord."""
    last = chain.events[-1] if chain.events else None
    if last is not None and last.start == event.start:
        chain.events.pop()
        event = _joined(last, event)
    elif last is not None and last.end > event.start:
        chain.events[-1] = replace(last, end=event.start)
    chain.add(event)
    touched = {
        bar.number for each in (last, event) if each is not None for bar, _ in _by_bar(chain.part, each)
    }
    for number in touched:
        chain.spans.pop(number, None)
    for each in chain.events[-MAX_IN_BAR:]:
        for bar, span in _by_bar(chain.part, each):
            if bar.number in touched:
                chain.spans.setdefault(bar.number, []).append(span)


def _joined(first: Event, second: Event) -> Event:
    return replace(first, end=max(first.end, second.end), notes=first.notes + second.notes)


def _number(chains: Sequence[_Chain], by_number: list[list[Event]]) -> None:
    """Give chains their numbers: those that are said, then the others from the highest down."""
    taken = {chain.number for chain in chains if chain.number is not None}
    free = iter(n for n in range(1, 2 * MAX_VOICES + 1) if n not in taken)
    numbered = [(chain.number, chain) for chain in chains if chain.number is not None]
    unnamed = sorted((c for c in chains if c.number is None), key=lambda c: -c.height)
    for number, chain in [*numbered, *((next(free), chain) for chain in unnamed)]:
        while len(by_number) < number:
            by_number.append([])
        by_number[number - 1] += chain.events


def _settled(part: Part, events: Sequence[Event]) -> list[Event]:
    """A voice with bars whose rhythm cannot be written put to demisemiquavers there."""
    spans: dict[int, list[Span]] = {}
    bars: dict[int, Bar] = {}
    for event in events:
        for bar, span in _by_bar(part, event):
            spans.setdefault(bar.number, []).append(span)
            bars[bar.number] = bar
    wrong = {number for number, inside in spans.items() if not is_writable(bars[number].meter, inside)}
    if not wrong:
        return list(events)

    def settled(tick: int) -> int:
        bar = part.meters.bar_at(tick)
        return round(tick / FINE) * FINE if bar.number in wrong and tick > bar.start_tick else tick

    made: list[Event] = []
    for event in events:
        start = settled(event.start)
        moved = replace(event, start=start, end=max(settled(event.end), start + FINE))
        if made and made[-1].start == moved.start:
            made[-1] = _joined(made[-1], moved)
        else:
            if made and made[-1].end > moved.start:
                made[-1] = replace(made[-1], end=moved.start)
            made.append(moved)
    return made


def _by_bar(part: Part, event: Event) -> Iterable[tuple[Bar, Span]]:
    """The bars that a chord sounds in, and where in each."""
    at = event.start
    while at < event.end:
        bar = part.meters.bar_at(at)
        yield bar, (at - bar.start_tick, min(event.end, bar.end_tick) - bar.start_tick)
        at = bar.end_tick


def strokes(part: Part, numbers: Sequence[int], onsets: Sequence[int]) -> list[Event]:
    """Return drum strokes as chords: each lasts until the next one, within its beat."""
    by_tick: dict[int, list[int]] = {}
    for i in numbers:
        by_tick.setdefault(onsets[i], []).append(i)
    ticks = sorted(by_tick)
    events = []
    for tick, after in zip_longest(ticks, ticks[1:]):
        bar = part.meters.bar_at(tick)
        beat_end = tick + bar.meter.beat_ticks - (tick - bar.start_tick) % bar.meter.beat_ticks
        end = beat_end if after is None else min(beat_end, after)
        events.append(Event(start=tick, end=end, notes=tuple(by_tick[tick]), pitch=0.0))
    return _settled(part, events)
