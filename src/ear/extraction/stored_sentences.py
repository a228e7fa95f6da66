"""Ear notes of the first release, which stored their sentences instead of what they were made of."""

from dataclasses import dataclass

from ear.criteria.table import FINDINGS
from ear.findings.finding import Finding
from ear.findings.kind import FOR_TEACHER, FindingKind, PlayedOn, Tone
from ear.text import EMPTY, Text


@dataclass(frozen=True, kw_only=True)
class StoredSentences(Finding):
    """What was told then, word for word."""

    cause: str
    """The code of what was heard."""
    teacher: str
    student: str
    stored_size: float
    stored_unit: str
    stored_place: str | None
    stored_quarter: float | None

    @property
    def kind(self) -> FindingKind:
        """What depends on the cause; of one that is no longer known, only what holds for any."""
        known = FINDINGS.get(self.cause)
        if known is not None:
            return known.KIND
        return FindingKind(code=self.cause, tone=Tone.FACT, share=None, teacher=EMPTY, student=EMPTY)

    @property
    def size(self) -> float:
        """As it was stored."""
        return self.stored_size

    @property
    def unit(self) -> str:
        """As it was stored."""
        return self.stored_unit

    @property
    def place(self) -> str | None:
        """As it was stored."""
        return self.stored_place

    @property
    def quarter(self) -> float | None:
        """As it was stored."""
        return self.stored_quarter

    def text(self, to: str, played_on: PlayedOn) -> Text:
        """Return the sentence that was stored."""
        sentence = self.teacher if to == FOR_TEACHER else self.student
        return Text(singular=sentence.replace("{", "{{").replace("}", "}}"))
