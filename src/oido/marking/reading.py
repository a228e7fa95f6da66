"""A stored take read once, for all that a page says of it."""

from dataclasses import dataclass
from functools import cached_property
from typing import Any

from ear.drawing.boxes import Overlay, Played
from ear.drawing.verdicts import EVERYTHING, RowAt, Selection, Verdict, faults, selected_rows, verdict
from ear.marking.levels import Window
from ear.notes import STANDARD_KIT, Part
from ear.notes import Take as EarTake
from oido.takes.bars import forgiven_ms
from oido.takes.models import Take


@dataclass(frozen=True)
class Reading:
    """A take with its target, what was played, and what was measured. Nothing is measured anew."""

    take: Take

    @cached_property
    def part(self) -> Part:
        return self.take.target()

    @cached_property
    def played(self) -> EarTake:
        return self.take.read()

    @property
    def result(self) -> dict[str, Any]:
        result: dict[str, Any] = self.take.measurement.result
        return result

    @cached_property
    def overlay(self) -> Overlay:
        result = self.result
        return Overlay(
            take=self.played,
            rows=[Played.from_json(row) for row in result["pairs"]],
            window=Window(**result["window"]),
            forgiven_ms=forgiven_ms(result),
            tempo_ratio=result["measures"]["tempo_ratio"],
        )

    @cached_property
    def _all(self) -> list[RowAt]:
        return selected_rows(self.part, self.overlay, EVERYTHING, kit=STANDARD_KIT)

    def rows(self, selection: Selection = EVERYTHING) -> list[RowAt]:
        """What is looked at, in order of place."""
        if selection.is_all:
            return self._all
        return selected_rows(self.part, self.overlay, selection, kit=STANDARD_KIT)

    def notes_of_pass(self, number: int) -> frozenset[int]:
        """Notes of the take that were played in one pass, counted from 1."""
        return frozenset(k for k, laid in enumerate(self.take.pass_of_notes()) if laid == number - 1)

    def verdict(self, at: RowAt) -> Verdict:
        return verdict(at.row, self.overlay)

    def faults(self, selection: Selection = EVERYTHING) -> list[RowAt]:
        return faults(self.rows(selection), self.overlay)
