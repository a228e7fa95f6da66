"""Pads that send other numbers than the kit's: which lane each stands for, by where it was struck."""

from collections import Counter
from collections.abc import Iterable
from dataclasses import dataclass, replace

from ear.matching.outcome import Outcome
from ear.notes import STANDARD_KIT, KitMap, Lane, Part, Take

MIN_STROKES = 3
MIN_SHARE = 0.75
"""Of the pad's strokes that stood where a lane is written: fewer, and the hand was wrong, not the kit."""


ZONES = {37: "snare"}
"""Numbers of drums that are a zone of another drum's pad."""


@dataclass(frozen=True, slots=True, kw_only=True)
class PadChoice:
    """A pad's number, and the lane that it seems to stand for: `count` of its `of` strokes."""

    number: int
    lane: Lane
    count: int
    of: int


Row = tuple[int | None, int | None, Outcome]
"""Numbers of a written and of a played note, and what became of them."""


def find_pad_choices(
    part: Part, take: Take, rows: Iterable[Row], *, kit: KitMap = STANDARD_KIT
) -> tuple[PadChoice, ...]:
    """Find pads by which no lane of the part is played, and which are struck where one and the same lane is
    written, in order of number.

    Instruments without lanes have none. `take` is the take as it was matched.
    """
    if not part.instrument.has_lanes:
        return ()
    strokes = Counter(note.pitch for note in take.notes)
    written = {kit.fold(pitch) for pitch in part.pitches.tolist()}
    stood: dict[int, Counter[int]] = {}
    for target, played, outcome in rows:
        if outcome is Outcome.WRONG_PITCH and target is not None and played is not None:
            number = take.notes[played].pitch
            stood.setdefault(number, Counter())[kit.fold(part.notes[target].pitch)] += 1
    choices = []
    for number in sorted(stood):
        lane, count = stood[number].most_common(1)[0]
        own = kit.lane(number)
        # A drum that is known is another drum: an open hat for a closed one is the foot's doing, no set-up. But the
        # stick across the snare is struck on the snare's own pad.
        is_known = kit.fold(number) in written or (
            own in kit.lanes and ZONES.get(number) != kit.lane(lane).name
        )
        if not is_known and count >= MIN_SHARE * strokes[number]:
            choices.append(PadChoice(number=number, lane=kit.lane(lane), count=count, of=strokes[number]))
    # Once it is clear that the kit is another one, a single stroke on an unknown pad is of it, too.
    is_other = any(choice.count >= MIN_STROKES for choice in choices)
    return tuple(
        choice
        for choice in choices
        if choice.count >= MIN_STROKES or (is_other and kit.lane(choice.number) not in kit.lanes)
    )


def kit_with(choices: Iterable[PadChoice], *, kit: KitMap = STANDARD_KIT) -> KitMap:
    """Return the kit with these pads in the lanes that they stand for."""
    lane_of = {one.number: one.lane.name for one in choices}
    lanes = []
    for lane in kit.lanes:
        own = [number for number in lane.pitches if lane_of.get(number, lane.name) == lane.name]
        new = [number for number, name in lane_of.items() if name == lane.name and number not in own]
        if own or new:
            lanes.append(replace(lane, pitches=(*own, *new)))
    return KitMap(tuple(lanes))


def is_on_one_pad(part: Part, take: Take, *, kit: KitMap = STANDARD_KIT) -> bool:
    """Return whether all strokes of a part for several lanes are on one of them."""
    return (
        part.instrument.has_lanes
        and len(take.notes) >= MIN_STROKES
        and len({kit.fold(note.pitch) for note in take.notes}) == 1
        and len({kit.fold(pitch) for pitch in part.pitches.tolist()}) > 1
    )
