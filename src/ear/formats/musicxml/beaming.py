"""Beams and tuplets as MusicXML has them: at each note what begins, goes on and ends."""

from collections.abc import Sequence
from itertools import groupby

from ear.notation.beams import MIN_BEAM
from ear.notation.written_notes import Written


def beam_numbers(line: Sequence[Written]) -> list[tuple[str, ...]]:
    """Return for each written note its beams, from the first: begin, continue, end, or a hook."""
    beam_numbers: list[tuple[str, ...]] = [()] * len(line)
    for group, members in groupby(range(len(line)), key=lambda k: line[k].group):
        inside = list(members)
        if not group:
            continue
        counts = [line[k].value.base.bit_length() - MIN_BEAM.bit_length() + 1 for k in inside]
        for at, k in enumerate(inside):
            beams = []
            for level in range(1, counts[at] + 1):
                has_before = at > 0 and counts[at - 1] >= level
                has_after = at + 1 < len(inside) and counts[at + 1] >= level
                if has_before and has_after:
                    beams.append("continue")
                elif has_before or has_after:
                    beams.append("end" if has_before else "begin")
                else:
                    beams.append("backward hook" if at else "forward hook")
            beam_numbers[k] = tuple(beams)
    return beam_numbers


def tuplet_edges(line: Sequence[Written]) -> dict[int, str]:
    """Return where tuplets begin and end, by the number of the note."""
    edges: dict[int, str] = {}
    for tuplet, members in groupby(range(len(line)), key=lambda k: line[k].tuplet):
        inside = list(members)
        if tuplet is not None:
            edges[inside[0]] = "start"
            edges[inside[-1]] = f"{edges.get(inside[-1], '')} stop".strip()
    return edges
