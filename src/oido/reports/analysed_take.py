"""A stored take read once, for all that a page says of it."""

from dataclasses import dataclass
from functools import cached_property

from ear.drawing.boxes import Overlay, overlay_of
from ear.drawing.verdicts import EVERYTHING, RowAt, Selection, faults, selected_rows
from ear.facts.facts import Facts
from ear.judging.judgement import Judgement
from ear.judging.rubric import Rubric
from ear.notes import STANDARD_KIT, Part
from ear.notes import Take as EarTake
from oido.takes.judging import Judged, judged
from oido.takes.models import Take


@dataclass(frozen=True)
class AnalysedTake:
    """A take with its target, what was played, what happened, and what it is worth. Nothing is measured
    anew."""

    take: Take

    @cached_property
    def part(self) -> Part:
        return self.take.target()

    @cached_property
    def played(self) -> EarTake:
        return self.take.read()

    @cached_property
    def judged(self) -> Judged:
        return judged(self.take)

    @property
    def facts(self) -> Facts:
        return self.judged.facts

    @property
    def judgement(self) -> Judgement:
        return self.judged.judgement

    @property
    def rubric(self) -> Rubric:
        return self.judged.rubric

    @cached_property
    def overlay(self) -> Overlay:
        return overlay_of(self.played, self.facts, self.judgement)

    @cached_property
    def _all(self) -> list[RowAt]:
        return selected_rows(self.part, self.overlay, EVERYTHING, kit=STANDARD_KIT)

    def rows(self, selection: Selection = EVERYTHING) -> list[RowAt]:
        """Return the rows to look at, in order of place."""
        if selection.is_all:
            return self._all
        return selected_rows(self.part, self.overlay, selection, kit=STANDARD_KIT)

    def notes_of_pass(self, number: int) -> frozenset[int]:
        """Return the notes of the take played in one pass, counted from 1."""
        return frozenset(k for k, laid in enumerate(self.take.pass_of_notes()) if laid == number - 1)

    def faults(self, selection: Selection = EVERYTHING) -> list[RowAt]:
        return faults(self.rows(selection))
