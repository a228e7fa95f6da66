"""The notes that cost a take most, criterion by criterion."""

from dataclasses import dataclass
from typing import Any

from ear.drawing.verdicts import note_id
from ear.labels import Conventions
from ear.marking.basis import basis_from_json
from ear.marking.levels import level_named
from ear.marking.marks import Mark, mark
from oido.marking.looking import VERDICT_NAMES
from oido.marking.reading import Reading
from oido.takes.services import rubric_of

SHOWN = 5


@dataclass(frozen=True, slots=True, kw_only=True)
class CostlyNote:
    """A note, where it is, what became of it, and the points of the total that it cost."""

    id: str
    name: str
    bar: int
    beat: int
    verdict: Any
    deviation_ms: float | None
    points: float


def marked(reading: Reading) -> Mark:
    """The machine's mark of a stored take, with its costs note by note."""
    level = level_named(reading.take.assignment.exercise.level)
    return mark(basis_from_json(reading.result), level=level, rubric=rubric_of(reading.take))


def costliest(reading: Reading, conventions: Conventions) -> dict[str, list[CostlyNote]]:
    """By criterion, those that cost most; criteria whose cost lies in no notes are left out."""
    places = {(at.row.target, at.row.take): at for at in reading.rows()}
    pairs = reading.result["pairs"]
    part = reading.part
    found: dict[str, list[CostlyNote]] = {}
    for criterion in marked(reading).criteria:
        worst = sorted(criterion.costs, key=lambda cost: (-cost.points, cost.row))[:SHOWN]
        for cost in worst:
            pair = pairs[cost.row]
            at = places[pair["target"], pair["take"]]
            place = part.meters.position(
                max(0, at.tick if pair["target"] is None else part.notes[pair["target"]].onset_tick)
            )
            pitch = (
                part.notes[pair["target"]].pitch
                if pair["target"] is not None
                else reading.played.notes[pair["take"]].pitch
            )
            found.setdefault(str(criterion.name), []).append(
                CostlyNote(
                    id=note_id(at.row),
                    name=conventions.sound(part, pitch, tick=max(0, round(at.tick))),
                    bar=place.bar,
                    beat=place.beat,
                    verdict=VERDICT_NAMES[reading.verdict(at)],
                    deviation_ms=pair["deviation_ms"],
                    points=cost.points,
                )
            )
    return found
