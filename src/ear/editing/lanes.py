"""Lanes of a drum part by names and in an order of its own, written as text: one a line, “kick = bass drum”."""

from dataclasses import replace

from ear.errors import UnknownName, ValueOutOfRange
from ear.notes import STANDARD_KIT, KitMap, OwnLane, Part

IS = "="


def lanes_as_text(part: Part, kit: KitMap = STANDARD_KIT) -> str:
    """Return the lanes that a part names or uses, one a line, in its order."""
    used = {kit.lane(n.pitch).name for n in part.notes}
    known = {own.lane: own.name for own in part.lanes}
    names = [lane.name for lane in kit.lanes if lane.name in used and lane.name not in known]
    lines = [lane if lane == name else f"{lane} {IS} {name}" for lane, name in known.items()]
    return "\n".join([*lines, *names])


def name_lanes(part: Part, text: str, kit: KitMap = STANDARD_KIT) -> Part:
    """Return the part with its lanes named and ordered as the lines say; a lane without a line keeps the kit's
    name.

    Raises UnknownName.

    Raises UnknownName for a lane that the kit has not, ValueOutOfRange for one that is named twice, or a name that
    two lanes have.
    """
    if not part.instrument.has_lanes:
        raise ValueOutOfRange("instrument_without_lanes")
    by_name = {lane.name: lane for lane in kit.lanes}
    own_lanes: list[OwnLane] = []
    for line in text.splitlines():
        lane, _, named = (" ".join(word.split()) for word in line.partition(IS))
        if not lane:
            continue
        if lane.lower() not in by_name:
            raise UnknownName(kind="lane", name=lane, known=tuple(by_name))
        own_lanes.append(OwnLane(lane=lane.lower(), name=named or lane.lower()))
    names = [named.name.lower() for named in own_lanes]
    others = {name for name in by_name if name not in {named.lane for named in own_lanes}}
    if len(set(names)) < len(names) or others & set(names):
        raise ValueOutOfRange("lane_name_taken", field="lanes")
    return replace(part, lanes=tuple(own_lanes))
