"""The notes that cost a take most, criterion by criterion."""

from dataclasses import dataclass
from typing import Any

from ear.criteria.table import VERDICT_OF
from ear.criteria.timing import TIMING
from ear.drawing.verdicts import place_of_row
from ear.note_place import NotePlace
from ear.reader import Reader
from oido.reports.analysed_take import AnalysedTake
from oido.reports.view_options import VERDICT_NAMES

SHOWN = 5


@dataclass(frozen=True, slots=True, kw_only=True)
class CostlyNote:
    """A note, where it is, for what it lost here, and the points of the total that it cost.

    `deviation_ms` where it is the note's place in time that cost them.
    """

    place: NotePlace
    name: str
    bar: int
    beat: int
    why: Any
    deviation_ms: float | None
    points: float


def costliest(analysed: AnalysedTake, reader: Reader) -> dict[str, list[CostlyNote]]:
    """Return the most costly rows by criterion. Criteria whose cost lies in no notes are left out."""
    places = {at.row.number: at for at in analysed.rows()}
    part = analysed.part
    costliest: dict[str, list[CostlyNote]] = {}
    for criterion in analysed.judgement.criteria:
        if not criterion.weight:
            continue
        lost = criterion.losses
        losses = zip(lost.row, lost.points, lost.why, strict=True)
        for number, points, why in sorted(losses, key=lambda loss: (-loss[1], loss[0]))[:SHOWN]:
            at = places[number]
            row = at.row
            position = part.meters.position(
                max(0, at.tick if row.target is None else part.notes[row.target].onset_tick)
            )
            if row.target is not None:
                pitch = part.notes[row.target].pitch
            else:
                assert row.take is not None
                pitch = analysed.played.notes[row.take].pitch
            costliest.setdefault(criterion.name, []).append(
                CostlyNote(
                    place=place_of_row(row),
                    name=reader.sound(part, pitch, tick=max(0, round(at.tick))),
                    bar=position.bar,
                    beat=position.beat,
                    why=VERDICT_NAMES[VERDICT_OF[why]],
                    deviation_ms=row.judged_ms if criterion.name == TIMING else None,
                    points=points * criterion.weight / 100.0,
                )
            )
    return costliest
