"""Ladders proposed for a part: what a teacher would practise first, and what after it."""

from collections.abc import Iterable, Sequence
from itertools import groupby, pairwise

import numpy as np

from ear.editing.picking import pick
from ear.editing.sections import stretches
from ear.labels.chord_cards import MIN_NOTES, chord_names
from ear.notes import STANDARD_KIT, Hand, KitMap, Note, Part
from ear.practice.ladder import MAX_NAME_LENGTH, MAX_RUNGS, Ladder, Rung
from ear.reader import ENGLISH, Reader
from ear.text import gettext_noop, ngettext_lazy
from ear.words.phrases import describe_bars

SLOW, MIDDLE, WHOLE, FASTER = 60, 80, 100, 110
"""Tempos of rungs, in per cent of the exercise's."""
PHRASE_BARS = 4
MAX_MOVES = 16
"""Moves of a bar that get rungs of their own."""
ALL, ALL_SLOWLY = gettext_noop("all"), gettext_noop("all, slowly")
A_LITTLE_FASTER = gettext_noop("a little faster")
CHANGE = gettext_noop("{first} to {second}")
MOVES = ngettext_lazy("move {first}", "moves {first} to {last}")
KICK_AND_SNARE, WITH_LANE = gettext_noop("kick and snare"), gettext_noop("with {lane}")
INTO = gettext_noop("into {place}")
HANDS = {Hand.RIGHT: gettext_noop("{phrase}, right hand"), Hand.LEFT: gettext_noop("{phrase}, left hand")}
TOGETHER = gettext_noop("{phrase}, together")


def propose_ladder(
    part: Part,
    *,
    by_moves: bool = True,
    is_free: bool = False,
    kit: KitMap = STANDARD_KIT,
    reader: Reader = ENGLISH,
) -> Ladder:
    """Return the ladder that a teacher would make for a part, with rungs named for `reader`.

    Chords: each alone, each change, then the whole. Drums: each move of the first bar and the moves one after
    the other (if `by_moves`, and if more than one lane is struck there), lane by lane, the whole, then faster. Other keyboard parts: hands separately, phrase by phrase,
    together slowly, the whole, then faster. A part without notes has an empty ladder, unless it is the page of a
    free exercise: that goes phrase by phrase.
    """
    if is_free:
        return Ladder(rungs=tuple(_melody_rungs(part, reader)[:MAX_RUNGS]))
    if not part.notes:
        return Ladder()
    if part.instrument.has_lanes:
        rungs = [*(_move_rungs(part, kit, reader) if by_moves else ()), *_drum_rungs(part, kit, reader)]
    elif _is_chordal(part):
        rungs = _chord_rungs(part, reader)
    else:
        rungs = _melody_rungs(part, reader)
    return Ladder(rungs=tuple(rungs[:MAX_RUNGS]))


def _is_chordal(part: Part) -> bool:
    """Two chords or more, and half of what is struck strikes three keys at once: not a tune under chord names."""
    _ticks, struck_at_once = np.unique(part.onset_ticks, return_counts=True)
    return len(chord_names(part)) >= 2 and 2 * int((struck_at_once >= MIN_NOTES).sum()) >= len(struck_at_once)


def _whole(part: Part, name: str, tempo: int) -> Rung:
    return Rung(
        name=name,
        first_bar=part.first_bar,
        last_bar=part.last_bar,
        tempo_percent=tempo,
        loops=3,
        needed_loops=1,
    )


def _chord_rungs(part: Part, reader: Reader) -> list[Rung]:
    """Each chord in its bar, each change from one bar to the next, the whole."""
    names: dict[int, list[str]] = {}
    for tick, name in chord_names(part).items():
        names.setdefault(part.meters.bar_at(tick).number, []).append(name)
    bars = sorted(names)
    rungs: list[Rung] = []
    seen: set[tuple[str, ...]] = set()
    for bar in bars:
        key = tuple(names[bar])
        if key not in seen:
            seen.add(key)
            rungs.append(Rung(name=" ".join(key), first_bar=bar, last_bar=bar, tempo_percent=SLOW))
    changes: set[tuple[tuple[str, ...], ...]] = set()
    for bar, after in pairwise(bars):
        pair = (tuple(names[bar]), tuple(names[after]))
        if after == bar + 1 and pair[0] != pair[1] and pair not in changes:
            changes.add(pair)
            title = reader.say(CHANGE, {"first": " ".join(pair[0]), "second": " ".join(pair[1])})[
                :MAX_NAME_LENGTH
            ]
            rungs.append(Rung(name=title, first_bar=bar, last_bar=after, tempo_percent=SLOW))
    rungs.append(_whole(part, reader.say(ALL_SLOWLY, {}), MIDDLE))
    rungs.append(_whole(part, reader.say(ALL, {}), WHOLE))
    return rungs


def _name_moves(first: int, last: int, reader: Reader) -> str:
    return reader.say(MOVES, {"first": first, "last": last, "count": last - first + 1})


def _move_rungs(part: Part, kit: KitMap, reader: Reader) -> list[Rung]:
    """Moves of the first bar, each alone, then one on another. A single lane has none: there each is like the last."""
    first = [n for i, n in enumerate(part.notes) if part.bar_of_note[i] == part.bar_of_note[0]]
    bar = int(part.bar_of_note[0])
    if len({kit.fold(n.pitch) for n in first}) == 1:
        return []
    moves = [
        " + ".join(dict.fromkeys(reader.gettext(kit.lane(n.pitch).name) for n in struck))
        for _, struck in groupby(first, key=lambda n: n.onset_tick)
    ]
    # Of a bar with very many moves some are learnt together.
    together = -(-len(moves) // MAX_MOVES)
    spans = [(k, min(k + together - 1, len(moves))) for k in range(1, len(moves) + 1, together)]
    rungs = [
        Rung(
            name=f"{_name_moves(a, b, reader)}: {', '.join(moves[a - 1 : b])}"[:MAX_NAME_LENGTH], first_bar=bar, last_bar=bar,
            moves=(a, b), tempo_percent=SLOW,
        )
        for a, b in spans
    ]  # fmt: skip
    rungs += [
        Rung(name=_name_moves(1, b, reader), first_bar=bar, last_bar=bar, moves=(1, b), tempo_percent=SLOW)
        for _, b in spans[1:]
    ]
    return rungs


def _drum_rungs(part: Part, kit: KitMap, reader: Reader) -> list[Rung]:
    """The lanes one on another, then the whole."""
    rungs: list[Rung] = []
    lanes = _lanes_by_use(part, kit)
    feet_and_snare = [lane for lane in lanes if lane in ("kick", "snare")]
    last = part.last_bar
    if len(lanes) > len(feet_and_snare) > 1:
        rungs.append(
            Rung(
                name=reader.say(KICK_AND_SNARE, {}),
                first_bar=part.first_bar,
                last_bar=last,
                lanes=tuple(feet_and_snare),
                tempo_percent=MIDDLE,
            )
        )
        rungs += [
            Rung(
                name=reader.say(WITH_LANE, {"lane": reader.gettext(lane)}),
                first_bar=part.first_bar,
                last_bar=last,
                lanes=(*feet_and_snare, lane),
                tempo_percent=MIDDLE,
            )
            for lane in lanes
            if lane not in feet_and_snare
        ]
    rungs.append(_whole(part, reader.say(ALL_SLOWLY, {}), MIDDLE))
    rungs.append(_whole(part, reader.say(ALL, {}), WHOLE))
    rungs.append(_whole(part, reader.say(A_LITTLE_FASTER, {}), FASTER))
    return rungs


def _lanes_by_use(part: Part, kit: KitMap) -> list[str]:
    counts: dict[str, int] = {}
    for note in part.notes:
        name = kit.lane(note.pitch).name
        counts[name] = counts.get(name, 0) + 1
    return sorted(counts, key=lambda name: -counts[name])


def _changes_of_tempo(part: Part, reader: Reader) -> list[Rung]:
    """The bar before another tempo with the bar after it."""
    changes = []
    for stretch in stretches(part)[1:]:
        bar = stretch.first_bar
        tick = part.meters.bar(bar).start_tick
        if part.tempos.bpm_at(tick - 1) != part.tempos.bpm_at(tick):
            title = reader.say(INTO, {"place": stretch.name or describe_bars((bar, bar), reader)})[
                :MAX_NAME_LENGTH
            ]
            changes.append(Rung(name=title, first_bar=bar - 1, last_bar=bar, tempo_percent=MIDDLE))
    return changes


def _melody_rungs(part: Part, reader: Reader) -> list[Rung]:
    phrases = list(_phrases(part))
    has_two = {n.hand for n in part.notes} >= {Hand.RIGHT, Hand.LEFT}
    rungs: list[Rung] = []
    name_of = {s.bar: s.name for s in part.sections if s.name}
    for first, last in phrases:
        title = name_of.get(first) or describe_bars((first, last), reader)
        if has_two:
            rungs += [
                Rung(
                    name=reader.say(HANDS[hand], {"phrase": title}),
                    first_bar=first,
                    last_bar=last,
                    hand=hand,
                    tempo_percent=SLOW,
                )
                for hand in Hand
                if any(n.hand is hand for n in _inside(part, first, last))
            ]
        rungs.append(
            Rung(
                name=reader.say(TOGETHER, {"phrase": title}) if has_two else title,
                first_bar=first,
                last_bar=last,
                tempo_percent=SLOW,
            )
        )
    rungs += _changes_of_tempo(part, reader)
    if len(phrases) > 1 or not rungs:
        rungs.append(_whole(part, reader.say(ALL_SLOWLY, {}), MIDDLE))
    rungs.append(_whole(part, reader.say(ALL, {}), WHOLE))
    rungs.append(_whole(part, reader.say(A_LITTLE_FASTER, {}), FASTER))
    return rungs


def _inside(part: Part, first: int, last: int) -> Iterable[Note]:
    return (part.notes[i] for i in pick(part, first_bar=first, last_bar=last))


def _phrases(part: Part) -> Sequence[tuple[int, int]]:
    """Sections where the part has them, else four bars at a time; stretches without notes are left out."""
    bars = part.last_bar
    starts = [s.bar for s in part.sections] or [
        part.first_bar,
        *range(1 + PHRASE_BARS, bars + 1, PHRASE_BARS),
    ]
    spans = zip(starts, [*(s - 1 for s in starts[1:]), bars], strict=True)
    return [
        (first, last)
        for first, last in spans
        if not part.notes or any(True for _ in _inside(part, first, last))
    ]
