"""Notes that are nearly right: a drum of the same family, the foot for the stick, a hand in another octave."""

from collections.abc import Sequence

from ear.findings.context import Context
from ear.matching.outcome import Outcome
from ear.notes import FOOT_HAT, is_one_family

NEARLY = "nearly"
"""Column of the facts: what of a right note such a one is worth; None for all others."""
FAMILY_WORTH, FOOT_WORTH, OCTAVE_WORTH = 0.5, 0.9, 0.5


def nearly_right(c: Context) -> Sequence[float | None]:
    """Return the column NEARLY."""
    worth: list[float | None] = [None] * len(c.part.notes)
    if not c.part.instrument.has_lanes and not c.match.octaves:
        return worth
    octaves = {hand for hand, _ in c.match.octaves}
    foot = FOOT_HAT.pitches[0]
    has_foot = foot in c.part.pitches
    for pair in c.links:
        if pair.target is None or pair.take is None:
            continue
        note, played = c.part.notes[pair.target], c.take.notes[pair.take].pitch
        if c.part.instrument.has_lanes:
            if pair.outcome is Outcome.MATCHED and played == foot and not has_foot:
                worth[pair.target] = FOOT_WORTH
            elif pair.outcome is Outcome.WRONG_PITCH and is_one_family(
                c.part.lane_name(note.pitch, c.kit), c.part.lane_name(played, c.kit)
            ):
                worth[pair.target] = FAMILY_WORTH
        elif pair.outcome is Outcome.WRONG_PITCH and note.hand in octaves:
            worth[pair.target] = OCTAVE_WORTH
    return worth
